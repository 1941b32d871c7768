using System.Net;
using System.Numerics;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Eidolon.Core;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Storage;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests;

/// <summary>A prop goes by the hands of a character: at Retarget, in the take's scene, and when the character goes otherwise.</summary>
public sealed class AttachTests(DemoStudio studio) : IClassFixture<DemoStudio>, IDisposable
{
    private readonly HttpClient _http = new() { BaseAddress = new Uri(studio.Address) };

    public void Dispose() => _http.Dispose();

    private EidolonDb Db() => studio.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();

    private OpenTake Open(int take)
    {
        using var scope = studio.Services.CreateScope();
        return scope.ServiceProvider.GetRequiredService<TakeService>().Open(take);
    }

    private async Task<string> Post(string page, string handler, params (string, string)[] fields)
    {
        var request = new HttpRequestMessage(HttpMethod.Post, $"{page}?handler={handler}")
        {
            Content = new FormUrlEncodedContent(fields.Select(f => KeyValuePair.Create(f.Item1, f.Item2))),
        };
        request.Headers.Add("X-Antiforgery", await _http.Antiforgery());
        return WebUtility.HtmlDecode(await (await _http.SendAsync(request)).Content.ReadAsStringAsync());
    }

    private static double Apart(PropPlaces a, PropPlaces b) =>
        a.Positions.Zip(b.Positions, (x, y) => (double)Vector3.Distance(x, y)).Where(double.IsFinite).Max();

    [Fact]
    public async Task A_pole_is_carried_by_the_hand_follows_its_character_and_is_seen_so_in_the_scene()
    {
        await using var db = Db();
        var take = await db.Takes.SingleAsync(t => t.Name == "HL_009_lamp-walk_01");
        var owner = LedgerOwner.Take(take.Id);
        var book = studio.Services.GetRequiredService<LedgerBook>();
        var page = $"/takes/{take.Id}/retarget";
        var pole = Open(take.Id).Props.Single();
        // The demo has it in her hand: here it begins as it was recorded.
        book.Keep(
            owner,
            new RemoveEntry(
                (await db.Nodes.Include(n => n.Entries).SingleAsync(n => n.TakeId == take.Id && n.Kind == NodeKind.Attached))
                    .Entries.Single()
                    .Id
            )
        );
        Assert.Contains("not on the slate", await Post(page, "Attach", ("prop", "99999")), StringComparison.Ordinal);
        Assert.Contains("Attach to the", await _http.GetStringAsync(page), StringComparison.Ordinal);
        // As her own legs take her, not in the performer's footprints.
        book.Keep(owner, new AddEntries("retarget", new JsonObject { ["travel"] = "scaled" }, Open(take.Id).Casts[0].Node.Id));
        book.BringUp(owner);
        await Post(page, "Attach", ("prop", $"{pole.Subject.Id}"));
        await Asking.Until(() => Open(take.Id).Attached.FirstOrDefault()?.State.Last("attach") is not null);
        var open = Open(take.Id);
        var carried = open.Attached.Single();
        var hand = carried.State.Last("attach")!.Report["hands"]![0]!;
        Assert.Equal((open.Casts[0].Node.Id, "HandR"), ((int)hand["cast"]!, (string?)hand["hand"]));
        // Scaled to shorter legs the way is another one; the recording itself stays what it was.
        Assert.True(Apart(pole.Places!, carried.Places!) > 0.05, $"{Apart(pole.Places!, carried.Places!)}");
        Assert.Equal(0, Apart(pole.Places!, open.Props.Single().Places!));
        Assert.Same(carried.Node, open.AtHand.Single().Node);
        var shown = WebUtility.HtmlDecode(await _http.GetStringAsync(page));
        Assert.Contains("hands within", shown, StringComparison.Ordinal);
        Assert.Contains("Pole, attached", shown, StringComparison.OrdinalIgnoreCase);
        var json = JsonNode.Parse(await _http.GetStringAsync($"/api/takes/{take.Id}/scene?step=retarget"))!["props"]!.AsArray();
        Assert.Equal(["recorded", "attached"], json.Select(p => (string?)p!["goes"]));
        Assert.Equal(pole.Places!.FrameCount * 28, (await _http.GetByteArrayAsync((string)json[1]!["samples"]!)).Length);
        Assert.Single(JsonNode.Parse(await _http.GetStringAsync($"/api/takes/{take.Id}/scene?step=solve"))!["props"]!.AsArray());

        // The take's scene shows it as it is carried.
        var scene = int.Parse(
            Regex.Match((await _http.GetAsync($"/takes/{take.Id}/assemble")).RequestMessage!.RequestUri!.AbsolutePath, "\\d+").Value,
            System.Globalization.CultureInfo.InvariantCulture
        );
        OpenScene.Track Track()
        {
            using var scope = studio.Services.CreateScope();
            return scope.ServiceProvider.GetRequiredService<SceneService>().Open(scene).Tracks.Single(t => t.Subject.Id == pole.Subject.Id);
        }

        book.BringUp(LedgerOwner.Scene(scene));
        Assert.Equal(0, Apart(carried.Places!, Track().Places!), 6);

        // The character goes another way: the prop is out of date, and goes along once it is brought up. So does the scene.
        var node = open.Casts[0].Node.Id;
        book.Keep(owner, new AddEntries("retarget", new JsonObject { ["travel"] = "footprints" }, node));
        Assert.True(Open(take.Id).Attached.Single().State.OutOfDate);
        Assert.Contains("Lantern pole", string.Join(',', Open(take.Id).OutOfDate), StringComparison.OrdinalIgnoreCase);
        book.BringUp(owner);
        var closer = Open(take.Id).Attached.Single().Places!;
        Assert.True(Apart(pole.Places!, closer) < Apart(pole.Places!, carried.Places!) - 0.05);
        book.BringUp(LedgerOwner.Scene(scene));
        Assert.Equal(0, Apart(closer, Track().Places!), 6);

        // Other hands are tried before they are kept; what cannot be is said and changes nothing.
        var refused = Assert.Throws<RefusedException>(() =>
            book.Propose(
                owner,
                new AddEntries("attach", AttachOperation.ParametersOf([new(99_999, BodyRole.HandL, 0, 9)]), carried.Node.Id)
            )
        );
        Assert.Contains("gone", refused.Message, StringComparison.Ordinal);
        Assert.Equal(0, Apart(closer, Open(take.Id).Attached.Single().Places!));
        // With both hands on it the other hand is brought along with the one that leads.
        Assert.Contains("with both hands", await Post(page, "Together"), StringComparison.Ordinal);
        AttachOperation.Hold[] both = [new(node, BodyRole.HandR, 0, closer.FrameCount - 1), new(node, BodyRole.HandL, 300, 500)];
        book.Keep(owner, new AddEntries("attach", AttachOperation.ParametersOf(both), carried.Node.Id));
        book.BringUp(owner);
        double Off() => (double)Open(take.Id).Attached.Single().State.Last("attach")!.Report["hands"]![1]!["millimetres"]!;
        var before = Off();
        Assert.Contains("Both hands on it", await _http.GetStringAsync(page), StringComparison.Ordinal);
        await Post(page, "Together");
        await Asking.Until(() => Open(take.Id).Casts[0].State.Last("together") is not null);
        book.BringUp(owner);
        var apart = (double)Open(take.Id).Casts[0].State.Last("together")!.Report["hands"]![0]!["shortMillimetres"]!;
        Assert.True(before > 10 && Off() < apart + 2 && Off() < before / 2, $"{before} mm before, {Off()} after, {apart} out of reach");
        // What clips is told of the arms as they are now.
        var clips = Open(take.Id).Casts[0].State;
        Assert.Equal(clips.Latest("clipping")!.ToJsonString(), clips.Last("together")!.Report["clipping"]!.ToJsonString());
        Assert.NotEqual(clips.Last("retarget")!.Report["clipping"]!.ToJsonString(), clips.Latest("clipping")!.ToJsonString());
        // Taken back it goes as it was recorded, in the scene too.
        var entry = (await db.Nodes.AsNoTracking().Include(n => n.Entries).SingleAsync(n => n.Id == carried.Node.Id)).Entries.Single();
        Assert.Contains("Attach", await Post(page, "Remove", ("row", $"{entry.Id}")), StringComparison.OrdinalIgnoreCase);
        book.BringUp(LedgerOwner.Scene(scene));
        Assert.Equal(0, Apart(pole.Places!, Track().Places!), 6);
        Assert.Contains("Stands where it was recorded", await _http.GetStringAsync(page), StringComparison.Ordinal);

        // Nobody holds the crate of a take that has none, and a take without a cast has no hands.
        var hop = await db.Takes.SingleAsync(t => t.Name == "HL_030_gangplank-hop_02");
        Assert.Contains(
            "not on the slate",
            await Post($"/takes/{hop.Id}/retarget", "Attach", ("prop", $"{pole.Subject.Id}")),
            StringComparison.Ordinal
        );
    }
}
