using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Cli;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;

namespace Eidolon.Core.Tests.Operations;

public sealed class OperationTests
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

    /// <summary>What the operation finds before it: the dots as the markers of its own node, or of the one it stands on.</summary>
    private static OperationInput Input(string operation) =>
        OperationRegistry.Find(operation).Node == NodeKind.Markers
            ? new OperationInput(new MarkerValue(Dots()))
            : new OperationInput(null, operation == "retarget" ? [] : [new MarkerValue(Dots())]);

    private static MarkerTake Name(MarkerTake take, string dot, string name) =>
        Samples.Operate(take, "set-label", new JsonObject { ["dot"] = dot, ["name"] = name }, Context);

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
        Assert.Throws<RefusedException>(() => Name(Dots(), "Dot_099", "Crown"));
    }

    [Fact]
    public void A_foot_that_is_locked_is_planted_with_heel_and_toe()
    {
        var motion = new MotionValue(Acts.Perform("lamp-walk", Eidolon.StandIns.People.HarbourCast.Ines, 1, 30).Actors[0].Motion);
        var asked = JsonNode.Parse(
            """{ "point": "foot", "side": "R", "edits": [{ "start": 4, "end": 9 }, { "start": 20, "end": 22, "planted": false }] }"""
        )!;
        var result = OperationRegistry.Find("contacts").Run(new OperationInput(motion, []), asked.AsObject(), Context);
        Assert.Equal(
            [
                new ContactEdit(ContactPoint.Heel, 'R', 4, 9, true),
                new ContactEdit(ContactPoint.Toe, 'R', 4, 9, true),
                new ContactEdit(ContactPoint.Heel, 'R', 20, 22, false),
                new ContactEdit(ContactPoint.Toe, 'R', 20, 22, false),
            ],
            ((MotionValue)result.Value).Contacts
        );
        Assert.Equal("foot R: locked 4 to 9, free 20 to 22", result.Summary);
    }

    [Theory]
    [InlineData("smooth", """{ "cutoff": 500 }""", "cut-off")]
    [InlineData("smooth", """{ "cutoff": "high" }""", "must be a number")]
    [InlineData("fill", """{ "method": "magic" }""", "fill method")]
    [InlineData("solve", "{}", "no performer")]
    [InlineData("retarget", "{}", "not solved")]
    [InlineData("layer", """{ "joint": "Head" }""", "no motion")]
    [InlineData("clips", "{}", "no clip")]
    [InlineData("loop", """{ "cycles": 0 }""", "no motion")]
    [InlineData("find-prop", "{}", "no prop")]
    [InlineData("contacts", """{ "point": "heel", "side": "L" }""", "solve the take first")]
    public void Operations_say_what_is_missing(string operation, string parameters, string expected) =>
        Assert.Contains(
            expected,
            Assert
                .Throws<RefusedException>(() =>
                    OperationRegistry.Find(operation).Run(Input(operation), JsonNode.Parse(parameters)!.AsObject(), Context)
                )
                .Message,
            StringComparison.Ordinal
        );

    [Theory]
    [InlineData("""{ "travel": "teleport" }""")]
    [InlineData("""{ "place": { "HandL": 200 } }""")]
    [InlineData("""{ "place": { "Wing": 20 } }""")]
    public void A_setup_that_makes_no_sense_is_refused(string json) =>
        Assert.Throws<RefusedException>(() => RetargetOperation.SetupFrom(JsonNode.Parse(json)!.AsObject()));
}
