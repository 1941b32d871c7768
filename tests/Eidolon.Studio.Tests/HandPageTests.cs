using System.Net;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Hands;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Eidolon.StandIns.Inertial;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.Storage;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests;

/// <summary>Hands and face through the pages: found, seen, put right and put beside a take.</summary>
public sealed class HandPageTests : IAsyncLifetime
{
    /// <summary>A studio for each test: all of them change the one take that has fingers.</summary>
    private readonly DemoStudio _studio = new();

    private const string Signal = "HL_033_signal-wave_01";

    public Task InitializeAsync() => _studio.InitializeAsync();

    public Task DisposeAsync() => _studio.DisposeAsync();

    private int Take(string name)
    {
        using var db = _studio.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();
        return db.Takes.Single(t => t.Name == name).Id;
    }

    private HttpClient Client() => new(new HttpClientHandler { AllowAutoRedirect = true }) { BaseAddress = new Uri(_studio.Address) };

    [Fact]
    public async Task The_solve_shows_fingers_face_and_what_is_wrong_with_them()
    {
        var take = Take(Signal);
        using var client = Client();
        var page = await client.GetStringAsync($"/takes/{take}/solve");
        Assert.Contains("Markers on <b class=\"n\">10 of 10</b> fingers", page);
        Assert.Contains("found by the clap", page);
        Assert.Contains("has the middle&#x27;s marker: exchange the two at Label", page);
        var scene = JsonNode.Parse(await client.GetStringAsync($"/api/takes/{take}/scene?step=solve"))!;
        var figure = scene["figures"]![0]!;
        Assert.Equal(52, ((JsonArray)figure["joints"]!).Count);
        var names = (JsonArray)figure["face"]!["names"]!;
        var weights = await client.GetByteArrayAsync((string)figure["face"]!["weights"]!);
        Assert.Equal((int)figure["frames"]! * names.Count * 4, weights.Length);
        var lanes = ((JsonArray)scene["lanes"]!).Select(l => (string)l!["name"]!).ToArray();
        Assert.Equal(10, lanes.Count(l => l.EndsWith("curls", StringComparison.Ordinal)));
        Assert.Contains("Eyes shut", lanes);
        // The figure has bones for every finger.
        Assert.Equal(HttpStatusCode.OK, (await client.GetAsync((string)figure["mesh"]!)).StatusCode);
    }

    [Fact]
    public async Task A_corrected_label_finds_the_fingers_anew_and_the_finding_is_gone()
    {
        var take = Take(Signal);
        var owner = LedgerOwner.Take(take);
        using var scope = _studio.Services.CreateScope();
        var takes = scope.ServiceProvider.GetRequiredService<TakeService>();
        var book = scope.ServiceProvider.GetRequiredService<LedgerBook>();
        Assert.Contains(RideAlong.Findings(takes.Open(take).Performers[0]), f => f.Kind == "finger");
        takes.Keep(
            take,
            new AddEntries(
                LabelOperations.Exchange.Name,
                new JsonObject
                {
                    ["a"] = "IndexNailR",
                    ["b"] = "MiddleNailR",
                    ["from"] = 1486,
                    ["to"] = 1522,
                }
            )
        );
        Assert.True(takes.Open(take).Performers[0].State.OutOfDate);
        book.BringUp(owner, cancel: CancellationToken.None);
        var role = takes.Open(take).Performers[0];
        Assert.Equal(
            [SolveOperations.Solve.Name, HandOperations.Fingers.Name, HandOperations.Face.Name],
            role.State.Node.Entries.Select(e => e.Operation)
        );
        Assert.DoesNotContain(RideAlong.Findings(role), f => f.Kind == "finger");
        Assert.True(HandSkeleton.HasFingers(role.Motion!.Skeleton));
        // Fingers found again take the place of the first ones.
        takes.Keep(take, new AddEntries(HandOperations.Fingers.Name, []));
        Assert.Equal(3, takes.Open(take).Performers[0].State.Node.Entries.Count);
        takes.Keep(take, new TakeBackEntry());
        takes.Keep(take, new TakeBackEntry());
    }

    [Fact]
    public async Task Gloves_are_put_beside_a_take_and_other_tables_are_refused_with_the_reason()
    {
        var take = Take(Signal);
        var who = _studio.Ids("Ines")[0];
        using var client = Client();
        var token = await client.Antiforgery();
        async Task<string> Put(byte[] bytes, string name)
        {
            using var form = new MultipartFormDataContent
            {
                { new StringContent(token), "__RequestVerificationToken" },
                { new StringContent(who.ToString()), "performer" },
                { new ByteArrayContent(bytes), "file", name },
            };
            using var ask = new HttpRequestMessage(HttpMethod.Post, $"/takes/{take}/solve?handler=Recorded") { Content = form };
            ask.Headers.Add("Origin", _studio.Address);
            return await (await client.SendAsync(ask)).Content.ReadAsStringAsync();
        }

        Assert.Contains("no table of gloves", await Put("a,b\n1,2\n"u8.ToArray(), "notes.csv"));
        var motion = SceneCatalog.Perform("signal-wave", HarbourCast.Ines, 1, 60).Actors[0].Motion;
        var table = new MemoryStream();
        GloveCsv.Write(table, GloveSimulator.Measure(motion, 3));
        Assert.Contains("Fingers from the gloves", await Put(table.ToArray(), "gloves.csv"));
        using var scope = _studio.Services.CreateScope();
        var takes = scope.ServiceProvider.GetRequiredService<TakeService>();
        takes.Keep(take, new AddEntries(HandOperations.Fingers.Name, new JsonObject { ["from"] = "gloves" }));
        scope.ServiceProvider.GetRequiredService<LedgerBook>().BringUp(LedgerOwner.Take(take), cancel: CancellationToken.None);
        var role = takes.Open(take).Performers[0];
        Assert.True(role.State.UpToDate, role.State.Reason);
        Assert.All((JsonArray)role.State.Last(HandOperations.Fingers.Name)!.Report["fingers"]!, f =>
            Assert.True((double)f!["seenFraction"]! > 0.95)
        );
        // Other gloves are a recording of their own, which an entry names; the first one is what it was.
        await using var db = await _studio.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContextAsync();
        Task<List<SampleStream>> Gloves() =>
            db.Streams.AsNoTracking().Where(s => s.TakeId == take && s.Kind == StreamKind.Gloves).OrderBy(s => s.Id).ToListAsync();
        var first = Assert.Single(await Gloves());
        table = new MemoryStream();
        GloveCsv.Write(table, GloveSimulator.Measure(motion, 4));
        await Put(table.ToArray(), "gloves.csv");
        var both = await Gloves();
        Assert.Equal([1, 2], both.Select(RideAlong.NumberOf));
        Assert.Equal((first.Id, first.Content), (both[0].Id, both[0].Content));
        Assert.NotEqual(first.Content, both[1].Content);
        int? Used() =>
            (int?)
                takes.Open(take).Performers[0].State.Node.Entries.Single(e => e.Operation == HandOperations.Fingers.Name).Parameters[
                    "recording"
                ];
        await Asking.Until(() => Used() == 2 && takes.Open(take).Performers[0].State.UpToDate);
        // The one that is used stays; undone, the wrong file can be removed, and the first is there as it came.
        var rides = scope.ServiceProvider.GetRequiredService<RideImport>();
        var refused = await Assert.ThrowsAsync<RefusedException>(() => rides.Remove(take, both[1].Id));
        Assert.Contains("is used", refused.Message, StringComparison.Ordinal);
        takes.Keep(take, new TakeBackEntry());
        Assert.Null(Used());
        Assert.True(takes.Open(take).Performers[0].State.UpToDate);
        await rides.Remove(take, both[1].Id);
        Assert.Equal(first.Content, Assert.Single(await Gloves()).Content);
        // An entry that names a recording which is gone says so, and the take still opens.
        takes.Keep(take, new AddEntries(HandOperations.Fingers.Name, new JsonObject { ["from"] = "gloves" }));
        var named = Assert.Throws<RefusedException>(() =>
            takes.Keep(take, new AddEntries(HandOperations.Fingers.Name, new JsonObject { ["from"] = "gloves", ["recording"] = 2 }))
        );
        Assert.Contains("recording 2", named.Message, StringComparison.Ordinal);
        takes.Keep(take, new TakeBackEntry());
        takes.Keep(take, new TakeBackEntry());
    }

    [Fact]
    public async Task A_motion_with_fingers_goes_onto_a_character()
    {
        var take = Take(Signal);
        using var scope = _studio.Services.CreateScope();
        var ids = _studio.Ids("Ines", "Lamplighter");
        var node = await scope.ServiceProvider.GetRequiredService<CastService>().Play(take, ids[0], ids[1], CancellationToken.None);
        scope
            .ServiceProvider.GetRequiredService<TakeService>()
            .Keep(take, new AddEntries(RetargetOperation.Retarget.Name, new JsonObject { ["travel"] = "scaled" }, node.Id));
        scope.ServiceProvider.GetRequiredService<LedgerBook>().BringUp(LedgerOwner.Take(take), cancel: CancellationToken.None);
        using var client = Client();
        Assert.Equal(HttpStatusCode.OK, (await client.GetAsync($"/takes/{take}/retarget")).StatusCode);
        var cast = scope.ServiceProvider.GetRequiredService<TakeService>().Open(take).Casts.Single();
        Assert.True(cast.Motion is { FrameCount: 2881 }, cast.State.Reason);
    }
}
