using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Quality;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Markers;

public sealed class TrajectoryEditsTests
{
    private static MarkerTake Small()
    {
        var take = new MarkerTake(["HipFrontL", "KneeOutL", "Dot_003", "Crown"], 120, 40);
        for (var f = 0; f < 40; f++)
        {
            take[f, 0] = new Vector3(0.1f, 1, f * 0.01f);
            take[f, 1] = new Vector3(0.1f, 0.5f, f * 0.01f);
            take[f, 2] = f is >= 5 and < 9 ? new Vector3(3, 0, 0) : MarkerTake.Hidden;
            take[f, 3] = f < 30 ? new Vector3(0, 1.7f, f * 0.01f) : MarkerTake.Hidden;
        }

        return take;
    }

    [Theory]
    [InlineData(10, 39)]
    [InlineData(0, 9)]
    [InlineData(12, 20)]
    public void An_exchange_done_twice_changes_nothing(int from, int to)
    {
        var take = Small();
        var once = TrajectoryEdits.Exchange(take, "HipFrontL", "KneeOutL", from, to);
        Assert.Equal(take[from, 1], once[from, 0]);
        Assert.Equal(from > 0 ? take[from - 1, 0] : take[to + 1, 0], from > 0 ? once[from - 1, 0] : once[to + 1, 0]);
        Assert.Equal(take.Positions, TrajectoryEdits.Exchange(once, "KneeOutL", "HipFrontL", from, to).Positions);
    }

    [Fact]
    public void Names_come_off_within_a_range_and_no_sample_is_lost()
    {
        var take = Small();
        var (off, changed) = TrajectoryEdits.Unname(take, n => n != "Crown", 10, 19);
        Assert.Equal(2, changed);
        Assert.All(Enumerable.Range(10, 10), f => Assert.False(MarkerTake.Seen(off[f, 0])));
        Assert.True(MarkerTake.Seen(off[9, 0]) && MarkerTake.Seen(off[20, 0]) && MarkerTake.Seen(off[15, 3]));
        Assert.Equal(take.Positions.Count(MarkerTake.Seen), off.Positions.Count(MarkerTake.Seen));
        Assert.Equal(["Dot_001", "Dot_002"], off.Names.Skip(4));
    }

    [Fact]
    public void A_trajectory_is_split_scraps_go_and_what_cannot_be_is_said()
    {
        var take = Small();
        var split = TrajectoryEdits.Split(take, "Crown", 12);
        Assert.Equal(12, split.VisibleFrames(3));
        Assert.Equal(18, split.VisibleFrames(4));
        Assert.Contains(
            "both sides",
            Assert.Throws<RefusedException>(() => TrajectoryEdits.Split(take, "Crown", 33)).Message,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "no trajectory 'Nobody'",
            Assert.Throws<RefusedException>(() => TrajectoryEdits.Exchange(take, "Nobody", "Crown", 0, 3)).Message,
            StringComparison.Ordinal
        );
        var (tidy, removed) = TrajectoryEdits.DropScraps(take, 4);
        Assert.Equal((1, 3), (removed, tidy.MarkerCount));
        Assert.Equal(0, TrajectoryEdits.DropScraps(take, 3).Removed);
    }

    [Fact]
    public void Swaps_are_found_where_they_were_made_and_nowhere_else()
    {
        var take = Acts.Labelled(
            Acts.Perform("gangplank-hop", new Person("Runa", 1.69f, 1.01f, 41), 2),
            new MarkerSimulator.Settings(SpikesPerMinute: 12)
        );
        Assert.Empty(SwapFinder.Find(take));
        var swapped = TrajectoryEdits.Exchange(
            TrajectoryEdits.Exchange(take, "KneeOutL", "KneeInL", 200, 420),
            "WristThumbR",
            "WristLittleR",
            310,
            take.FrameCount - 1
        );
        Assert.Equal([200, 310, 421], SwapFinder.Find(swapped).Select(s => s.Frame));
        Assert.Contains(MarkerFindings.Find(swapped), f =>
            f is { Kind: "swap", Start: 310, Severity: Severity.MustFix }
            && new[] { f.Subject, f.Other }.Order().SequenceEqual(["WristLittleR", "WristThumbR"])
        );
    }

    [Fact]
    public void Labels_come_off_one_part_of_one_performer()
    {
        var performance = Acts.Perform("crate-carry", HarbourCast.Ines, 1);
        var take = Acts.Labelled(performance);
        var result = LabelOperations.Unlabel.Run(
            new OperationInput(new MarkerValue(take)),
            new JsonObject
            {
                ["part"] = "Left leg",
                ["performer"] = "Tobi",
                ["from"] = 0,
                ["to"] = take.FrameCount - 1,
            },
            new OperationContext(new Eidolon.Cli.FileResources { Set = HarbourMarkers.Set() })
        );
        var after = ((MarkerValue)result.Value).Take;
        Assert.Equal(0, after.VisibleFrames(after.IndexOf("Tobi:KneeOutL")));
        Assert.True(after.VisibleFrames(after.IndexOf("Tobi:KneeOutR")) > 0 && after.VisibleFrames(after.IndexOf("Ines:KneeOutL")) > 0);
        Assert.StartsWith("10 names off", result.Summary, StringComparison.Ordinal);
    }
}
