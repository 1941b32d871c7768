using System.Numerics;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Tests.Markers;

public sealed class TakeDifferenceTests
{
    private static MarkerTake Random(int seed, int frames = 400, int markers = 7)
    {
        var random = new Random(seed);
        var take = new MarkerTake([.. Enumerable.Range(0, markers).Select(m => $"M{m}")], 120, frames);
        for (var i = 0; i < take.Positions.Length; i++)
        {
            take.Positions[i] =
                random.NextDouble() < 0.1 ? MarkerTake.Hidden : new Vector3(random.NextSingle(), random.NextSingle(), random.NextSingle());
        }

        return take;
    }

    /// <summary>What a page does with a difference.</summary>
    private static Vector3[] Apply(MarkerTake before, MarkerTake after, TakeDifference d)
    {
        var result = new Vector3[after.Positions.Length];
        for (var f = 0; f < after.FrameCount; f++)
        {
            for (var m = 0; m < after.MarkerCount; m++)
            {
                result[(f * after.MarkerCount) + m] = d.Sources[m] >= 0 ? before[f, d.Sources[m]] : MarkerTake.Hidden;
            }
        }

        foreach (var (column, start, length) in d.Runs)
        {
            for (var f = start; f < start + length; f++)
            {
                result[(f * after.MarkerCount) + column] = after[f, column];
            }
        }

        return result;
    }

    [Fact]
    public void Any_edit_can_be_told_as_a_difference()
    {
        var random = new Random(4);
        for (var k = 0; k < 60; k++)
        {
            var before = Random(k);
            var (a, b, from) = ($"M{random.Next(7)}", $"M{random.Next(7)}", random.Next(300));
            var after = (k % 6) switch
            {
                0 when a != b => TrajectoryEdits.Exchange(before, a, b, from, from + 50),
                1 => TrajectoryEdits.Unname(before, n => n == a, from, from + 60).Take,
                2 => TrajectoryEdits.Split(before, a, from + 10),
                3 when a != b => TrajectoryEdits.Join(before, a, b),
                4 => before.Renamed([.. before.Names.Select(n => n == a ? "Crown" : n)]),
                _ => before.Only(["M6", "M2", "M0"]),
            };
            var d = TakeDifference.Between(before, after);
            var (expected, got) = (after.Positions, Apply(before, after, d));
            Assert.All(Enumerable.Range(0, expected.Length), i =>
                Assert.True(
                    expected[i].Equals(got[i]) || (!MarkerTake.Seen(expected[i]) && !MarkerTake.Seen(got[i])),
                    $"edit {k}, sample {i}"
                )
            );
        }
    }

    [Fact]
    public void Only_what_changed_is_told()
    {
        var before = Random(9);
        var after = before.Copy();
        after[100, 3] = new Vector3(5);
        after[101, 3] = new Vector3(6);
        after[300, 3] = new Vector3(7);
        Assert.Equal([(3, 100, 2), (3, 300, 1)], TakeDifference.Between(before, after).Runs);
        Assert.Empty(TakeDifference.Between(before, before.Renamed([.. before.Names.Select(n => n + "x")])).Runs);
        Assert.Throws<ArgumentException>(() => TakeDifference.Between(before, before.Range(0, 100)));
    }

    [Fact]
    public void A_renamed_column_comes_from_the_one_whose_samples_it_has()
    {
        var before = Random(2);
        var after = before.Renamed(["M0", "M1", "PelvisL", "M3", "PelvisR", "M5", "M6"]);
        Assert.Equal([0, 1, 2, 3, 4, 5, 6], TakeDifference.Between(before, after).Sources);
    }
}
