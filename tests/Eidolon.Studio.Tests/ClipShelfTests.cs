using System.Net;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Storage;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests;

/// <summary>The library of clips: what is kept, baked and brought in can be played, found and taken out again.</summary>
public sealed class ClipShelfTests(DemoStudio studio) : IClassFixture<DemoStudio>, IDisposable
{
    private static readonly CancellationToken None = CancellationToken.None;
    private readonly HttpClient _http = new() { BaseAddress = new Uri(studio.Address) };
    private readonly IServiceScope _scope = studio.Services.CreateScope();

    public void Dispose()
    {
        _http.Dispose();
        _scope.Dispose();
    }

    private ClipShelf Shelf => _scope.ServiceProvider.GetRequiredService<ClipShelf>();

    private SceneService Scenes => _scope.ServiceProvider.GetRequiredService<SceneService>();

    private OpenScene.Track Stevedore() => Scenes.Open(1).Tracks.Single(t => t.Subject.Name == "Stevedore");

    private OpenScene.LibraryClip Found(string name)
    {
        var open = Scenes.Open(1);
        return Scenes.Library(open, Stevedore().Subject.Id).Single(c => c.Name == name);
    }

    private void Lay(JsonArray clips) =>
        studio
            .Services.GetRequiredService<LedgerBook>()
            .Keep(
                LedgerOwner.Scene(1),
                new AddEntries(SceneOperations.Clips.Name, new JsonObject { ["clips"] = clips, ["overlap"] = 36 }, Stevedore().Node.Id)
            );

    private Aside Away => _scope.ServiceProvider.GetRequiredService<Aside>();

    private void TakeBack() => studio.Services.GetRequiredService<LedgerBook>().Keep(LedgerOwner.Scene(1), new TakeBackEntry());

    [Fact]
    public async Task A_stretch_that_is_kept_is_a_card_of_its_own_and_follows_its_take()
    {
        var track = Stevedore();
        await Shelf.Keep(1, track.Node.Id, 1, " Corner ", "turn,  quay ,", None);
        var card = Found("Corner");
        Assert.Equal((track.Clips[1].Node, 165, 470), (card.Source.Node, card.Start, card.End));
        Assert.Equal("turn, quay", card.Row!.Tags);
        Assert.StartsWith("<svg", card.Postures, StringComparison.Ordinal);
        var words = JsonNode.Parse(await _http.GetStringAsync($"/api/scenes/1/words?nodes={card.Key},1:5,-3:1:2"))!.AsObject();
        Assert.Contains("turns right", (string)words[card.Key]!, StringComparison.Ordinal);
        Assert.Single(words);
        var page = WebUtility.HtmlDecode(await _http.GetStringAsync("/scenes/1/assemble"));
        Assert.Contains($"data-key=\"{card.Key}\"", page, StringComparison.Ordinal);
        Assert.Contains("165–469 of HL_052_corner-run_01 · turn, quay", page, StringComparison.Ordinal);
        foreach (var name in new[] { "Corner", "", new string('x', 61) })
        {
            await Assert.ThrowsAsync<RefusedException>(() => Shelf.Keep(1, track.Node.Id, 0, name, null, None));
        }

        await Assert.ThrowsAsync<RefusedException>(() => Shelf.Keep(1, track.Node.Id, 9, "Ninth", null, None));
        await Away.Put(AsideKind.Clip, card.Row.Id);
        Assert.DoesNotContain(Scenes.Library(Scenes.Open(1), track.Subject.Id), c => c.Name == "Corner");
        await Assert.ThrowsAsync<RefusedException>(() => Away.Put(AsideKind.Clip, card.Row.Id));
        // Its name is free meanwhile; when it comes back it takes another.
        await Shelf.Keep(1, track.Node.Id, 0, "Corner", null, None);
        Assert.Equal("Corner 2", (await Away.Bring(AsideKind.Clip, card.Row.Id)).Name);
        Assert.Equal((165, 470), (Found("Corner 2").Start, Found("Corner 2").End));
        await Away.Put(AsideKind.Clip, card.Row.Id);
        await Away.Put(AsideKind.Clip, Found("Corner").Row!.Id);
    }

    [Fact]
    public async Task What_is_baked_is_the_tracks_own_motion_and_can_be_played_again()
    {
        var track = Stevedore();
        var baked = track.Motion!;
        await Shelf.Bake(1, new BakeRequest(track.Node.Id, 40, 340, "Baked", null), cancel: None);
        var card = Found("Baked");
        Assert.Equal((0, 300, "from Quay scene A"), (card.Start, card.End, $"from {card.Source.Who}"));
        var was = track.SetUp!.DeepClone();
        Lay([new JsonObject { ["node"] = card.Source.Node, ["start"] = 0 }]);
        studio.Services.GetRequiredService<LedgerBook>().BringUp(LedgerOwner.Scene(1));
        var now = Stevedore().Motion!;
        Assert.Equal(300, now.FrameCount);
        var n = baked.Skeleton.Count;
        Assert.Equal(baked.Rotations[(40 * n)..(340 * n)], now.Rotations);
        Assert.Equal(baked.Translations[(40 * n)..(340 * n)], now.Translations);
        // Put aside it is in no library any more, and the scene that plays it goes on, by its name.
        await Away.Put(AsideKind.Clip, card.Row!.Id);
        Assert.DoesNotContain(Scenes.Library(Scenes.Open(1), track.Subject.Id), c => c.Name == "Baked");
        Assert.Equal("Baked", Scenes.Open(1).Sources[card.Source.Node].TakeName);
        Assert.Equal(300, Stevedore().Motion!.FrameCount);
        TakeBack();
        Assert.True(JsonNode.DeepEquals(was, Stevedore().SetUp));
        await Away.Bring(AsideKind.Clip, card.Row.Id);
        Assert.Equal(300, Found("Baked").End);
        await Away.Put(AsideKind.Clip, card.Row.Id);
        await Assert.ThrowsAsync<RefusedException>(() =>
            Shelf.Bake(1, new BakeRequest(track.Node.Id, 40, 41, "One frame", null), cancel: None)
        );
    }

    [Fact]
    public async Task A_bake_is_a_job_that_says_what_it_made_or_why_not()
    {
        var queue = _scope.ServiceProvider.GetRequiredService<JobQueue>();
        async Task<JobRow> Ended(BakeRequest request)
        {
            var job = await queue.Bake(1, request);
            var book = studio.Services.GetRequiredService<JobBook>();
            await Asking.Until(() => book.Find(job.Id, None).Result!.State is JobState.Done or JobState.Failed);
            return (await book.Find(job.Id, None))!;
        }

        var node = Stevedore().Node.Id;
        var done = await Ended(new BakeRequest(node, 0, 120, "By a job", "idle"));
        Assert.Equal((JobState.Done, "'By a job', 1.0 s, is in the library"), (done.State, done.Message));
        Assert.Equal("idle", Found("By a job").Row!.Tags);
        var twice = await Ended(new BakeRequest(node, 0, 130, "By a job", null));
        Assert.Equal((JobState.Failed, "There is a clip 'By a job' already"), (twice.State, twice.Message));
        await Away.Put(AsideKind.Clip, Found("By a job").Row!.Id);
    }

    [Fact]
    public async Task A_character_is_in_a_scene_twice_each_with_clips_and_layers_of_its_own()
    {
        var first = Stevedore();
        var node = (await Scenes.Enter(1, first.Subject.Id, None))!;
        var book = studio.Services.GetRequiredService<LedgerBook>();
        book.BringUp(LedgerOwner.Scene(1));
        OpenScene.Track Of(int id) => Scenes.Open(1).Tracks.Single(t => t.Node.Id == id);
        var second = Of(node.Id);
        Assert.Equal(("Stevedore", "Stevedore 2"), (Of(first.Node.Id).Name, second.Name));
        Assert.NotEqual(Of(first.Node.Id).LayerNode!.Id, second.LayerNode!.Id);
        // A layer over the second leaves the first as it is.
        var was = Of(first.Node.Id).Shown;
        book.Keep(
            LedgerOwner.Scene(1),
            new AddEntries(
                SceneOperations.Layer.Name,
                new JsonObject { ["joint"] = "HandR", ["keys"] = new JsonArray(new JsonObject { ["frame"] = 10, ["z"] = 20 }) },
                second.LayerNode.Id
            )
        );
        Assert.Equal(was, Of(first.Node.Id).Shown);
        Assert.NotEqual(second.Shown, Of(node.Id).Shown);
        Assert.Contains("Stevedore 2", WebUtility.HtmlDecode(await _http.GetStringAsync("/scenes/1/assemble")), StringComparison.Ordinal);
        // Taken off it is gone with its layers, and comes back with them.
        var item = await Away.Put(AsideKind.Track, node.Id);
        Assert.Equal("Stevedore of Quay scene A", item.Name);
        Assert.DoesNotContain(Scenes.Open(1).Tracks, t => t.Node.Id == node.Id);
        Assert.Equal(was, Of(first.Node.Id).Shown);
        Assert.Contains(await Away.List(), i => i.Kind == AsideKind.Track && i.Id == node.Id);
        await Away.Bring(AsideKind.Track, node.Id);
        Assert.Single(Of(node.Id).Layers!.Node.Entries);
        await Away.Put(AsideKind.Track, node.Id);
    }

    [Fact]
    public async Task A_motion_on_the_characters_skeleton_is_brought_in_and_another_is_refused_with_what_differs()
    {
        var track = Stevedore();
        byte[] Written(Motion motion)
        {
            using var stream = new MemoryStream();
            GltfWriter.WriteSkeleton(stream, motion, "clip");
            return stream.ToArray();
        }

        var own = MotionEdits.Range(track.Motion!, 10, 130);
        await Shelf.BringIn(1, track.Node.Id, Written(own), "from-elsewhere.glb", None);
        await Shelf.BringIn(1, track.Node.Id, Written(MotionEdits.Resample(own, 60)), "from-elsewhere.glb", None);
        foreach (var name in new[] { "from-elsewhere", "from-elsewhere 2" })
        {
            var card = Found(name);
            var motion = ((MotionValue)Scenes.Open(1).Look.Runner.Value(card.Source.Node)!).Motion;
            Assert.Equal(track.Motion!.FrameRate, motion.FrameRate);
            Assert.InRange(motion.FrameCount, 119, 121);
            Assert.True(motion.Skeleton.IndexOf(BodyRole.Pelvis) >= 0);
            var last = Math.Min(motion.FrameCount, own.FrameCount) - 1;
            var (a, b) = (
                ForwardKinematics.WorldPositions(MotionEdits.Range(own, last, last + 1)),
                ForwardKinematics.WorldPositions(MotionEdits.Range(motion, last, last + 1))
            );
            Assert.InRange(a.Zip(b, (x, y) => (x - y).Length()).Max(), 0, .02f);
            await Away.Put(AsideKind.Clip, card.Row!.Id);
        }

        using var scope = studio.Services.CreateScope();
        var other = Scenes.Open(1).Tracks.Single(t => t.Subject.Name == "Lamplighter").Motion!;
        var refused = await Assert.ThrowsAsync<RefusedException>(() => Shelf.BringIn(1, track.Node.Id, Written(other), "lamp.glb", None));
        Assert.Contains("lamp.glb is on another skeleton than the Stevedore", refused.Message, StringComparison.Ordinal);
        await Assert.ThrowsAsync<InvalidInputException>(() => Shelf.BringIn(1, track.Node.Id, [1, 2, 3], "broken.glb", None));
        Assert.DoesNotContain(Scenes.Library(Scenes.Open(1), track.Subject.Id), c =>
            c.Row is not null && c.Name.StartsWith("lamp", StringComparison.Ordinal)
        );
    }

    [Fact]
    public async Task A_motion_comes_in_pieces_and_its_way_without_it()
    {
        var track = Stevedore();
        var url = $"/api/scenes/1/motion/{track.Node.Id}";
        var whole = await _http.GetByteArrayAsync(url);
        var stride = whole.Length / track.Motion!.FrameCount;
        var piece = await _http.GetByteArrayAsync($"{url}?from=100&to=140");
        Assert.Equal(whole[(100 * stride)..(140 * stride)], piece);
        Assert.Empty(await _http.GetByteArrayAsync($"{url}?from=90000&to=90010"));
        Assert.Equal(whole.Length - (100 * stride), (await _http.GetByteArrayAsync($"{url}?from=100&to=900000")).Length);
        var way = JsonNode
            .Parse(await _http.GetStringAsync("/api/scenes/1/ways"))!
            .AsArray()
            .Single(w => (int)w!["node"]! == track.Node.Id)!;
        var (step, path) = ((int)way["step"]!, way["path"]!.AsArray());
        var places = ForwardKinematics.WorldPositions(track.Motion);
        var (n, pelvis) = (track.Motion.Skeleton.Count, track.Motion.Skeleton.IndexOf(BodyRole.Pelvis));
        for (var k = 0; k < path.Count / 3; k += 10)
        {
            Assert.Equal(places[(k * step * n) + pelvis].X, (double)path[3 * k]!, .001);
            Assert.Equal(places[(k * step * n) + pelvis].Z, (double)path[(3 * k) + 2]!, .001);
        }

        var echo = way["echoes"]![1]!;
        Assert.Equal(3 * n, echo["places"]!.AsArray().Count);
        Assert.Equal(places[((int)echo["frame"]! * n) + pelvis].Z, (double)echo["places"]![(3 * pelvis) + 2]!, .001);
    }

    [Fact]
    public async Task A_jolt_is_a_finding_until_it_is_smoothed()
    {
        var track = Stevedore();
        var was = track.SetUp!.DeepClone();
        JsonArray Clips(int smooth) =>
            [
                new JsonObject
                {
                    ["node"] = track.Clips[0].Node,
                    ["start"] = 150,
                    ["end"] = 400,
                },
                new JsonObject
                {
                    ["node"] = track.Clips[1].Node,
                    ["start"] = 190,
                    ["end"] = 470,
                    ["overlap"] = 0,
                    ["smooth"] = smooth,
                },
            ];
        var book = studio.Services.GetRequiredService<LedgerBook>();
        Lay(Clips(0));
        book.BringUp(LedgerOwner.Scene(1));
        var page = WebUtility.HtmlDecode(await _http.GetStringAsync("/scenes/1/assemble"));
        Assert.Contains("clip 2 comes in", page, StringComparison.Ordinal);
        Assert.Contains("data-smooth=\"1\"", page, StringComparison.Ordinal);
        var hard = TrackFindings.Of(Stevedore().State.Last("clips")!.Report, "Stevedore");
        Assert.Equal(("jolt", 1), (hard[0].Finding.Kind, hard[0].Clip));
        Lay(Clips(36));
        book.BringUp(LedgerOwner.Scene(1));
        var report = Stevedore().State.Last("clips")!.Report;
        Assert.Empty(TrackFindings.Of(report, "Stevedore"));
        Assert.Equal(hard[0].Finding.Measure, (double)report["overlaps"]![0]!["before"]!, 3);
        Assert.DoesNotContain("comes in", await _http.GetStringAsync("/scenes/1/assemble"), StringComparison.Ordinal);
        TakeBack();
        TakeBack();
        Assert.True(JsonNode.DeepEquals(was, Stevedore().SetUp));
        book.BringUp(LedgerOwner.Scene(1));
    }
}
