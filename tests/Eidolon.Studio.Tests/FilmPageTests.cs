using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Optical;
using Eidolon.Devices;
using Eidolon.StandIns.Video;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests;

/// <summary>Films through the pages: brought in with their cameras, seen at Solve, two solves compared.</summary>
[Trait(LongRun.Run, LongRun.Whole)]
public sealed class FilmPageTests(DemoStudio studio) : IClassFixture<DemoStudio>
{
    private int Take(string name)
    {
        using var db = studio.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();
        return db.Takes.Single(t => t.Name == name).Id;
    }

    [Fact]
    public void Films_that_are_dropped_together_are_one_and_their_cameras_find_them()
    {
        var desk = studio.Services.GetRequiredService<ImportDesk>();
        var first = desk.Put(Csv(0), "quay.csv");
        var both = desk.Join(first, Csv(1), "stairs.csv");
        Assert.Equal(2, both.File.Films!.Films.Count);
        var cameras = Encoding.UTF8.GetBytes(CameraRingJson.Write(new CameraRing(WitnessSimulator.Cameras)));
        var placed = desk.Join(both, cameras, "cameras.json");
        Assert.Equal(first.Id, placed.Id);
        // What the file says of a lens stands, whatever angle the form asks for.
        var corrected = placed.File.Corrected(new Core.Formats.ImportSettings(LensDegrees: 90)).Films!;
        Assert.Equal([WitnessSimulator.Cameras[0].Focal, WitnessSimulator.Cameras[1].Focal], corrected.Cameras.Select(c => c.Focal));
        Assert.All(desk.Find(first.Id)!.File.Films!.Cameras, c => Assert.True(c.IsPlaced));
        Assert.Throws<InvalidInputException>(() => desk.Join(placed, "no camera"u8.ToArray(), "cameras.json"));
        Assert.All(desk.Find(first.Id)!.File.Films!.Cameras, c => Assert.True(c.IsPlaced));
        desk.Drop(first.Id);
    }

    [Fact]
    public async Task The_page_has_points_places_and_pictures_of_every_film()
    {
        var take = Take("HL_044_cam-mend-net_01");
        using var scope = studio.Services.CreateScope();
        var role = scope.ServiceProvider.GetRequiredService<TakeService>().Open(take).Filmed!;
        using var client = new HttpClient { BaseAddress = new Uri(studio.Address) };
        var about = (JsonArray)JsonNode.Parse(await client.GetStringAsync($"/api/takes/{take}/films/{role.Node.Id}"))!;
        Assert.Equal(3, about.Count);
        Assert.Equal(["quay side", "stairs", "shed"], about.Select(a => (string)a!["name"]!));
        for (var k = 0; k < 3; k++)
        {
            var (frames, points, carried) = (
                (int)about[k]!["frames"]!,
                ((JsonArray)about[k]!["points"]!).Count,
                ((JsonArray)about[k]!["carried"]!).Count
            );
            // The body's 25 and two knuckles of each hand.
            Assert.Equal(29, carried);
            var samples = await client.GetByteArrayAsync($"/api/takes/{take}/films/{role.Node.Id}/{k}");
            Assert.Equal(frames * ((points * 3) + (carried * 2)) * 4, samples.Length);
            var picture = await client.GetByteArrayAsync($"/api/takes/{take}/films/{role.Node.Id}/{k}/picture");
            Assert.Equal(frames * WitnessPoints.Strokes * WitnessPoints.StrokeValues * 4, picture.Length);
        }

        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync($"/api/takes/{take}/films/{role.Node.Id}/3")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync($"/api/takes/{take}/films/99999")).StatusCode);
    }

    [Fact]
    public async Task Two_solves_are_laid_over_each_other_and_what_cannot_be_compared_says_why()
    {
        var take = Take("HL_009_lamp-walk_01");
        using var client = new HttpClient { BaseAddress = new Uri(studio.Address) };
        var page = await client.GetStringAsync($"/takes/{take}/compare?a=now&b=now");
        Assert.Contains("The two are alike.", page, StringComparison.Ordinal);
        Assert.Contains("0.0 <small>mm", page, StringComparison.Ordinal);
        var other = Take("HL_040_suit-patrol_01");
        Assert.Contains(
            "hardly are one performance",
            await client.GetStringAsync($"/takes/{take}/compare?a=take:{other}&b=now"),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "That state is gone",
            await client.GetStringAsync($"/takes/{take}/compare?a=version:777&b=now"),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "Nobody is solved yet",
            await client.GetStringAsync($"/takes/{Take("HL_009_lamp-walk_03")}/compare"),
            StringComparison.Ordinal
        );
        Assert.Equal(HttpStatusCode.NotFound, (await client.GetAsync("/takes/99999/compare")).StatusCode);
    }

    [Fact]
    public async Task Films_and_a_suit_of_one_performance_are_compared_and_either_can_be_used()
    {
        var take = Take("HL_044_cam-mend-net_01");
        using var client = new HttpClient { BaseAddress = new Uri(studio.Address) };
        var solve = await client.GetStringAsync($"/takes/{take}/solve");
        Assert.Contains("data-from=\"solve-suit\"", solve, StringComparison.Ordinal);
        // The films are the take's own clock.
        Assert.DoesNotContain("It begins at, s", solve, StringComparison.Ordinal);
        Assert.Matches("aria-pressed=\"true\"\\s+data-from=\"solve-video\"", solve);
        // Both were solved when the production was made: the suit's lies over the floor, for it knows nothing of the room.
        var page = await client.GetStringAsync($"/takes/{take}/compare?a=from:solve-suit&b=now");
        Assert.Matches("<option value=\"floor\"\\s+selected", page);
        Assert.DoesNotContain("hardly are one performance", page, StringComparison.Ordinal);
        Assert.Matches("id=\"apart\">[1-9][0-9]?\\.[0-9] <small>mm", page);

        using var scope = studio.Services.CreateScope();
        var (takes, states, ledger) = (
            scope.ServiceProvider.GetRequiredService<TakeService>(),
            scope.ServiceProvider.GetRequiredService<SolveStates>(),
            scope.ServiceProvider.GetRequiredService<LedgerService>()
        );
        OpenTake.Role Role() => takes.Open(take).Performers.Single();
        var films = Role().Motion!;
        var owner = Storage.Model.LedgerOwner.Take(take);
        await ledger.AtOnce(owner, states.Use(takes.Open(take), Role(), "from:solve-suit")!, null, default);
        var worn = Role();
        Assert.True(worn.Suit);
        Assert.Null(worn.Films);
        Assert.Equal((films.FrameRate, films.FrameCount), (worn.Motion!.FrameRate, worn.Motion.FrameCount));
        Assert.True((double)worn.Solved!.Report["lateSeconds"]! < -10);
        Assert.Contains("It begins at, s", await client.GetStringAsync($"/takes/{take}/solve"), StringComparison.Ordinal);
        // One step back and the films count again.
        await ledger.AtOnce(owner, new Storage.Ledger.TakeBackEntry(), null, default);
        Assert.True(Role().Filmed);
        Assert.Equal(films.Rotations, Role().Motion!.Rotations);
        // A point put right in a film is nothing to the suit: what was solved of it is still at hand.
        var point = new JsonObject
        {
            ["points"] = new JsonArray(
                new JsonObject
                {
                    ["film"] = 0,
                    ["frame"] = 3,
                    ["point"] = "KneeL",
                    ["u"] = 900,
                    ["v"] = 700,
                }
            ),
        };
        await ledger.AtOnce(owner, new Storage.Ledger.AddEntries("film-points", point, worn.Node.Id), null, default);
        Assert.False(Role().State.UpToDate);
        Assert.Equal(worn.Motion.Rotations, states.Find(takes.Open(take), Role(), "from:solve-suit", default).Motion.Rotations);
        await ledger.AtOnce(owner, new Storage.Ledger.TakeBackEntry(), null, default);
    }

    [Fact]
    public async Task A_suit_is_put_beside_a_marked_take_and_leaves_what_was_solved_of_it()
    {
        var take = Take("HL_014_haul-rope_02");
        using var scope = studio.Services.CreateScope();
        var takes = scope.ServiceProvider.GetRequiredService<TakeService>();
        var before = takes.Open(take).Performers.Single();
        Assert.Single(before.Solvers);
        var desk = scope.ServiceProvider.GetRequiredService<ImportDesk>();
        using var table = new MemoryStream();
        SuitCsv.Write(table, StandIns.Inertial.SuitSimulator.WithPoses(before.Motion!, 4));
        var item = desk.Put(table.ToArray(), "tobi-suit.csv");
        using var client = new HttpClient { BaseAddress = new Uri(studio.Address) };
        client.DefaultRequestHeaders.Add("X-Antiforgery", await client.Antiforgery());
        async Task<string> Beside(string place)
        {
            var answer = await client.PostAsync(
                "/record/import?handler=Take",
                new FormUrlEncodedContent(new Dictionary<string, string> { ["id"] = item.Id, ["beside"] = place })
            );
            return await answer.Content.ReadAsStringAsync();
        }

        Assert.Contains(
            $"value=\"{take}:{before.Subject.Id}\"",
            await client.GetStringAsync($"/record/import?file={item.Id}"),
            StringComparison.Ordinal
        );
        Assert.Contains("not on the slate", await Beside("9999:1"), StringComparison.Ordinal);
        Assert.Contains("lies beside HL_014_haul-rope_02", await Beside($"{take}:{before.Subject.Id}"), StringComparison.Ordinal);
        Assert.Null(desk.Find(item.Id));
        // What was recorded is never written over.
        var again = desk.Put(table.ToArray(), "another-suit.csv");
        var import = scope.ServiceProvider.GetRequiredService<TakeImport>();
        Assert.Contains(
            "a suit's recording in HL_014_haul-rope_02 already",
            (await Assert.ThrowsAsync<RefusedException>(() => import.Beside(again.File, $"{take}:{before.Subject.Id}"))).Message,
            StringComparison.Ordinal
        );
        desk.Drop(again.Id);
        var after = takes.Open(take).Performers.Single();
        Assert.Equal(["solve", "solve-suit"], after.Solvers);
        Assert.True(after.State.UpToDate);
        Assert.Equal(before.State.Shown, after.State.Shown);
        // Solved from it, once, the two are laid beside each other.
        var states = scope.ServiceProvider.GetRequiredService<SolveStates>();
        Assert.Contains(
            "not solved from the suit yet",
            Assert.Throws<RefusedException>(() => states.Find(takes.Open(take), after, "from:solve-suit", default)).Message,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void A_motion_that_was_turned_and_moved_is_laid_back_over_the_other()
    {
        using var scope = studio.Services.CreateScope();
        var open = scope.ServiceProvider.GetRequiredService<TakeService>().Open(Take("HL_009_lamp-walk_01"));
        var role = open.Solved.Single();
        var a = new SolveStates.Found(new("now", "now", "This take", true), open, role, role.Motion!, role.State.Shown!.Value);
        var turned = Core.Skeletons.MotionEdits.Turn(
            role.Motion!,
            System.Numerics.Quaternion.CreateFromAxisAngle(System.Numerics.Vector3.UnitY, 0.7f)
        );
        var b = a with { Motion = turned, Content = 1 };
        var pair = new SolvePair(a, b, Core.Quality.Laying.Floor, studio.Services.GetRequiredService<StateNotes>());
        Assert.True(pair.Difference.MeanMillimetres < 1, $"{pair.Difference.MeanMillimetres:0.00} mm");
        var again = Core.Quality.Comparison.Of(role.Motion!, pair.Laid(), Core.Quality.Laying.None);
        Assert.True(again.MeanMillimetres < 1, $"{again.MeanMillimetres:0.00} mm");
        Assert.InRange(pair.WorstFrame, 0, role.Motion!.FrameCount - 1);
    }

    [Fact]
    public async Task A_body_is_held_against_a_character_bone_by_bone()
    {
        var take = Take("HL_009_lamp-walk_01");
        using var scope = studio.Services.CreateScope();
        var node = scope.ServiceProvider.GetRequiredService<TakeService>().Open(take).Solved.Single().Node.Id;
        using var client = new HttpClient { BaseAddress = new Uri(studio.Address) };
        Task<string> Sizes(int against) => client.GetStringAsync($"/takes/{take}/solve?handler=Sizes&node={node}&against={against}");
        var alone = await Sizes(0);
        Assert.Contains("half hips", alone, StringComparison.Ordinal);
        Assert.DoesNotContain(" %", alone, StringComparison.Ordinal);
        // The Lamplighter is 1.45 m, Ines 1.71: every bone of the legs is shorter.
        var lamplighter = await Sizes(studio.Ids("Lamplighter")[0]);
        Assert.Contains("Lamplighter", lamplighter, StringComparison.Ordinal);
        var thigh = lamplighter[lamplighter.IndexOf("<td>thigh</td>", StringComparison.Ordinal)..];
        Assert.Matches("^.{0,400}(−|&#x2212;)1[0-9] %", thigh.ReplaceLineEndings(" "));
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await client.GetAsync($"/takes/{take}/solve?handler=Sizes&node=99999&against=0")).StatusCode
        );
    }

    [Fact]
    public async Task The_other_solve_is_used_and_what_was_there_stays_as_a_version()
    {
        var take = Take("HL_040_suit-patrol_01");
        using var scope = studio.Services.CreateScope();
        var ledger = scope.ServiceProvider.GetRequiredService<LedgerService>();
        var owner = LedgerOwner.Take(take);
        var book = studio.Services.GetRequiredService<Storage.Ledger.LedgerBook>();
        string[] Operations() => [.. book.Read(owner).Nodes.SelectMany(n => n.Entries).Select(e => e.Entry.Operation)];
        var before = Operations();
        await ledger.Name(take, "as it came", CancellationToken.None);
        book.Keep(owner, new Storage.Ledger.AddEntries("close-path", []));
        book.BringUp(owner);
        using var client = new HttpClient { BaseAddress = new Uri(studio.Address) };
        using var db = studio.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();
        var version = db.Versions.Single(v => v.TakeId == take && v.Name == "as it came").Id;
        var page = await client.GetStringAsync($"/takes/{take}/compare?a=version:{version}&b=now");
        Assert.Contains("version as it came", page, StringComparison.Ordinal);
        using var request = new HttpRequestMessage(HttpMethod.Post, $"/takes/{take}/compare?handler=Use")
        {
            Content = new FormUrlEncodedContent(
                new Dictionary<string, string> { ["key"] = $"version:{version}", ["name"] = "with its path closed" }
            ),
        };
        request.Headers.Add("X-Antiforgery", await client.Antiforgery());
        (await client.SendAsync(request)).EnsureSuccessStatusCode();
        Assert.Equal(before, Operations());
        Assert.Contains(
            "close-path",
            db.Versions.AsNoTracking().Single(v => v.Name == "with its path closed").Entries,
            StringComparison.Ordinal
        );
    }

    private static byte[] Csv(int film)
    {
        using var stream = new MemoryStream();
        var values = new float[10 * WitnessPoints.Values];
        Array.Fill(values, 100 + film);
        SampleTableCsv.Write(stream, WitnessPoints.Rate, "px", WitnessPoints.Columns, values, WitnessPoints.Values);
        return stream.ToArray();
    }
}
