using Eidolon.Core;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Eidolon.Storage.Samples;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Tests;

/// <summary>Putting things aside and bringing them back: nothing is lost before its time, and nothing stays after it.</summary>
public sealed class AsideTests : IAsyncLifetime
{
    private readonly Studio _studio = new();
    private readonly Hand _hand = new();
    private Aside _aside = null!;

    private sealed class Hand : TimeProvider
    {
        public DateTimeOffset Now { get; set; } = new(2026, 5, 4, 12, 0, 0, TimeSpan.Zero);

        public override DateTimeOffset GetUtcNow() => Now;
    }

    public async Task InitializeAsync()
    {
        await _studio.InitializeAsync();
        _aside = new Aside(_studio, _hand);
    }

    public Task DisposeAsync() => _studio.DisposeAsync();

    private async Task<int> Take(string name, int day = 1)
    {
        await using var db = _studio.CreateDbContext();
        var take = new Take
        {
            ShootDayId = day,
            Name = name,
            SetUp = name,
            Number = 1,
            FrameRate = 120,
            FrameCount = 3,
            State = TakeState.Kept,
        };
        await TakeMaker.Add(db, take, [_studio.Ines], []);
        await new SampleStore(db).WriteMarkers(take.Id, new MarkerTake(["A"], 120, 3, [new(1, 2, 3), new(1, 2, 3), new(1, 2, 3)]));
        return take.Id;
    }

    [Fact]
    public async Task What_was_kept_of_a_take_for_the_library_goes_with_it()
    {
        var (id, other) = (await Take("HL_001"), await Take("HL_002"));
        await using (var db = _studio.CreateDbContext())
        {
            foreach (var take in new[] { id, other })
            {
                var node = await db.Nodes.FirstAsync(n => n.TakeId == take);
                db.Clips.Add(
                    new ClipRow
                    {
                        ProductionId = 1,
                        NodeId = node.Id,
                        Name = $"clip of {take}",
                    }
                );
            }

            await db.SaveChangesAsync();
        }

        await _aside.Put(AsideKind.Take, id);
        // While it is only put aside it can come back, and its clip with it.
        await using (var db = _studio.CreateDbContext())
        {
            Assert.Equal(2, await db.Clips.CountAsync());
        }

        _hand.Now += TimeSpan.FromDays(31);
        Assert.Equal(1, await _aside.Sweep());
        await using var after = _studio.CreateDbContext();
        Assert.Equal($"clip of {other}", (await after.Clips.SingleAsync()).Name);
    }

    [Fact]
    public async Task A_clip_that_a_scene_plays_outlives_its_time_and_a_track_goes_with_its_layers()
    {
        int scene,
            played,
            idle,
            track;
        await using (var db = _studio.CreateDbContext())
        {
            var row = new Scene
            {
                ProductionId = 1,
                Name = "Quay",
                CreatedUtc = DateTime.UtcNow,
            };
            db.Scenes.Add(row);
            var own = Enumerable
                .Range(0, 2)
                .Select(i => new NodeRow
                {
                    Kind = NodeKind.Clip,
                    SubjectId = _studio.Ines,
                    Source = $"{i}",
                })
                .ToList();
            db.Nodes.AddRange(own);
            await db.SaveChangesAsync();
            var clips = own.Select(n => new ClipRow
                {
                    ProductionId = 1,
                    NodeId = n.Id,
                    BlobId = 1,
                    Name = $"clip {n.Id}",
                })
                .ToList();
            db.Clips.AddRange(clips);
            track = (await SceneNodes.Track(db, row, _studio.Ines, [own[0].Id])).Id;
            await db.SaveChangesAsync();
            (scene, played, idle) = (row.Id, clips[0].Id, clips[1].Id);
        }

        await _aside.Put(AsideKind.Clip, played);
        await _aside.Put(AsideKind.Clip, idle);
        _hand.Now += TimeSpan.FromDays(31);
        Assert.Equal(1, await _aside.Sweep());
        await using (var db = _studio.CreateDbContext())
        {
            Assert.Equal(played, (await db.Clips.IgnoreQueryFilters().SingleAsync()).Id);
            Assert.Equal(1, await db.Nodes.CountAsync(n => n.Kind == NodeKind.Clip));
        }

        await _aside.Put(AsideKind.Track, track);
        await using (var db = _studio.CreateDbContext())
        {
            Assert.False(await db.Nodes.AnyAsync(n => n.SceneId == scene));
        }

        // Only when the track that plays it has gone for good does the clip go too.
        _hand.Now += TimeSpan.FromDays(31);
        Assert.Equal(2, await _aside.Sweep());
        await using var after = _studio.CreateDbContext();
        Assert.False(await after.Nodes.IgnoreQueryFilters().AnyAsync(n => n.SceneId == scene || n.Kind == NodeKind.Clip));
    }

    [Fact]
    public async Task A_take_is_out_of_every_list_and_comes_back_whole()
    {
        var id = await Take("HL_001");
        _studio.Book.Keep(LedgerOwner.Take(id), new AddEntries("smooth", []));
        var item = await _aside.Put(AsideKind.Take, id);
        Assert.Equal(("take", "HL_001", 30), (item.What, item.Name, item.DaysLeft(_hand.Now.UtcDateTime)));
        await using (var db = _studio.CreateDbContext())
        {
            Assert.Empty(db.Takes);
        }

        Assert.Throws<RefusedException>(() => _studio.Book.Keep(LedgerOwner.Take(id), new TakeBackEntry()));
        await Assert.ThrowsAsync<RefusedException>(() => _aside.Put(AsideKind.Take, id));
        _hand.Now += TimeSpan.FromDays(29);
        Assert.Equal(0, await _aside.Sweep());
        Assert.Equal(1, (await _aside.List()).Single().DaysLeft(_hand.Now.UtcDateTime));
        await _aside.Bring(AsideKind.Take, id);
        Assert.Empty(await _aside.List());
        Assert.Equal(1, _studio.Book.Read(LedgerOwner.Take(id)).Nodes.Sum(n => n.Entries.Count));
        await using var after = _studio.CreateDbContext();
        Assert.Equal(3, new SampleStore(after).ReadMarkers(after.Streams.Single(s => s.TakeId == id), "x").FrameCount);
    }

    [Fact]
    public async Task A_name_may_be_used_again_and_the_one_that_comes_back_gets_another()
    {
        var first = await Take("HL_001");
        await _aside.Put(AsideKind.Take, first);
        await Take("HL_001");
        Assert.Equal("HL_001_2", (await _aside.Bring(AsideKind.Take, first)).Name);
    }

    [Fact]
    public async Task A_day_takes_its_takes_with_it_and_brings_them_back()
    {
        var (kept, alone) = (await Take("HL_001"), await Take("HL_002"));
        await _aside.Put(AsideKind.Take, alone);
        _hand.Now += TimeSpan.FromHours(1);
        await _aside.Put(AsideKind.Day, 1);
        Assert.Equal(["Day 1", "HL_002"], (await _aside.List()).Select(i => i.Name));
        await _aside.Bring(AsideKind.Day, 1);
        await using var db = _studio.CreateDbContext();
        Assert.Equal([kept], db.Takes.Select(t => t.Id));
        // What was put aside by itself stays aside, until it is asked for; its day comes with it.
        await _aside.Put(AsideKind.Day, 1);
        await _aside.Bring(AsideKind.Take, alone);
        await using var after = _studio.CreateDbContext();
        Assert.Equal((1, 1), (after.Days.Count(), after.Takes.Count()));
    }

    [Fact]
    public async Task After_thirty_days_everything_of_a_take_is_gone_and_a_performer_who_played_stays()
    {
        var (gone, stays) = (await Take("HL_001"), await Take("HL_002"));
        _studio.Book.Keep(LedgerOwner.Take(gone), new AddEntries("smooth", []));
        _studio.Book.Keep(LedgerOwner.Take(gone), new TakeBackEntry());
        await _aside.Put(AsideKind.Take, gone);
        await _aside.Put(AsideKind.Subject, _studio.Ines);
        await _aside.Put(AsideKind.Subject, _studio.Tobi);
        await using (var db = _studio.CreateDbContext())
        {
            Assert.Empty(db.Shelf.Where(s => s.Kind == SubjectKind.Performer));
            // The take they played in opens all the same.
            Assert.NotNull(_studio.Book.Look(LedgerOwner.Take(stays)));
        }

        _hand.Now += TimeSpan.FromDays(31);
        Assert.Equal(2, await _aside.Sweep());
        Assert.Equal(["Ines"], (await _aside.List()).Select(i => i.Name));
        await using var after = _studio.CreateDbContext();
        Assert.Equal([stays], after.Takes.IgnoreQueryFilters().Select(t => t.Id));
        Assert.Equal([stays], after.Streams.Select(s => s.TakeId));
        Assert.Equal(1, after.Chunks.Count());
        Assert.Empty(after.Changes.Where(c => c.Owner == LedgerOwner.Take(gone).Key));
        Assert.Empty(after.TakenBack);
        Assert.All(after.Nodes, n => Assert.Equal(stays, n.TakeId));
        await Assert.ThrowsAsync<RefusedException>(() => _aside.Bring(AsideKind.Take, gone));
    }

    [Fact]
    public async Task A_take_that_is_recorded_or_worked_on_stays()
    {
        var id = await Take("HL_001");
        await using var db = _studio.CreateDbContext();
        await db.Takes.ExecuteUpdateAsync(s => s.SetProperty(t => t.State, TakeState.Recording));
        Assert.Contains("recorded", (await Assert.ThrowsAsync<RefusedException>(() => _aside.Put(AsideKind.Take, id))).Message);
        await db.Takes.ExecuteUpdateAsync(s => s.SetProperty(t => t.State, TakeState.Kept));
        db.Jobs.Add(
            new JobRow
            {
                Title = "x",
                Kind = "change",
                TakeId = id,
                State = JobState.Waiting,
            }
        );
        await db.SaveChangesAsync();
        Assert.Contains("job", (await Assert.ThrowsAsync<RefusedException>(() => _aside.Put(AsideKind.Day, 1))).Message);
    }

    [Fact]
    public async Task Recipes_and_scenes_come_back_too()
    {
        await using (var db = _studio.CreateDbContext())
        {
            db.Recipes.Add(
                new RecipeRow
                {
                    ProductionId = 1,
                    Name = "Tidy",
                    Entries = "[]",
                }
            );
            db.Scenes.Add(new Scene { ProductionId = 1, Name = "Quay" });
            await db.SaveChangesAsync();
        }

        await _aside.Put(AsideKind.Recipe, 1);
        await _aside.Put(AsideKind.Scene, 1);
        await using (var db = _studio.CreateDbContext())
        {
            Assert.True(!db.Recipes.Any() && !db.Scenes.Any());
            db.Scenes.Add(new Scene { ProductionId = 1, Name = "Quay" });
            await db.SaveChangesAsync();
        }

        await _aside.Bring(AsideKind.Recipe, 1);
        Assert.Equal("Quay 2", (await _aside.Bring(AsideKind.Scene, 1)).Name);
        await _aside.Put(AsideKind.Recipe, 1);
        await _aside.Put(AsideKind.Scene, 1);
        _hand.Now += TimeSpan.FromDays(31);
        Assert.Equal(2, await _aside.Sweep());
        await using var after = _studio.CreateDbContext();
        Assert.Equal((0, 1), (after.Recipes.IgnoreQueryFilters().Count(), after.Scenes.IgnoreQueryFilters().Count()));
    }
}
