using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Inertial;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Eidolon.Core.Optical;
using Eidolon.Core.Video;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Storage.Samples;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Tests;

/// <summary>What suits and films recorded, as streams of a take; and where what is said of a recording stands in its node.</summary>
public sealed class FilmStreamTests : Studio
{
    [Fact]
    public async Task Films_come_back_bit_for_bit_with_their_cameras_in_their_order()
    {
        var value = Films();
        var take = await Filmed(
            value,
            [
                [.. Enumerable.Range(0, 1500 * 10).Select(i => i * 0.5f)],
                [],
            ]
        );
        await using var db = CreateDbContext();
        var store = new SampleStore(db);
        SampleStream[] streams =
        [
            .. db.Streams.AsNoTracking().Where(s => s.TakeId == take.Id && s.Kind == StreamKind.Film).OrderBy(s => s.Name),
        ];
        var back = store.ReadFilms(streams, "t");
        Assert.Equal(ContentHash.Of(value), ContentHash.Of(back));
        Assert.Equal(["quay side", "stairs"], back.Cameras.Select(c => c.Name));
        Assert.Equal((true, false), (back.Cameras[0].IsPlaced, back.Cameras[1].IsPlaced));
        Assert.All(streams, s => Assert.Equal(ContentHash.Text(ContentHash.Of(value)), s.Content));
        var picture = await db.Streams.AsNoTracking().SingleAsync(s => s.Kind == StreamKind.FilmPicture);
        Assert.Equal((StreamNames.Picture(Ines, 1), 7499.5f), (picture.Name, store.ReadPicture(picture, 10, "t")[^1]));
    }

    [Fact]
    public async Task A_damaged_film_is_named_with_its_frame_and_its_solve_says_so()
    {
        var take = await Filmed(Films());
        await using var db = CreateDbContext();
        var stream = await db.Streams.AsNoTracking().SingleAsync(s => s.Name == StreamNames.Film(Ines, 2));
        await db.Database.ExecuteSqlAsync(
            $"UPDATE Chunks SET Data = zeroblob(length(Data)) WHERE StreamId = {stream.Id} AND FirstFrame = 1200"
        );
        var said = Assert.Throws<DamagedDataException>(() => new SampleStore(db).ReadFilms([stream], "HL_044"));
        Assert.Contains("1200", said.Message, StringComparison.Ordinal);
        Assert.Contains("HL_044", said.Message, StringComparison.Ordinal);
        Assert.Null(Book.Look(LedgerOwner.Take(take.Id)) is var look ? look.Value(look.Find(NodeKind.Solve, Ines)!) : null);
    }

    [Fact]
    public async Task Points_put_right_stand_before_the_solve_and_the_node_shows_films_until_it_is_solved()
    {
        var take = await Filmed(Films());
        var owner = LedgerOwner.Take(take.Id);
        var node = Book.Look(owner).Find(NodeKind.Solve, Ines)!;
        JsonObject Point(int frame) =>
            new()
            {
                ["points"] = new JsonArray(
                    new JsonObject
                    {
                        ["film"] = 1,
                        ["frame"] = frame,
                        ["point"] = "KneeL",
                        ["u"] = 7,
                        ["v"] = 8,
                    }
                ),
            };
        Book.Keep(owner, new AddEntries("film-points", Point(3), node.Id));
        var value = Assert.IsType<FilmValue>(Book.Look(owner) is var l ? l.Value(l.Find(NodeKind.Solve, Ines)!) : null);
        Assert.Equal(new FilmFix(1, 3, "KneeL", 7, 8), Assert.Single(value.Fixes));
        var said = Assert.Throws<RefusedException>(() => Book.Keep(owner, new AddEntries("film-points", Point(5000), node.Id)));
        Assert.Contains("no frame 5000", said.Message, StringComparison.Ordinal);
        Assert.Single(Book.Read(owner).Nodes.Single(n => n.Id == node.Id).Entries);
    }

    [Theory]
    [InlineData("solve-video", "contacts,film-points,contacts", "contacts film-points contacts solve-video")]
    [InlineData("solve-suit", "contacts,close-path", "contacts solve-suit close-path")]
    [InlineData("solve", "contacts,trim-motion", "solve contacts trim-motion")]
    public void What_is_said_of_a_recording_goes_before_what_is_made_of_it(string solve, string after, string order)
    {
        var draft = new LedgerDraft(LedgerOwner.Take(1), 1, [new DraftNode(1, NodeKind.Solve, new NodeScope(1), "markers", [])], []);
        foreach (var operation in after.Split(',').Prepend(solve))
        {
            draft = LedgerEdits.Apply(draft, new AddEntries(operation, [])).Draft;
        }

        Assert.Equal(order, string.Join(' ', draft.Nodes[0].Entries.Select(e => e.Entry.Operation)));
        // A solve that is asked for again takes the place it has.
        var again = LedgerEdits.Apply(draft, new AddEntries(solve, [])).Draft;
        Assert.Equal(order, string.Join(' ', again.Nodes[0].Entries.Select(e => e.Entry.Operation)));
    }

    [Fact]
    public void A_solve_from_another_recording_takes_the_place_of_the_one_there_was_and_can_be_taken_back()
    {
        var draft = new LedgerDraft(LedgerOwner.Take(1), 1, [new DraftNode(1, NodeKind.Solve, new NodeScope(1), "markers", [])], []);
        LedgerDraft Add(string operation, JsonObject said) => LedgerEdits.Apply(draft, new AddEntries(operation, said)).Draft;
        string Now() => string.Join(' ', draft.Nodes[0].Entries.Select(e => e.Entry.Operation + e.Entry.Parameters["late"]));
        draft = Add("solve", []);
        draft = Add("trim-motion", []);
        draft = Add("solve-suit", new JsonObject { ["late"] = 2 });
        Assert.Equal("solve-suit2 trim-motion", Now());
        draft = Add("solve-video", []);
        Assert.Equal("solve-video trim-motion", Now());
        // Asked for again without a word it says what it said.
        draft = Add("solve-suit", []);
        Assert.Equal("solve-suit2 trim-motion", Now());
        draft = LedgerEdits.Apply(draft, new TakeBackEntry()).Draft;
        Assert.Equal("solve-video trim-motion", Now());
        draft = LedgerEdits.Apply(draft, new BringAgain()).Draft;
        Assert.Equal("solve-suit2 trim-motion", Now());
        for (var k = 0; k < 3; k++)
        {
            draft = LedgerEdits.Apply(draft, new TakeBackEntry()).Draft;
        }

        Assert.Equal("solve trim-motion", Now());
    }

    [Fact]
    public async Task Recordings_of_one_performance_stand_together_on_the_takes_clock()
    {
        var marked = await Take(null, Ines);
        var filmed = await Filmed(Films());
        await using var db = CreateDbContext();
        var suit = new SuitTake(100, new float[200 * SuitTake.Stride]);
        NodeValue? Root(Take take) =>
            Book.Look(LedgerOwner.Take(take.Id)) is var l ? l.Runner.ValueAfter(l.Find(NodeKind.Solve, Ines)!.Id, 0) : null;
        Assert.Null(Root(marked));
        Assert.IsType<FilmValue>(Root(filmed));
        foreach (var take in new[] { marked, filmed })
        {
            await new SampleStore(db).WriteSuit(take.Id, Ines, suit);
            var recorded = Assert.IsType<RecordedValue>(Root(take));
            Assert.Equal((take.FrameRate, take.FrameCount, 200), (recorded.FrameRate, recorded.FrameCount, recorded.Suit!.FrameCount));
            Assert.Equal(take == filmed, recorded.Films is not null);
            // It is known by the same name however it is asked for.
            var look = Book.Look(LedgerOwner.Take(take.Id));
            Assert.Equal(ContentHash.Of(recorded), look.Runner.ContentAfter(look.Find(NodeKind.Solve, Ines)!.Id, 0));
        }
    }

    [Fact]
    public async Task A_suit_comes_back_bit_for_bit_lost_samples_too()
    {
        var take = await Take();
        await using var db = CreateDbContext();
        var samples = new float[1300 * SuitTake.Stride];
        for (var i = 0; i < samples.Length; i++)
        {
            samples[i] = i % 97 == 0 ? float.NaN : i * 0.25f;
        }

        await new SampleStore(db).WriteSuit(take.Id, Ines, new SuitTake(100, samples));
        var stream = await db.Streams.AsNoTracking().SingleAsync(s => s.Name == StreamNames.Suit(Ines));
        var back = new SampleStore(db).ReadSuit(stream, "t");
        Assert.Equal(ContentHash.Text(ContentHash.Of(new SuitValue(back))), stream.Content);
        Assert.Equal(samples, back.Samples);
    }

    private async Task<Take> Filmed(FilmValue value, IReadOnlyList<float[]>? pictures = null)
    {
        await using var db = CreateDbContext();
        var take = new Take
        {
            ShootDayId = 1,
            Name = $"HL_{Guid.NewGuid():N}",
            SetUp = "HL",
            Number = 1,
            FrameRate = 30,
            FrameCount = value.FrameCount,
            State = TakeState.Kept,
        };
        await TakeMaker.Add(db, take, [Ines], []);
        await new SampleStore(db).WriteFilms(take.Id, Ines, value, pictures);
        return take;
    }

    private static FilmValue Films()
    {
        var camera = CameraModel.Nominal("quay side", 1920, 1080, 1500);
        return new FilmValue(
            [
                new FilmTake(30, ["KneeL", "KneeR"], [.. Enumerable.Range(0, 1500 * 6).Select(i => i * 0.125f)]),
                new FilmTake(24, ["KneeL", "KneeR", "Neck"], [.. Enumerable.Range(0, 1400 * 9).Select(i => i % 31 == 0 ? float.NaN : i)]),
            ],
            [camera.LookingAt(new(0, 1.5, 5), new(0, 1, 0)), camera with { Name = "stairs", Focal = 1300 }]
        );
    }
}
