using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Storage.Results;

namespace Eidolon.Storage.Tests;

/// <summary>Values by content, a part at a time; with limits.</summary>
public sealed class ResultStoreTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("eidolon-results").FullName;

    public void Dispose()
    {
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        Directory.Delete(_folder, recursive: true);
    }

    private ResultStore Store(long limit = 1L << 30, long memory = 1 << 30) => new(_folder, limit, memory);

    private static ResultNote Note(NodeValue value) =>
        new(ContentHash.Of(value), new EntryReport("said", new JsonObject { ["k"] = 1 }), 2.5);

    private static MarkerValue Markers(int seed = 1, int frames = 500) =>
        new(Studio.Markers(frames, seed)) { Pinned = [new PinnedLabel("B", 4, 9)], Automatic = ["A", "C"] };

    private static MotionValue Motion()
    {
        var s = Anthropometry.Body(1.7f);
        var motion = new Motion(
            s,
            60,
            3,
            [.. Enumerable.Range(0, 3 * s.Count).Select(i => Quaternion.Normalize(new Quaternion(i, 1, 2, 3)))],
            [.. Enumerable.Range(0, 3 * s.Count).Select(i => s[i % s.Count].Offset + (i == 0 ? Vector3.UnitX : default))]
        )
        {
            FirstFrame = 7,
            Morphs = new Dictionary<string, float[]> { ["AU12L"] = [0, 0.5f, 1] },
        };
        return new MotionValue(motion) { Contacts = [new ContactEdit(ContactPoint.Heel, 'L', 1, 2, true)] };
    }

    public static TheoryData<NodeValue> Values =>
        [
            Markers(),
            Motion(),
            new PlacesValue(new PropPlaces(100, [Vector3.One, MarkerTake.Hidden], [Quaternion.Identity, new(0, 1, 0, 0)], 5)),
            new MarkerValue(new MarkerTake([], 24, 12)),
        ];

    [Theory]
    [MemberData(nameof(Values))]
    public void A_value_is_found_again_by_a_new_studio_with_everything_it_says(NodeValue value)
    {
        var note = Note(value);
        Store().Keep(5, note, value, quick: false);
        var again = Store();
        var back = again.Value(note.Content);
        Assert.NotNull(back);
        // The hash covers names, decisions, skeleton and every sample.
        Assert.Equal(note.Content, ContentHash.Of(back));
        var known = again.Find(5)!;
        Assert.Equal(("said", 2.5, (string?)null), (known.Report.Summary, known.Seconds, known.Refusal));
        Assert.Equal(1, (int)known.Report.Report["k"]!);
        Assert.Null(again.Find(6));
    }

    [Fact]
    public void Pinned_and_automatic_names_outlive_the_studio()
    {
        var value = Markers();
        Store().Keep(5, Note(value), value, quick: false);
        var back = (MarkerValue)Store().Value(ContentHash.Of(value))!;
        Assert.Equal([new PinnedLabel("B", 4, 9)], back.Pinned);
        Assert.Equal(["A", "C"], back.Automatic);
        var contacts = Motion();
        Store().Keep(6, Note(contacts), contacts, quick: false);
        Assert.Equal(contacts.Contacts, ((MotionValue)Store().Value(ContentHash.Of(contacts))!).Contacts);
    }

    [Fact]
    public void Each_thing_a_value_says_changes_its_content()
    {
        var value = Markers();
        MarkerTake With(Action<MarkerTake> change)
        {
            var copy = value.Take.Copy();
            change(copy);
            return copy;
        }

        var m = Motion();
        NodeValue[] different =
        [
            value,
            value with
            {
                Take = With(t => t[3, 2] += new Vector3(1e-6f, 0, 0)),
            },
            value with
            {
                Take = value.Take.Renamed(["A", "B", "C", "D", "Dot_002"]),
            },
            value with
            {
                Take = new MarkerTake(value.Take.Names, 60, value.FrameCount, value.Take.Positions),
            },
            value with
            {
                Take = new MarkerTake(value.Take.Names, 120, value.FrameCount, value.Take.Positions) { FirstFrame = 3 },
            },
            value with
            {
                Pinned = [],
            },
            value with
            {
                Automatic = ["A"],
            },
            m,
            m with
            {
                Contacts = [],
            },
            m with
            {
                Motion = new Motion(
                    new Skeleton(m.Motion.Skeleton.Joints.Select((j, i) => i == 2 ? j with { Offset = j.Offset * 0.5f } : j)),
                    60,
                    3,
                    m.Motion.Rotations,
                    m.Motion.Translations
                ),
            },
        ];
        Assert.Equal(different.Length, different.Select(ContentHash.Of).Distinct().Count());
    }

    [Fact]
    public void A_value_that_changes_one_channel_stores_one_channel()
    {
        var store = Store();
        var (first, second) = (Markers(), Markers());
        second.Take[3, 2] = new Vector3(9);
        store.Keep(1, Note(first), first, quick: false);
        var before = store.StoredBytes();
        store.Keep(2, Note(second), second, quick: false);
        Assert.Equal(500 * 12, store.StoredBytes() - before);
        Assert.All(Directory.GetFiles(Path.Combine(_folder, "values"), "*", SearchOption.AllDirectories), f =>
            Assert.True(new FileInfo(f).Length <= 500 * 12)
        );
    }

    [Fact]
    public void Over_its_limit_the_store_forgets_what_was_used_least_lately()
    {
        var store = Store(limit: 70_000);
        var values = Enumerable.Range(1, 4).Select(s => Markers(s)).ToArray();
        for (var i = 0; i < values.Length; i++)
        {
            store.Keep((UInt128)(uint)i, Note(values[i]), values[i], quick: false);
            // The first is looked at again and again.
            Store(limit: 70_000).Value(ContentHash.Of(values[0]));
        }

        var again = Store();
        Assert.True(again.StoredBytes() <= 70_000);
        Assert.NotNull(again.Value(ContentHash.Of(values[3])));
        Assert.NotNull(again.Value(ContentHash.Of(values[0])));
        Assert.Null(again.Value(ContentHash.Of(values[1])));
        // Notes are small and stay: what was forgotten can be made again.
        Assert.NotNull(again.Find(1));
        var files = Directory.GetFiles(Path.Combine(_folder, "values"), "*", SearchOption.AllDirectories).Sum(f => new FileInfo(f).Length);
        Assert.Equal(again.StoredBytes(), files);
    }

    [Fact]
    public void Memory_has_a_limit_too_and_keeps_what_was_used_last()
    {
        var memory = new ValueMemory(70_000);
        for (var i = 1; i <= 5; i++)
        {
            memory.Keep((UInt128)(uint)i, Markers(i));
            memory.Find(1);
        }

        Assert.InRange(memory.Bytes, 1, 70_000);
        Assert.NotNull(memory.Find(1));
        Assert.NotNull(memory.Find(5));
        Assert.Null(memory.Find(3));
        // One that is larger than the limit is kept alone: it is being looked at.
        memory.Keep(9, Markers(9, 5000));
        Assert.NotNull(memory.Find(9));
        Assert.Equal(1, memory.Count);
    }

    [Fact]
    public void A_damaged_or_missing_part_makes_the_value_be_made_again_never_wrong()
    {
        var value = Markers();
        Store().Keep(5, Note(value), value, quick: false);
        var file = Directory.GetFiles(Path.Combine(_folder, "values"), "*", SearchOption.AllDirectories)[0];
        var bytes = File.ReadAllBytes(file);
        bytes[40] ^= 1;
        File.WriteAllBytes(file, bytes);
        var again = Store();
        Assert.Null(again.Value(ContentHash.Of(value)));
        again.Keep(5, Note(value), value, quick: false);
        // The damaged part is written anew: it has another length or is found by its bytes only.
        File.Delete(file);
        Assert.Null(Store().Value(ContentHash.Of(value)));
        var last = Store();
        last.Keep(5, Note(value), value, quick: false);
        Assert.NotNull(Store().Value(ContentHash.Of(value)));
    }

    [Fact]
    public void Quick_results_are_not_stored_and_refusals_are_remembered()
    {
        var store = Store();
        var value = Markers();
        store.Keep(5, Note(value), value, quick: true);
        store.Keep(6, ResultNote.Refused("no such marker"), null, quick: false);
        Assert.NotNull(store.Value(ContentHash.Of(value)));
        Assert.Null(Store().Value(ContentHash.Of(value)));
        Assert.Equal(0, store.StoredBytes());
        Assert.Equal("no such marker", Store().Find(6)!.Refusal);
    }
}
