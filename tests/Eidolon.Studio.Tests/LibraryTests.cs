using System.Net;
using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Bvh;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.Storage;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests;

/// <summary>A library of versions: what was made with another version is out of date at once, and one action brings it up.</summary>
public sealed class LibraryTests(DemoStudio studio) : IClassFixture<DemoStudio>
{
    private EidolonDb Db() => studio.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();

    private LedgerBook Book => studio.Services.GetRequiredService<LedgerBook>();

    private LedgerOwner Take(string name)
    {
        using var db = Db();
        return LedgerOwner.Take(db.Takes.Single(t => t.Name == name).Id);
    }

    private NodeState State(LedgerOwner owner, NodeKind kind, int target = 0)
    {
        var look = Book.Look(owner);
        return look.State(look.Of(kind).First(n => target == 0 || n.TargetId == target || n.SubjectId == target));
    }

    [Fact]
    public async Task A_performer_measured_anew_puts_solve_and_cast_out_of_date_and_the_old_figure_stays_on_the_stage_meanwhile()
    {
        var library = studio.Services.CreateScope().ServiceProvider.GetRequiredService<SubjectLibrary>();
        var take = Take("HL_009_lamp-walk_01");
        var before = State(take, NodeKind.Solve);
        Assert.True(before.UpToDate);
        var rom = MarkerSimulator.Labelled(SceneCatalog.Perform("rom", HarbourCast.Ines, 4));
        var version = await library.Measure(studio.Ids("Ines")[0], rom, HarbourMarkers.Set(), take.TakeId!.Value, null);
        Assert.Equal(2, version.Number);
        var after = State(take, NodeKind.Solve);
        Assert.Equal(EntryStanding.OutOfDate, after.Entries[0].Standing);
        Assert.Equal(before.Content, after.Shown);
        Assert.True(after.SecondsToRun > 0);
        // The labels begin from how the performer was seen; the markers themselves were only given names.
        Book.BringUp(take);
        Assert.True(State(take, NodeKind.Solve).UpToDate);
        Assert.NotEqual(before.Content, State(take, NodeKind.Solve).Content);
        Assert.True(State(take, NodeKind.Cast).UpToDate);
    }

    [Fact]
    public async Task A_replaced_character_puts_its_casts_and_scenes_out_of_date_without_a_restart()
    {
        var library = studio.Services.CreateScope().ServiceProvider.GetRequiredService<SubjectLibrary>();
        var take = Take("HL_030_gangplank-hop_02");
        await using var db = Db();
        var scene = LedgerOwner.Scene(db.Scenes.Single(s => s.Name == "Quay scene A").Id);
        var stevedore = studio.Ids("Stevedore")[0];
        var (cast, track) = (State(take, NodeKind.Cast), State(scene, NodeKind.Track, stevedore));
        Assert.True(cast.UpToDate && track.UpToDate);
        await library.Dress(stevedore, HarbourCharacters.Build("Lamplighter"), "Stevedore.glb");
        Assert.Equal(EntryStanding.OutOfDate, State(take, NodeKind.Cast).Entries[0].Standing);
        Assert.False(State(scene, NodeKind.Track, stevedore).UpToDate);
        // The same file again is the version before: nothing runs, nothing is out of date.
        await library.Dress(stevedore, HarbourCharacters.Build("Stevedore"), "Stevedore.glb");
        Assert.Equal(cast.Content, State(take, NodeKind.Cast).Content);
        Assert.Equal(track.Content, State(scene, NodeKind.Track, stevedore).Content);
    }

    [Fact]
    public async Task A_mesh_without_a_rig_becomes_a_character_or_is_refused_and_nothing_is_kept()
    {
        var library = studio.Services.CreateScope().ServiceProvider.GetRequiredService<SubjectLibrary>();
        await using var db = Db();
        var production = db.Productions.OrderBy(p => p.Id).First().Id;
        var figure = PerformerFigure.Of(Anthropometry.Body(1.6f));
        var id = (await library.Add(production, SubjectKind.Character, "Passer-by", default)).Id;
        var version = await library.Dress(id, GltfSkinWriter.WriteBare(figure, "Passer-by", Matrix4x4.Identity), "passer-by.glb");
        Assert.Equal("Ready", version.Verdict);
        Assert.Contains("a skeleton was found in it", version.Why, StringComparison.Ordinal);
        Assert.InRange(version.Height, 1.2, 1.7);

        var lying = GltfSkinWriter.WriteBare(figure, "Sleeper", Matrix4x4.CreateRotationX(1.57f));
        var refused = await Assert.ThrowsAsync<RefusedException>(() => library.Dress(id, lying, "sleeper.glb"));
        Assert.Contains("does not stand upright", refused.Message, StringComparison.Ordinal);
        Assert.Equal(1, db.SubjectVersions.Count(v => v.SubjectId == id));
        await library.Forget(id, default);
    }

    [Fact]
    public async Task Bones_alone_become_a_character_that_is_seen_stands_on_the_floor_and_takes_a_motion()
    {
        var library = studio.Services.CreateScope().ServiceProvider.GetRequiredService<SubjectLibrary>();
        await using var db = Db();
        var production = db.Productions.OrderBy(p => p.Id).First().Id;
        // As recordings are written: hips at the origin, whatever the motion says.
        var body = Anthropometry.Body(1.6f);
        body = new Skeleton(body.Joints.Select(j => j.Parent < 0 ? j with { Offset = Vector3.Zero } : j));
        using var bvh = new MemoryStream();
        BvhWriter.Write(bvh, Motion.AtRest(body, 30, 1));
        var id = (await library.Add(production, SubjectKind.Character, "Bones", default)).Id;
        var version = await library.Dress(id, bvh.ToArray(), "bones.bvh");
        Assert.Equal("Ready", version.Verdict);
        Assert.Contains("bones without a mesh", version.Why, StringComparison.Ordinal);
        var rig = library.Rig(id)!;
        Assert.Equal(0, GroundLevel.Floor(rig), 1e-4f);
        Assert.InRange(rig.RestPositions[rig.IndexOf(BodyRole.Pelvis)].Y, 0.7f, 1.1f);
        Assert.Equal(body.Joints.Select(j => j.Name).Order(), rig.Joints.Select(j => j.Name).Order());
        var walk = SceneCatalog.Perform("haul-rope", HarbourCast.Tobi, 3).Actors[0].Motion;
        Assert.All(Retargeter.Retarget(walk, rig, new RetargetSetup()).Report.Contacts, c => Assert.True(c.SlideMillimetres <= 1));

        var line = new Skeleton([new Joint("A", -1, Vector3.Zero), new Joint("B", 0, Vector3.Zero)]);
        using var nothing = new MemoryStream();
        BvhWriter.Write(nothing, Motion.AtRest(line, 30, 1));
        var refused = await Assert.ThrowsAsync<InvalidInputException>(() => library.Dress(id, nothing.ToArray(), "dot.bvh"));
        Assert.Contains("dot.bvh", refused.Message, StringComparison.Ordinal);
        Assert.Equal(1, db.SubjectVersions.Count(v => v.SubjectId == id));
        await library.Forget(id, default);
    }

    [Fact]
    public void A_scene_never_keeps_the_clip_that_its_take_had_before()
    {
        using var db = Db();
        var scene = LedgerOwner.Scene(db.Scenes.Single(s => s.Name == "Quay scene A").Id);
        var look = Book.Look(scene);
        var row = look.Of(NodeKind.Track).First(n => look.State(n).Node.Inputs.Count > 0);
        var cast = db.Nodes.Include(n => n.Entries).Single(n => n.Id == look.State(row).Node.Inputs[0]);
        var take = LedgerOwner.Take(cast.TakeId!.Value);
        var before = look.State(row);
        Book.Keep(take, new EditEntry(cast.Entries[0].Id, new() { ["travel"] = "footprints" }));
        Assert.False(Book.Look(scene).State(row).UpToDate);
        Book.BringUp(take);
        Book.BringUp(scene);
        Assert.NotEqual(before.Content, Book.Look(scene).State(row).Content);
        Book.Keep(take, new EditEntry(cast.Entries[0].Id, new() { ["travel"] = "scaled" }));
        Assert.Equal(before.Content, Book.Look(scene).State(row).Content);
    }

    [Fact]
    public async Task The_same_motion_at_half_the_scale_shows_a_body_of_its_own()
    {
        using var scope = studio.Services.CreateScope();
        using var http = new HttpClient { BaseAddress = new Uri(studio.Address) };
        var import = scope.ServiceProvider.GetRequiredService<TakeImport>();
        var motion = MotionEdits.Range(SceneCatalog.Perform("haul-rope", HarbourCast.Tobi, 3).Actors[0].Motion, 0, 60);
        var shown = new List<(string State, byte[] Mesh, float Height)>();
        await using var db = Db();
        var day = db.Days.OrderBy(d => d.Id).First().Id;
        foreach (var scale in new[] { 1f, 0.5f })
        {
            var file = new ImportedFile($"quay-{scale}.bvh", FileKind.Bvh, null, MotionEdits.Scale(motion, scale), "m", "Y");
            var take = await import.Add(file, day, studio.Ids("Tobi"));
            var role = scope.ServiceProvider.GetRequiredService<TakeService>().Open(take.Id).Solved.Single();
            var figure = JsonNode.Parse(await http.GetStringAsync($"/api/takes/{take.Id}/scene?step=solve"))!["figures"]![0]!;
            var mesh = await http.GetByteArrayAsync((string)figure["mesh"]!);
            var tall = ForwardKinematics.WorldPositions(role.Motion!)[..role.Motion!.Skeleton.Count].Max(p => p.Y);
            shown.Add(((string)figure["state"]!, mesh, tall));
        }

        Assert.NotEqual(shown[0].State, shown[1].State);
        Assert.False(shown[0].Mesh.AsSpan().SequenceEqual(shown[1].Mesh));
        Assert.Equal(0.5, shown[1].Height / shown[0].Height, 2);
    }

    [Theory]
    [InlineData("performer")]
    [InlineData("character")]
    [InlineData("file")]
    public async Task What_is_missing_from_the_library_is_told_and_every_page_opens(string what)
    {
        using var http = new HttpClient { BaseAddress = new Uri(studio.Address) };
        await using var db = Db();
        var (name, who) = what == "performer" ? ("HL_014_haul-rope_02", "Tobi") : ("HL_009_lamp-walk_01", "Lamplighter");
        var take = db.Takes.Single(t => t.Name == name);
        var subject = db.Subjects.Single(s => s.Name == who);
        var version = db.SubjectVersions.Single(v => v.SubjectId == subject.Id && v.Number == subject.Version);
        var (number, blob, content) = (subject.Version, version.BlobId, version.Content);
        if (what == "file")
        {
            // Its file is not the one it was kept with any more: the blob is gone from the disk.
            version.BlobId = null;
            version.Content = new string('0', 32);
        }
        else
        {
            subject.Version = 0;
        }

        await db.SaveChangesAsync();
        try
        {
            foreach (var step in new[] { "label", "clean", "solve", "retarget" })
            {
                Assert.Equal(HttpStatusCode.OK, (await http.GetAsync($"/takes/{take.Id}/{step}")).StatusCode);
                Assert.Equal(HttpStatusCode.OK, (await http.GetAsync($"/api/takes/{take.Id}/scene?step={step}")).StatusCode);
            }

            var page = await http.GetStringAsync($"/takes/{take.Id}/retarget");
            Assert.Matches("out of date|cannot run|not measured|not in the library|is gone", page);
            Assert.Equal(HttpStatusCode.OK, (await http.GetAsync("/")).StatusCode);
            Assert.Equal(HttpStatusCode.OK, (await http.GetAsync("/library/characters")).StatusCode);
        }
        finally
        {
            (subject.Version, version.BlobId, version.Content) = (number, blob, content);
            await db.SaveChangesAsync();
        }
    }
}
