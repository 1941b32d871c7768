using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Cli;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;

namespace Eidolon.Core.Tests.Operations;

public sealed class LedgerTests
{
    private static readonly OperationContext Context = new(new FileResources());

    private static MarkerTake Dots() =>
        new(
            ["Dot_001", "Dot_002", "Crown"],
            120,
            4,
            [
                new(1),
                new(2),
                MarkerTake.Hidden,
                new(1),
                MarkerTake.Hidden,
                MarkerTake.Hidden,
                MarkerTake.Hidden,
                MarkerTake.Hidden,
                new(3),
                MarkerTake.Hidden,
                new(2),
                new(3),
            ]
        );

    private static MarkerTake Name(MarkerTake take, string dot, string name) =>
        LabelOperations.SetLabel.Run(new TakeData(take), new JsonObject { ["dot"] = dot, ["name"] = name }, Context).Data.Markers!;

    [Fact]
    public void A_dot_takes_a_free_name()
    {
        var named = Name(Dots(), "Dot_002", "BrowL");
        Assert.Equal(["Dot_001", "BrowL", "Crown"], named.Names);
    }

    [Fact]
    public void A_dot_joins_a_name_that_is_there_and_gives_way_nowhere()
    {
        var joined = Name(Dots(), "Dot_001", "Crown");
        // Frames 0 and 1 had no Crown: they come from the dot; where nothing met, the dot's own column is gone.
        Assert.Equal(1, joined[0, joined.IndexOf("Crown")].X);
        Assert.Equal(3, joined[2, joined.IndexOf("Crown")].X);
        Assert.Equal(-1, joined.IndexOf("Dot_001"));
        Assert.Equal(Dots().Positions.Count(MarkerTake.Seen), joined.Positions.Count(MarkerTake.Seen));
    }

    [Fact]
    public void Where_both_are_seen_the_hand_wins_and_nothing_is_lost()
    {
        var take = Dots();
        take[3, 0] = new Vector3(9);
        var joined = Name(take, "Dot_001", "Crown");
        Assert.Equal(9, joined[3, joined.IndexOf("Crown")].X);
        Assert.Equal(3, joined[3, joined.IndexOf("Dot_001")].X);
    }

    [Fact]
    public void A_label_taken_off_leaves_a_nameless_dot()
    {
        var bare = Name(Dots(), "Crown", "");
        Assert.True(bare.Names.All(MarkerNames.IsUnnamed));
        Assert.Throws<ArgumentException>(() => Name(Dots(), "Dot_099", "Crown"));
    }

    [Fact]
    public void Only_what_comes_after_a_change_is_run_again()
    {
        var cache = new Counting();
        Entry[] entries =
        [
            MarkerOperations.Despike.Entry(),
            MarkerOperations.Fill.Entry(new JsonObject { ["longest"] = 5 }),
            MarkerOperations.Fill.Entry(new JsonObject { ["longest"] = 50 }),
        ];
        Ledger.Run(() => new TakeData(Dots()), 1, entries, Context, cache);
        Assert.Equal(3, cache.Kept);
        Ledger.Run(() => new TakeData(Dots()), 1, entries, Context, cache);
        Assert.Equal(3, cache.Kept);
        entries[2] = entries[2] with { Parameters = new JsonObject { ["longest"] = 60 } };
        Ledger.Run(() => new TakeData(Dots()), 1, entries, Context, cache);
        Assert.Equal(4, cache.Kept);
        entries[0] = entries[0] with { On = false };
        var (_, results, _) = Ledger.Run(() => new TakeData(Dots()), 1, entries, Context, cache);
        Assert.Equal(6, cache.Kept);
        Assert.Null(results[0]);
    }

    [Fact]
    public void A_stopped_run_stops()
    {
        using var stop = new CancellationTokenSource();
        stop.Cancel();
        Assert.Throws<OperationCanceledException>(() =>
            Ledger.Run(() => new TakeData(Dots()), 1, [MarkerOperations.Despike.Entry()], Context with { Cancel = stop.Token })
        );
    }

    [Theory]
    [InlineData("smooth", """{ "cutoff": 500 }""", "cut-off")]
    [InlineData("smooth", """{ "cutoff": "high" }""", "must be a number")]
    [InlineData("fill", """{ "method": "magic" }""", "fill method")]
    [InlineData("solve", "{}", "no performer")]
    [InlineData("retarget", """{ "character": "Stevedore" }""", "not solved")]
    [InlineData("retarget", "{}", "'character'")]
    [InlineData("layer", """{ "joint": "Head" }""", "no motion")]
    [InlineData("assemble", "{}", "no motion")]
    public void Operations_say_what_is_missing(string operation, string parameters, string expected) =>
        Assert.Contains(
            expected,
            Assert
                .Throws<ArgumentException>(() =>
                    OperationRegistry.Find(operation).Run(new TakeData(Dots()), JsonNode.Parse(parameters)!.AsObject(), Context)
                )
                .Message,
            StringComparison.Ordinal
        );

    [Theory]
    [InlineData("""{ "travel": "teleport" }""")]
    [InlineData("""{ "place": { "HandL": 200 } }""")]
    [InlineData("""{ "place": { "Wing": 20 } }""")]
    public void A_setup_that_makes_no_sense_is_refused(string json) =>
        Assert.Throws<ArgumentException>(() => MotionOperations.SetupFrom(JsonNode.Parse(json)!.AsObject()));

    private sealed class Counting : Ledger.ICache
    {
        private readonly Dictionary<UInt128, OperationResult> _known = [];

        public int Kept => _known.Count;

        public OperationResult? Find(UInt128 hash) => _known.GetValueOrDefault(hash);

        public EntryReport? Report(UInt128 hash) => Find(hash);

        public void Keep(UInt128 hash, OperationResult result, bool light) => _known.Add(hash, result);
    }
}
