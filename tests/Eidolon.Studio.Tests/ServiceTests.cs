using System.ComponentModel.DataAnnotations;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Live;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests;

/// <summary>What stands behind the pages, asked without them.</summary>
public sealed class ServiceTests(DemoStudio studio) : IClassFixture<DemoStudio>
{
    private EidolonDb Db() => studio.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();

    /// <summary>A service as one request has it.</summary>
    private async Task<TResult> With<TService, TResult>(Func<TService, Task<TResult>> ask)
        where TService : notnull
    {
        await using var scope = studio.Services.CreateAsyncScope();
        return await ask(scope.ServiceProvider.GetRequiredService<TService>());
    }

    private Task With<TService>(Func<TService, Task> ask)
        where TService : notnull =>
        With<TService, bool>(async s =>
        {
            await ask(s);
            return true;
        });

    private int Take(string name)
    {
        using var db = Db();
        return db.Takes.Single(t => t.Name == name).Id;
    }

    private static List<string> Wrong(object asked)
    {
        var list = new List<ValidationResult>();
        Validator.TryValidateObject(asked, new ValidationContext(asked), list, validateAllProperties: true);
        return list.ConvertAll(r => r.ErrorMessage!);
    }

    [Fact]
    public async Task A_circle_goes_on_and_off_and_a_take_that_is_gone_has_none()
    {
        var id = Take("HL_014_haul-rope_01");
        var day = await With<Slates, Take?>(s => s.Find(id, default));
        var was = day!.Circled;
        Assert.Equal((day.ShootDayId, !was), await With<Slates, (int, bool)?>(s => s.Circle(id, default)));
        Assert.Equal((day.ShootDayId, was), await With<Slates, (int, bool)?>(s => s.Circle(id, default)));
        Assert.Null(await With<Slates, (int, bool)?>(s => s.Circle(99_999, default)));
        Assert.Null(await With<Slates, Take?>(s => s.Find(99_999, default)));
        Assert.Null(await With<Slates, string?>(s => s.NameOf(99_999, default)));
        Assert.Equal("HL_014_haul-rope_01", await With<Slates, string?>(s => s.NameOf(id, default)));
    }

    [Fact]
    public async Task Notes_lie_at_their_frames_and_what_cannot_be_one_is_refused_in_words()
    {
        var id = Take("HL_014_haul-rope_01");
        await With<FrameNotes>(n => n.Keep(id, 400, "  the rope slips at the end \n", default));
        await With<FrameNotes>(n => n.Keep(id, 20, "left hand lowered by 20 mm", default));
        var kept = await With<FrameNotes, IReadOnlyList<FrameNote>>(n => n.Of(id, default));
        Assert.Equal([(20, "left hand lowered by 20 mm"), (400, "the rope slips at the end")], kept.Select(n => (n.Frame, n.Text)));
        foreach (
            var (take, frame, text, why) in new[]
            {
                (id, -1, "x", "no frame -1"),
                (id, 100_000, "x", "no frame 100000"),
                (id, 5, " ", "needs words"),
                (id, 5, new string('x', FrameNote.Longest + 1), "at most"),
                (99_999, 5, "x", "gone"),
            }
        )
        {
            var refused = await Assert.ThrowsAsync<RefusedException>(() => With<FrameNotes>(n => n.Keep(take, frame, text, default)));
            Assert.Contains(why, refused.Message, StringComparison.Ordinal);
        }

        // A note of another take is not taken away from here; one that is gone says so.
        Assert.Null(await With<FrameNotes, FrameNote?>(n => n.Remove(id + 1, kept[0].Id, default)));
        Assert.Equal("left hand lowered by 20 mm", (await With<FrameNotes, FrameNote?>(n => n.Remove(id, kept[0].Id, default)))!.Text);
        Assert.Null(await With<FrameNotes, FrameNote?>(n => n.Remove(id, kept[0].Id, default)));
        Assert.Equal(400, Assert.Single(await With<FrameNotes, IReadOnlyList<FrameNote>>(n => n.Of(id, default))).Frame);
    }

    [Fact]
    public async Task A_slate_is_written_as_a_whole_or_not_at_all()
    {
        var id = Take("HL_014_haul-rope_02");
        await using (var db = Db())
        {
            var take = await db.Takes.SingleAsync(t => t.Id == id);
            take.Devices = TakeDevice.Write([new TakeDevice("suit", "Suit", 900, 45, 11.0)]);
            await db.SaveChangesAsync();
        }

        async Task<string> Refused(Slates.Words words) =>
            (
                await Assert.ThrowsAsync<RefusedException>(() =>
                    With<Slates>(async s => await s.Write((await s.Find(id, default))!, words, default))
                )
            ).Message;

        var was = (await With<Slates, Take?>(s => s.Find(id, default)))!;
        var said = new Slates.Words { Rating = 4, Note = "good" };
        Assert.Contains("gone", await Refused(said with { MarkerSet = 99_999 }), StringComparison.Ordinal);
        Assert.Contains("gone", await Refused(said with { Parts = [99_999] }), StringComparison.Ordinal);
        foreach (var wrong in new[] { "soon", "2001", "-2001", "NaN", "" })
        {
            var message = await Refused(said with { Correction = new() { ["suit"] = wrong } });
            Assert.Contains($"Suit: '{wrong}' is not a correction", message, StringComparison.Ordinal);
        }

        var before = (await With<Slates, Take?>(s => s.Find(id, default)))!;
        Assert.Equal((was.Rating, was.Note), (before.Rating, before.Note));

        // A prop joins: it has a part after those there are, and a node to find it by.
        var prop = studio.Ids("Crate")[0];
        var parts = before.Parts.Select(p => p.SubjectId).ToArray();
        Assert.DoesNotContain(prop, parts);
        await With<Slates>(async s =>
            await s.Write(
                (await s.Find(id, default))!,
                said with
                {
                    Parts = [.. parts, prop],
                    Correction = new() { ["suit"] = "-12.5" },
                },
                default
            )
        );
        var after = (await With<Slates, Take?>(s => s.Find(id, default)))!;
        Assert.Equal((4, "good"), (after.Rating, after.Note));
        Assert.Equal(-12.5, TakeDevice.Of(after).Single().CorrectionMilliseconds);
        Assert.Equal([.. parts, prop], after.Parts.OrderBy(p => p.Position).Select(p => p.SubjectId));
        await using (var db = Db())
        {
            Assert.Equal(1, await db.Nodes.CountAsync(n => n.TakeId == id && n.SubjectId == prop));
        }

        // Nobody is taken off by being left out.
        await With<Slates>(async s => await s.Write((await s.Find(id, default))!, said, default));
        Assert.Equal(parts.Length + 1, (await With<Slates, Take?>(s => s.Find(id, default)))!.Parts.Count);
    }

    [Fact]
    public async Task A_Finding_that_may_stay_is_out_of_the_list_until_it_is_regarded_again()
    {
        int id = Take("HL_009_lamp-walk_02"),
            other = Take("HL_014_haul-rope_01");
        var may = new Slates.MayStay
        {
            Kind = "gap",
            Subject = "Collar",
            Start = 5,
            End = 9,
            Reason = " behind the lantern ",
        };
        Assert.Empty(Wrong(may));
        Assert.Equal(["Say why it may stay: the next person will wonder."], Wrong(may with { Reason = " " }));
        await With<Slates>(s => s.Ignore(id, may, default));
        var row = Assert.Single(await With<Slates, IReadOnlyList<IgnoredFinding>>(s => s.Ignored(id, default)));
        Assert.Equal(("gap", "Collar", 5, 9, "behind the lantern"), (row.Kind, row.Subject, row.Start, row.End, row.Reason));
        // Another take's page cannot bring it back.
        await With<Slates>(s => s.Regard(other, row.Id, default));
        Assert.Single(await With<Slates, IReadOnlyList<IgnoredFinding>>(s => s.Ignored(id, default)));
        await With<Slates>(s => s.Regard(id, row.Id, default));
        Assert.Empty(await With<Slates, IReadOnlyList<IgnoredFinding>>(s => s.Ignored(id, default)));
    }

    [Theory]
    [InlineData(0, 1, 0, 0, true)]
    [InlineData(-4.2, 0.25, 1, 3, true)]
    [InlineData(0, 1, 2, 2, false)]
    [InlineData(0, 1, 3, 2, false)]
    [InlineData(0, 0.001, 0, 0, false)]
    [InlineData(0, 17, 0, 0, false)]
    [InlineData(2e5, 1, 0, 0, false)]
    [InlineData(0, 1, -1, 0, false)]
    public void A_film_ends_after_it_begins(double offset, double speed, double from, double to, bool good)
    {
        var lines = new Films.Lines
        {
            Offset = offset,
            Speed = speed,
            From = from,
            To = to,
        };
        Assert.Equal(good, Wrong(lines).Count == 0);
    }

    [Fact]
    public async Task A_film_takes_the_place_of_the_one_before_and_what_is_none_takes_nobodys()
    {
        var id = Take("HL_014_haul-rope_01");
        static MemoryStream Webm(byte more) => new([0x1A, 0x45, 0xDF, 0xA3, more, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0]);
        await With<Films>(f => f.Put(id, "one.webm", Webm(1), default));
        await With<Films>(f =>
            f.Set(
                id,
                new Films.Lines
                {
                    Offset = 0.5,
                    Speed = 2,
                    From = 1,
                    To = 4,
                },
                default
            )
        );
        await With<Films>(f => f.Place(id, new JsonObject { ["rms"] = 1.5 }, default));
        var film = (await With<Films, WitnessVideo?>(f => f.Of(id, default)))!;
        Assert.Equal(
            ("one.webm", "video/webm", 0.5, 2.0, 1.0, 4.0),
            (film.FileName, film.ContentType, film.OffsetSeconds, film.Speed, film.TrimStart, film.TrimEnd)
        );
        Assert.Contains("1.5", film.Camera, StringComparison.Ordinal);

        var e = await Assert.ThrowsAsync<RefusedException>(() =>
            With<Films>(f => f.Put(id, "notes.txt", new MemoryStream("no film at all, really"u8.ToArray()), default))
        );
        Assert.Equal("notes.txt: byte 0: this is neither an mp4 nor a webm film.", e.Message);
        Assert.Equal("one.webm", (await With<Films, WitnessVideo?>(f => f.Of(id, default)))!.FileName);

        byte[] mp4 = [0, 0, 0, 24, (byte)'f', (byte)'t', (byte)'y', (byte)'p', 1, 2, 3, 4, 5, 6, 7, 8, 9];
        await With<Films>(f => f.Put(id, "two.mp4", new MemoryStream(mp4), default));
        film = (await With<Films, WitnessVideo?>(f => f.Of(id, default)))!;
        Assert.Equal(("two.mp4", "video/mp4", 1.0), (film.FileName, film.ContentType, film.Speed));
        await using (var db = Db())
        {
            Assert.Equal(1, await db.Videos.CountAsync(v => v.TakeId == id));
        }

        await With<Films>(f => f.Drop(id, default));
        Assert.Null(await With<Films, WitnessVideo?>(f => f.Of(id, default)));
    }

    [Fact]
    public async Task The_next_slate_goes_on_from_the_last_take_or_from_the_one_that_is_named()
    {
        var next = (await With<RecordDesk, RecordDesk.Begin?>(d => d.Open(null, default)))!;
        Assert.Null(next.Template);
        Assert.NotNull(next.SetUp);
        Assert.All(Enum.GetValues<SubjectKind>(), kind => Assert.Contains(next.Shelf, s => s.Kind == kind));
        Assert.Contains(next.Shelf, s => s.Name == "Ines");
        Assert.InRange(next.JustKept.Count, 1, 3);
        Assert.All(next.JustKept, t => Assert.Equal(next.Day.Id, t.ShootDayId));
        Assert.NotEmpty(next.Sets);

        var id = Take("HL_009_lamp-walk_01");
        var again = (await With<RecordDesk, RecordDesk.Begin?>(d => d.Open(id, default)))!;
        Assert.Equal((id, again.Template!.SetUp, again.Template.ShootDayId), (again.Template.Id, again.SetUp, again.Day.Id));
        Assert.NotEmpty(again.Template.Parts);
        await using var db = Db();
        var most = await db.Takes.Where(t => t.SetUp == again.SetUp).MaxAsync(t => t.Number);
        Assert.Equal(most + 1, await With<RecordDesk, int>(d => d.NextNumber(again.Day.ProductionId, again.SetUp!, default)));
        Assert.Equal(1, await With<RecordDesk, int>(d => d.NextNumber(again.Day.ProductionId, "HL_777_nothing-yet", default)));
        Assert.Null((await With<RecordDesk, RecordDesk.Begin?>(d => d.Open(99_999, default)))!.Template);
    }

    [Fact]
    public async Task Marker_sets_have_names_of_their_own_and_change_only_where_the_edit_works()
    {
        async Task<string> Refused(string name) =>
            (
                await Assert.ThrowsAsync<RefusedException>(() => With<MarkerSetLibrary>(l => l.Add(new MarkerSet(name, [], []), default)))
            ).Message;
        Assert.Contains("1 to 60", await Refused(string.Empty), StringComparison.Ordinal);
        Assert.Contains("1 to 60", await Refused(new string('x', 61)), StringComparison.Ordinal);
        var row = await With<MarkerSetLibrary, MarkerSetRow>(l => l.Add(new MarkerSet("Two dots", [], []), default));
        Assert.Contains("already", await Refused("Two dots"), StringComparison.Ordinal);
        Assert.Empty(MarkerSetLibrary.Read(row).Markers);

        Assert.True(await With<MarkerSetLibrary, bool>(l => l.Change(row.Id, s => MarkerSetEdits.Add(s, "TopL", BodyRole.Head), default)));
        Assert.False(await With<MarkerSetLibrary, bool>(l => l.Change(99_999, s => s, default)));
        await Assert.ThrowsAsync<RefusedException>(() =>
            With<MarkerSetLibrary>(l => l.Change(row.Id, s => MarkerSetEdits.Add(s, "TopL", BodyRole.Head), default))
        );
        var kept = (await With<MarkerSetLibrary, MarkerSetRow?>(l => l.Find(row.Id, default)))!;
        Assert.Equal(["TopL"], MarkerSetLibrary.Read(kept).Markers.Select(m => m.Name));
        Assert.Equal("Two dots", MarkerSetLibrary.Read(kept).Name);
        var all = await With<MarkerSetLibrary, IReadOnlyList<MarkerSetRow>>(l => l.All(default));
        Assert.Equal(all.Select(s => s.Name).Order(StringComparer.Ordinal), all.Select(s => s.Name));
        Assert.Null(await With<MarkerSetLibrary, MarkerSetRow?>(l => l.Find(99_999, default)));
    }

    [Fact]
    public async Task A_performer_is_measured_from_takes_it_is_on_ranges_of_motion_first()
    {
        var ines = studio.Ids("Ines")[0];
        var takes = await With<ShelfService, IReadOnlyList<Take>>(s => s.References(ines, default));
        Assert.Contains("rom", takes[0].SetUp, StringComparison.Ordinal);
        Assert.Equal("Ines", await With<ShelfService, string?>(s => s.OnTake(ines, takes[0].Id, default)));
        Assert.Null(await With<ShelfService, string?>(s => s.OnTake(ines, Take("HL_014_haul-rope_01") + 10_000, default)));
        Assert.True(await With<ShelfService, bool>(s => Task.FromResult(s.Current(ines)!.Measured)));
        var free = await With<ShelfService, string>(s => s.FreePropName(default));
        await using var db = Db();
        Assert.False(await db.Subjects.AnyAsync(s => s.Name == free));
        Assert.Contains(await With<ShelfService, IReadOnlyList<ShelfService.Prop>>(s => Task.FromResult(s.Props())), p =>
            p.Subject.Name == "Crate"
        );
    }

    [Fact]
    public async Task A_day_is_told_with_its_takes_and_a_Recipe_wants_one_that_is_there()
    {
        var table = await With<RecipeService, RecipeService.DayTable>(r => r.Of(null, default));
        Assert.Equal(table.Days[^1].Id, table.Day!.Id);
        var first = await With<RecipeService, RecipeService.DayTable>(r => r.Of(table.Days[0].Id, default));
        Assert.Equal(table.Days[0].Id, first.Day!.Id);
        Assert.NotEmpty(first.Takes);
        Assert.All(first.Takes, t => Assert.Equal((first.Day.Id, TakeState.Kept), (t.ShootDayId, t.State)));
        Assert.All(first.Entries, e => Assert.Contains(first.Takes, t => t.Id == e.Key));
        Assert.Equal(table.Day.Id, (await With<RecipeService, RecipeService.DayTable>(r => r.Of(99_999, default))).Day!.Id);
        Assert.False(await With<RecipeService, bool>(r => r.Start(99_999, [first.Takes[0].Id], default)));
    }

    [Fact]
    public async Task A_character_without_a_motion_anywhere_does_not_enter_a_scene()
    {
        var production = await With<Productions, Production>(p => p.Own(default));
        var scene = await With<SceneService, Scene>(s => s.Add(production.Id, null, "An empty quay", default));
        Assert.Equal("An empty quay", await With<SceneService, string?>(s => s.NameOf(scene.Id, default)));
        Assert.Null(await With<SceneService, string?>(s => s.NameOf(99_999, default)));
        var absent = await With<SceneService, IReadOnlyList<Subject>>(s => s.Characters(s.Open(scene.Id), default));
        Assert.NotEmpty(absent);
        Assert.All(absent, a => Assert.Equal(SubjectKind.Character, a.Kind));
        Assert.Null(await With<SceneService, NodeRow?>(s => s.Enter(99_999, absent[0].Id, default)));
        var e = await Assert.ThrowsAsync<RefusedException>(() => With<SceneService>(s => s.Enter(scene.Id, 99_999, default)));
        Assert.Contains("retarget one first", e.Message, StringComparison.Ordinal);
        Assert.Empty(await With<SceneService, IReadOnlyList<OpenScene.Track>>(s => Task.FromResult(s.Open(scene.Id).Tracks)));
    }

    [Fact]
    public async Task A_job_is_as_far_as_it_says_itself_and_done_is_all_of_it()
    {
        await using var db = Db();
        var row = new JobRow
        {
            Title = "Solve",
            Kind = JobKinds.Change,
            State = JobState.Running,
            Progress = 0.4,
            TakeId = Take("HL_014_haul-rope_03"),
        };
        db.Jobs.Add(row);
        await db.SaveChangesAsync();
        Assert.Equal(row.Id, (await With<JobBook, JobRow?>(j => j.OpenOf(LedgerOwner.Take(row.TakeId!.Value), default)))!.Id);
        Assert.Equal(0.4, await With<JobBook, double>(j => Task.FromResult(j.ProgressOf(row))));
        row.State = JobState.Done;
        await db.SaveChangesAsync();
        Assert.Equal(1, await With<JobBook, double>(j => Task.FromResult(j.ProgressOf(row))));
        Assert.Null(await With<JobBook, JobRow?>(j => j.OpenOf(LedgerOwner.Take(row.TakeId!.Value), default)));
        Assert.Null(await With<JobBook, JobRow?>(j => j.Find(99_999, default)));
    }

    [Fact]
    public async Task The_stage_follows_the_production_and_the_last_calibration_counts()
    {
        var settings = studio.Services.GetRequiredService<StageSettings>();
        await using (var db = Db())
        {
            var last = await db.Calibrations.AsNoTracking().OrderByDescending(c => c.Id).FirstOrDefaultAsync();
            Assert.Equal(last?.Id, (await settings.LastCalibration(default))?.Id);
        }

        var before = settings.Ring;
        await With<Productions>(p => p.Change(x => x.FrameRate = 100, default));
        Assert.Equal(before.Rate, settings.Rate);
        settings.Read();
        Assert.Equal(100, settings.Rate);
        await With<Productions>(p => p.Change(x => x.FrameRate = before.Rate, default));
        settings.Read();
        Assert.Equal(before.Rate, settings.Rate);
    }
}
