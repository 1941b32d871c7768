using System.Net;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Eidolon.Core;
using Eidolon.Core.Characters;
using Eidolon.Core.Characters.Binding;
using Eidolon.Core.Characters.Preparing;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.Storage;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests;

/// <summary>Characters are made ready, kept and locked; their maps serve rigs alike; a cast is given to a whole day; a report tells what came of it.</summary>
[Trait(LongRun.Run, LongRun.Whole)]
public sealed class PrepareTests(DemoStudio studio) : IClassFixture<DemoStudio>, IDisposable
{
    private readonly HttpClient _http = new() { BaseAddress = new Uri(studio.Address) };

    public void Dispose() => _http.Dispose();

    private SubjectLibrary Library => studio.Services.GetRequiredService<SubjectLibrary>();

    private EidolonDb Db() => studio.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();

    private async Task<int> New(string name, string figure)
    {
        await using var db = Db();
        var id = (await Library.Add(db.Productions.OrderBy(p => p.Id).First().Id, SubjectKind.Character, name)).Id;
        await Library.Dress(id, HarbourCharacters.Build(figure), figure + ".glb");
        return id;
    }

    private async Task<(HttpStatusCode Status, string Text, string Trigger)> Post(
        string page,
        string handler,
        params (string, string)[] fields
    )
    {
        var token = Regex.Match(await _http.GetStringAsync(page), "name=\"antiforgery\" content=\"([^\"]+)\"").Groups[1].Value;
        var request = new HttpRequestMessage(HttpMethod.Post, $"{page}?handler={handler}")
        {
            Content = new FormUrlEncodedContent(fields.Select(f => KeyValuePair.Create(f.Item1, f.Item2))),
        };
        request.Headers.Add("X-Antiforgery", token);
        var answer = await _http.SendAsync(request);
        var trigger = answer.Headers.TryGetValues("HX-Trigger", out var values) ? values.First() : string.Empty;
        return (answer.StatusCode, WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync()), trigger);
    }

    [Fact]
    public async Task Weights_are_painted_on_both_sides_taken_back_and_kept_as_a_version()
    {
        var id = await New("Painted", "Stevedore");
        var page = $"/library/characters/{id}";
        var all = await _http.GetByteArrayAsync($"/api/characters/{id}/weights");
        var head = JsonNode.Parse(all.AsSpan(4, BitConverter.ToInt32(all)))!;
        var (skin, before) = Library.Weights(id)!.Value;
        Assert.Equal(skin.Surface.Bones, head["bones"]!.AsArray().Select(b => (string)b!));
        Assert.Equal(skin.Surface.Places.Length, head["parts"]!.AsArray().Sum(p => (int)p!["count"]!));
        Assert.Equal(4 + BitConverter.ToInt32(all) + (24 * skin.Surface.Places.Length), all.Length);
        var roles = Library.Prepare(id)!.Made.Sheet.Roles;
        var (left, right) = (Bone(BodyRole.ShinL), Bone(BodyRole.ShinR));
        int Bone(BodyRole role) => skin.Surface.Bones.ToList().IndexOf(roles[role]);
        float Of(SkinWeights w, int v, int bone) =>
            (w.Joints[v].A == bone ? w.Weights[v].X : 0)
            + (w.Joints[v].B == bone ? w.Weights[v].Y : 0)
            + (w.Joints[v].C == bone ? w.Weights[v].Z : 0)
            + (w.Joints[v].D == bone ? w.Weights[v].W : 0);
        var vertex = Enumerable.Range(0, before.Joints.Length).Where(v => Of(before, v, left) is > .3f and < .7f).First();
        string Stroke(string bone, float radius = .05f, bool mirror = true) =>
            new JsonObject
            {
                ["brush"] = "add",
                ["bone"] = bone,
                ["path"] = new JsonArray(vertex),
                ["radius"] = radius,
                ["strength"] = 1,
                ["mirror"] = mirror,
            }.ToJsonString();
        var answer = await Post(page, "Paint", ("stroke", Stroke(roles[BodyRole.ShinL])));
        Assert.Equal(HttpStatusCode.OK, answer.Status);
        var painted = Library.Weights(id)!.Value.Weights;
        Assert.Equal(1, Of(painted, vertex, left), .01f);
        double Sum(SkinWeights w, int bone) => Enumerable.Range(0, w.Joints.Length).Sum(v => Of(w, v, bone));
        // As much on the other side, to the other shin.
        var (more, others) = (Sum(painted, left) - Sum(before, left), Sum(painted, right) - Sum(before, right));
        Assert.InRange(others / more, .8, 1.25);
        foreach (
            var (wrong, words) in new[]
            {
                (Stroke("no bone"), "not on this character"),
                (Stroke(roles[BodyRole.ShinL], 9), "not on"),
                ("{", "cannot be read"),
                ("{}", "not on"),
                (string.Empty, "cannot be read"),
                (Stroke(roles[BodyRole.ShinL]).Replace("\"add\"", "9"), "not on"),
            }
        )
        {
            var refused = await Post(page, "Paint", ("stroke", wrong));
            Assert.Equal(HttpStatusCode.BadRequest, refused.Status);
            Assert.Contains(words, refused.Text, StringComparison.Ordinal);
        }

        Assert.Equal(HttpStatusCode.OK, (await Post(page, "Unpaint")).Status);
        Assert.Equal(before.Weights, Library.Weights(id)!.Value.Weights.Weights);
        Assert.Equal(HttpStatusCode.BadRequest, (await Post(page, "Unpaint")).Status);
        await Post(page, "Paint", ("stroke", Stroke(roles[BodyRole.ShinL], mirror: false)));
        await Post(page, "Keep");
        Assert.Equal((2, "prepared: weights painted"), (Library.Prepare(id)!.Version.Number, Library.Prepare(id)!.Version.Why));
        Assert.Equal(1, Of(Library.Weights(id)!.Value.Weights, vertex, left), .01f);
        Assert.Contains("locked", (await Post(page, "Paint", ("stroke", Stroke(roles[BodyRole.ShinL])))).Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_bare_mesh_is_bound_anew_where_its_joints_are_put_as_a_job()
    {
        await using var db = Db();
        var id = (await Library.Add(db.Productions.OrderBy(p => p.Id).First().Id, SubjectKind.Character, "Bare")).Id;
        var (_, figure) = HarbourCharacters.Figure("Lamplighter");
        await Library.Dress(id, GltfSkinWriter.WriteBare(figure, "bare", System.Numerics.Matrix4x4.Identity), "bare.glb");
        var page = $"/library/characters/{id}";
        Assert.Contains("place-joints", await _http.GetStringAsync(page), StringComparison.Ordinal);
        var knee = Library.Prepare(id)!.File.Placed![BodyRole.ShinR];
        foreach (
            var (wrong, words) in new[]
            {
                ("{\"joints\":{}}", "o joint was put elsewhere"),
                ("{}", "joints"),
                ("", "line 1"),
                ("{\"joints\":{\"Tail\":[0,0,0]}}", "joints.Tail"),
                ("{\"joints\":{\"ShinR\":[0,0]}}", "joints.ShinR"),
            }
        )
        {
            Assert.Contains(words, (await Post(page, "Bind", ("placed", wrong))).Text, StringComparison.Ordinal);
        }

        var lower = new JsonObject { ["joints"] = new JsonObject { ["ShinR"] = new JsonArray(knee.X, knee.Y - .04f, knee.Z) } };
        Assert.Contains("Bind Bare", (await Post(page, "Bind", ("placed", lower.ToJsonString()))).Text, StringComparison.Ordinal);
        await Asking.Until(() => Library.Prepare(id)!.Version.Number == 2);
        Assert.Equal(knee.Y - .04f, Library.Prepare(id)!.File.Placed![BodyRole.ShinR].Y, 1e-3f);
        Assert.Contains("1 joint put elsewhere", Library.Prepare(id)!.Version.Why, StringComparison.Ordinal);
        // A rig of its own is not ours to place.
        var own = await New("Rigged", "Stevedore");
        Assert.DoesNotContain("place-joints", await _http.GetStringAsync($"/library/characters/{own}"), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Fingers_close_around_the_pole_a_performer_carries_and_what_cannot_be_is_said()
    {
        await using var db = Db();
        var take = await db.Takes.SingleAsync(t => t.Name == "HL_009_lamp-walk_01");
        var cast = await db.Nodes.FirstAsync(n => n.TakeId == take.Id && n.Kind == NodeKind.Cast);
        var book = studio.Services.GetRequiredService<LedgerBook>();
        var page = $"/takes/{take.Id}/retarget";
        DraftEntry? Grip() =>
            book.Read(LedgerOwner.Take(take.Id))
                .Nodes.Single(n => n.Id == cast.Id)
                .Entries.FirstOrDefault(e => e.Entry.Operation == "grip");
        Assert.Contains("cast is gone", (await Post(page, "Grip", ("node", "99999"))).Text, StringComparison.Ordinal);
        await Post(page, "Grip", ("node", $"{cast.Id}"));
        await Asking.Until(() => Grip() is not null);
        var hand = Grip()!.Entry.Parameters["hands"]![0]!;
        Assert.Equal("HandR", (string?)hand["hand"]);
        Assert.True((int)hand["end"]! - (int)hand["start"]! > 120);
        Assert.Equal(5, hand["fingers"]!.AsArray().Count);
        Assert.Contains("closed 1 time", WebUtility.HtmlDecode(await _http.GetStringAsync(page)), StringComparison.Ordinal);
        book.Keep(LedgerOwner.Take(take.Id), new TakeBackEntry());
        Assert.Null(Grip());
        // A take without a prop has nothing to hold.
        var hop = await db.Takes.SingleAsync(t => t.Name == "HL_030_gangplank-hop_02");
        var other = await db.Nodes.FirstAsync(n => n.TakeId == hop.Id && n.Kind == NodeKind.Cast);
        Assert.Contains(
            "no hand holds a prop",
            (await Post($"/takes/{hop.Id}/retarget", "Grip", ("node", $"{other.Id}"))).Text,
            StringComparison.OrdinalIgnoreCase
        );
    }

    [Fact]
    public async Task A_character_is_prepared_step_by_step_kept_and_its_map_serves_the_next_one_alike()
    {
        var id = await New("Master", "Harbour Master");
        var page = $"/library/characters/{id}";
        Assert.Contains("Cannot fit", await _http.GetStringAsync(page), StringComparison.Ordinal);
        // Every change is on record at once: another library sees it as it stands.
        var sized = await Post(page, "Size", ("factor", "0.0254"));
        Assert.Equal(HttpStatusCode.OK, sized.Status);
        Assert.Contains("hx-swap-oob=\"true\"", sized.Text, StringComparison.Ordinal);
        await Post(page, "Remedy", ("remedy", "ArmL"), ("and", "ArmR"));
        await Post(page, "Remedy", ("remedy", "TurnToFace"));
        var draft = Library.Prepare(id)!;
        Assert.True(draft.Made.Ready);
        Assert.Equal(1, draft.Version.Number);
        // Taken back and done again.
        await Post(page, "Back");
        Assert.False(Library.Prepare(id)!.Made.Ready);
        await Post(page, "Remedy", ("remedy", "TurnToFace"));
        // What cannot be done is said and changes nothing.
        foreach (var (handler, field, value) in new[] { ("Remedy", "remedy", "Wings"), ("Size", "tall", "17"), ("Size", "tall", "small") })
        {
            var wrong = await Post(page, handler, (field, value));
            Assert.Contains("e-toast", wrong.Trigger, StringComparison.Ordinal);
            Assert.Equal(3, Library.Prepare(id)!.Made.Draft.Steps.Count);
        }

        var lost = await Post(page, "Role", ("role", "Head"), ("joint", "no such joint"));
        Assert.Contains("no joint", lost.Trigger, StringComparison.Ordinal);
        await Post(page, "Role", ("role", "SpineMid"), ("joint", "003"));
        var kept = await Post(page, "Keep");
        Assert.Contains("Unlock", kept.Text, StringComparison.Ordinal);
        var now = Library.Prepare(id)!;
        Assert.True(now.Locked);
        Assert.Equal((2, "Ready"), (now.Version.Number, now.Version.Verdict));
        Assert.Contains("arms straightened", now.Version.Why, StringComparison.Ordinal);
        Assert.InRange(now.Version.Height, 1.7, 1.85);
        Assert.Equal(RestVerdict.Ready, RestCheck.Check(Library.Rig(id)!).Verdict);
        // Locked: nothing is changed before it is unlocked, and its map is still there then.
        Assert.Contains("locked", (await Post(page, "Mirror", ("from", "L"))).Trigger, StringComparison.Ordinal);
        await Post(page, "Unlock");
        Assert.Equal("003", Library.Prepare(id)!.Made.Sheet.Roles[BodyRole.SpineMid]);
        // Kept again without a change: it is the same version.
        await Post(page, "Keep");
        Assert.Equal(2, Library.Prepare(id)!.Version.Number);

        // A rig alike gets the map that a person made, and says whose.
        var twin = await New("Twin", "Harbour Master");
        Assert.Equal("003", Library.Prepare(twin)!.Made.Sheet.Roles[BodyRole.SpineMid]);
        Assert.Contains("roles as Master's", Library.Prepare(twin)!.Version.Why, StringComparison.Ordinal);
        // The Stage has the figure as proposed, in metres.
        var joints = JsonNode.Parse(await _http.GetStringAsync($"/api/characters/{id}/joints"))!;
        Assert.InRange((double)joints["height"]!, 1.7, 1.95);
        Assert.Equal("glTF"u8.ToArray(), (await _http.GetByteArrayAsync($"/api/characters/{id}/figure.glb"))[..4]);
        Assert.Equal(HttpStatusCode.NotFound, (await _http.GetAsync("/library/characters/99999")).StatusCode);
    }

    [Fact]
    public async Task A_character_without_a_needed_role_asks_for_it_and_moves_nobody_meanwhile()
    {
        var id = await New("Half said", "Stevedore");
        await Library.Change(id, new RoleStep(BodyRole.HandL, null));
        var made = Library.Prepare(id)!.Made;
        Assert.Equal([BodyRole.HandL], made.Sheet.Missing);
        var refused = await Assert.ThrowsAsync<RefusedException>(() => Library.Accept(id));
        Assert.Contains("HandL", refused.Message, StringComparison.Ordinal);
        var page = WebUtility.HtmlDecode(await _http.GetStringAsync($"/library/characters/{id}"));
        Assert.Contains("Nothing plays the left hand yet", page, StringComparison.Ordinal);
        // The version in use is still the one as it came.
        Assert.NotNull(Library.Rig(id));
        await Library.Change(id, new MirrorStep('R'));
        Assert.Empty(Library.Prepare(id)!.Made.Sheet.Missing);
    }

    [Fact]
    public async Task A_cast_is_given_to_every_other_take_of_the_day_once()
    {
        using var scope = studio.Services.CreateScope();
        var (takes, batch) = (
            scope.ServiceProvider.GetRequiredService<TakeService>(),
            scope.ServiceProvider.GetRequiredService<CastBatch>()
        );
        await using var db = Db();
        var take = db.Takes.Single(t => t.Name == "HL_014_haul-rope_02");
        var cast = takes.Open(take.Id).Casts[0];
        var others = await batch.Others(take.Id, cast.Subject.Id, default);
        Assert.NotEmpty(others);
        Assert.DoesNotContain(others, o => o.Id == take.Id || o.ShootDayId != take.ShootDayId);
        var book = studio.Services.GetRequiredService<LedgerBook>();
        var entry = book.Read(LedgerOwner.Take(take.Id))
            .Nodes.First(n => n.Id == cast.Node.Id)
            .Entries.First(e => e.Entry.Operation == "retarget");
        book.Keep(LedgerOwner.Take(take.Id), new EditEntry(entry.Id, new() { ["lean"] = 40 }));
        var given = await batch.Give(take.Id, cast.Node.Id, default);
        Assert.Equal(others.Count, given);
        foreach (var other in others)
        {
            // Each is a job of its own; when it is through, the take has the cast with that set-up.
            await Until(() => takes.Open(other.Id).Casts.Any(c => c.Node.TargetId == cast.Node.TargetId && Lean(c) == 40));
        }

        Assert.Equal(0, await batch.Give(take.Id, cast.Node.Id, default));
        await Assert.ThrowsAsync<RefusedException>(() => batch.Give(take.Id, 99999, default));

        static double? Lean(OpenTake.Role c) =>
            (double?)c.State.Node.Entries.LastOrDefault(e => e.Operation == RetargetOperation.Retarget.Name)?.Parameters["lean"];
    }

    [Fact]
    public async Task A_report_tells_set_up_measures_and_what_is_left()
    {
        await using var db = Db();
        var id = db.Takes.Single(t => t.Name == "HL_009_lamp-walk_01").Id;
        var text = WebUtility.HtmlDecode(await _http.GetStringAsync($"/takes/{id}/report"));
        foreach (
            var wanted in new[] { "Lamplighter", "by Ines", "Feet slide, worst contact", "Clipping frames", "Travel:", "data-findings" }
        )
        {
            Assert.Contains(wanted, text, StringComparison.Ordinal);
        }

        Assert.Equal(HttpStatusCode.NotFound, (await _http.GetAsync("/takes/99999/report")).StatusCode);
        var unsolved = db.Takes.Single(t => t.Name.Contains("deck-crouch")).Id;
        Assert.Contains("No character moves yet", await _http.GetStringAsync($"/takes/{unsolved}/report"), StringComparison.Ordinal);
    }

    private static async Task Until(Func<bool> done)
    {
        var clock = System.Diagnostics.Stopwatch.StartNew();
        while (!done())
        {
            Assert.True(clock.Elapsed < TimeSpan.FromSeconds(90), "it took too long");
            await Task.Delay(100);
        }
    }
}
