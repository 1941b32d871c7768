using Eidolon.Core;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Eidolon.StandIns.People;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Tests;

/// <summary>Which nodes a take and a scene have by themselves, once each, and what goes and comes with them.</summary>
public sealed class NodesTests : Studio
{
    private async Task<int> Subject(SubjectKind kind, string name)
    {
        var library = new SubjectLibrary(this, new ResourceMemory(), Blobs, TimeProvider.System);
        var id = (await library.Add(1, kind, name)).Id;
        if (kind == SubjectKind.Prop)
        {
            await library.Shape(id, HarbourProps.Crate, "", "made");
        }

        return id;
    }

    private async Task<Take> TakeOf(int[] performers, int[] props)
    {
        await using var db = CreateDbContext();
        var take = new Take
        {
            ShootDayId = 1,
            Name = $"HL_{Guid.NewGuid():N}",
            SetUp = "HL",
            FrameRate = 50,
            FrameCount = 200,
            State = TakeState.Kept,
        };
        return await TakeMaker.Add(db, take, performers, props);
    }

    private async Task<(NodeKind Kind, int Subject)[]> Nodes(int take)
    {
        await using var db = CreateDbContext();
        return [.. (await db.Nodes.Where(n => n.TakeId == take).OrderBy(n => n.Id).ToListAsync()).Select(n => (n.Kind, n.SubjectId))];
    }

    [Fact]
    public async Task A_take_has_a_node_for_its_markers_and_for_each_of_its_parts_once()
    {
        var crate = await Subject(SubjectKind.Prop, "Crate");
        var take = await TakeOf([Ines], [crate]);
        (NodeKind, int)[] first = [(NodeKind.Markers, 0), (NodeKind.Solve, Ines), (NodeKind.Places, crate)];
        Assert.Equal(first, await Nodes(take.Id));
        await using var db = CreateDbContext();
        await TakeNodes.Ensure(db, take);
        Assert.Equal(first, await Nodes(take.Id));
        // Somebody who is put on the slate later.
        db.Parts.Add(
            new TakePart
            {
                TakeId = take.Id,
                SubjectId = Tobi,
                Position = 2,
            }
        );
        await db.SaveChangesAsync();
        await TakeNodes.Ensure(db, take);
        Assert.Equal(first.Append((NodeKind.Solve, Tobi)), await Nodes(take.Id));
        var lamplighter = await Subject(SubjectKind.Character, "Lamplighter");
        var cast = await TakeNodes.Cast(db, take.Id, Ines, lamplighter);
        Assert.Equal(cast.Id, (await TakeNodes.Cast(db, take.Id, Ines, lamplighter)).Id);
        Assert.NotEqual(cast.Id, (await TakeNodes.Cast(db, take.Id, Tobi, lamplighter)).Id);
        var attached = await TakeNodes.Attached(db, take.Id, crate);
        Assert.Equal(attached.Id, (await TakeNodes.Attached(db, take.Id, crate)).Id);
        Assert.Equal(7, (await Nodes(take.Id)).Length);
    }

    [Fact]
    public async Task A_scene_of_a_take_has_its_characters_who_plays_nobody_and_its_props()
    {
        var (crate, lamplighter) = (await Subject(SubjectKind.Prop, "Crate"), await Subject(SubjectKind.Character, "Lamplighter"));
        var stevedore = await Subject(SubjectKind.Character, "Stevedore");
        var take = await TakeOf([Ines, Tobi], [crate]);
        await using var db = CreateDbContext();
        var cast = await TakeNodes.Cast(db, take.Id, Ines, lamplighter);
        var scene = await SceneNodes.OfTake(db, take);
        Assert.Equal((4.0, take.Name, take.Id), (scene.Seconds, scene.Name, scene.TakeId));
        Assert.Equal(scene.Id, (await SceneNodes.OfTake(db, take)).Id);
        async Task<List<NodeRow>> Of(NodeKind kind) =>
            await db.Nodes.Include(n => n.Entries).Where(n => n.SceneId == scene.Id && n.Kind == kind).OrderBy(n => n.Id).ToListAsync();
        var tracks = await Of(NodeKind.Track);
        Assert.Equal([lamplighter, Tobi, crate], tracks.Select(n => n.SubjectId));
        // A prop has no pose to be changed by layers.
        Assert.Equal([lamplighter, Tobi], (await Of(NodeKind.Layers)).Select(n => n.SubjectId));
        var clip = Assert.Single(SceneOperations.ClipsOf(Assert.Single(tracks[0].Entries).ToEntry().Parameters));
        Assert.Equal((cast.Id, 0), (clip.Node, clip.Start));
        // Tobi is cast later: the Stevedore comes in, and nobody twice.
        await TakeNodes.Cast(db, take.Id, Tobi, stevedore);
        await SceneNodes.Follow(db, take, scene);
        await SceneNodes.Follow(db, take, scene);
        Assert.Equal([lamplighter, Tobi, crate, stevedore], (await Of(NodeKind.Track)).Select(n => n.SubjectId));
    }

    [Fact]
    public async Task A_track_put_aside_takes_its_own_layers_along_and_no_others_and_brings_them_back()
    {
        var take = await TakeOf([Ines], []);
        int scene,
            first,
            second;
        await using (var db = CreateDbContext())
        {
            var row = await SceneNodes.OfTake(db, take);
            var clip = await db.Nodes.FirstAsync(n => n.TakeId == take.Id && n.Kind == NodeKind.Solve);
            (scene, first) = (row.Id, (await SceneNodes.Track(db, row, Ines, [])).Id);
            second = (await SceneNodes.Another(db, row, Ines, [clip.Id])).Id;
        }

        async Task<int[]> Left()
        {
            await using var db = CreateDbContext();
            return await db.Nodes.Where(n => n.SceneId == scene).OrderBy(n => n.Id).Select(n => n.Id).ToArrayAsync();
        }

        var all = await Left();
        Assert.Equal(4, all.Length);
        var aside = new Aside(this, TimeProvider.System);
        // Layers are no track, and what is there is not brought back.
        await Assert.ThrowsAsync<RefusedException>(() => aside.Put(AsideKind.Track, all.First(id => id != first && id != second)));
        await Assert.ThrowsAsync<RefusedException>(() => aside.Bring(AsideKind.Track, second));
        var item = await aside.Put(AsideKind.Track, second);
        Assert.Equal(("track", $"Ines of {take.Name}"), (item.What, item.Name));
        var left = await Left();
        Assert.Equal(2, left.Length);
        Assert.Contains(first, left);
        await Assert.ThrowsAsync<RefusedException>(() => aside.Put(AsideKind.Track, second));
        Assert.Equal(1, Book.Read(LedgerOwner.Scene(scene)).Revision);
        await aside.Bring(AsideKind.Track, second);
        Assert.Equal(all, await Left());
        Assert.Equal(2, Book.Read(LedgerOwner.Scene(scene)).Revision);
    }

    [Fact]
    public async Task A_subject_comes_back_under_a_free_name_and_the_scene_of_a_take_is_not_put_aside_by_itself()
    {
        var crate = await Subject(SubjectKind.Prop, "Crate");
        var hook = await Subject(SubjectKind.Prop, "Hook");
        var aside = new Aside(this, TimeProvider.System);
        var item = await aside.Put(AsideKind.Subject, crate);
        Assert.Equal(("prop", "Crate"), (item.What, item.Name));
        Assert.Equal(
            "that is gone already",
            (await Assert.ThrowsAsync<RefusedException>(() => aside.Put(AsideKind.Subject, crate))).Message
        );
        await Assert.ThrowsAsync<RefusedException>(() => aside.Bring(AsideKind.Subject, hook));
        // Of another kind the name is free, of its own it is taken.
        await Subject(SubjectKind.Character, "Crate");
        Assert.Equal("Crate", (await aside.Bring(AsideKind.Subject, crate)).Name);
        await aside.Put(AsideKind.Subject, crate);
        await Subject(SubjectKind.Prop, "Crate");
        Assert.NotEqual("Crate", (await aside.Bring(AsideKind.Subject, crate)).Name);
        Assert.Empty(await aside.List());
        await using var db = CreateDbContext();
        Assert.Equal(3, await db.Shelf.CountAsync(s => s.Name.StartsWith("Crate")));
        var take = await TakeOf([Ines], []);
        var scene = await SceneNodes.OfTake(db, take);
        var other = new Scene
        {
            ProductionId = 1,
            Name = "Quay",
            CreatedUtc = DateTime.UtcNow,
        };
        db.Scenes.Add(other);
        await db.SaveChangesAsync();
        await Assert.ThrowsAsync<RefusedException>(() => aside.Put(AsideKind.Scene, scene.Id));
        Assert.Equal("Quay", (await aside.Put(AsideKind.Scene, other.Id)).Name);
    }

    [Fact]
    public async Task Two_tracks_of_two_scenes_are_each_their_own()
    {
        var (first, second) = (await TakeOf([Ines], []), await TakeOf([Ines], []));
        await using var db = CreateDbContext();
        var (here, there) = (await SceneNodes.OfTake(db, first), await SceneNodes.OfTake(db, second));
        var own = await SceneNodes.Track(db, here, Ines, []);
        var others = await SceneNodes.Track(db, there, Ines, []);
        Assert.Equal((here.Id, there.Id), (own.SceneId, others.SceneId));
        Assert.Equal(NodeRow.TrackSource(1), own.Source);
        Assert.Equal(own.Source, others.Source);
        Assert.Equal(NodeRow.TrackSource(2), (await SceneNodes.Another(db, here, Ines, [])).Source);
    }
}
