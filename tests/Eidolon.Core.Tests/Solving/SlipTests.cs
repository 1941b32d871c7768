using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.Scenes;
using Eidolon.Testing;
using Xunit.Abstractions;

namespace Eidolon.Core.Tests.Solving;

/// <summary>Markers that are knocked in the middle of a take.</summary>
[Trait(LongRun.Run, LongRun.Whole)]
public sealed class SlipTests(Measured measured, ITestOutputHelper output) : IClassFixture<Measured>
{
    private static readonly MarkerSimulator.Settings Worn = new(SpikesPerMinute: 0, Skin: Skin.Soft);

    private (MarkerTake Take, Motion Truth) Act(string scene)
    {
        var performance = Acts.Perform(scene, measured.Person, 2);
        return (Acts.Labelled(performance, Worn), performance.Actors[0].Motion);
    }

    /// <summary>From a frame on the marker sits elsewhere on its bone: moved in the axes of the bone it hangs on, as the truth turns.</summary>
    private MarkerTake Knocked(MarkerTake take, Motion truth, string marker, int frame, Vector3 by)
    {
        var result = take.Copy();
        var joint = measured.Performer.Skeleton[measured.Performer.Markers.First(m => m.Name == marker).Joint].Role!.Value;
        var bone = truth.Skeleton.IndexOf(joint);
        var (turns, places) = (new Quaternion[truth.Skeleton.Count], new Vector3[truth.Skeleton.Count]);
        for (var f = frame; f < take.FrameCount; f++)
        {
            ForwardKinematics.World(truth, f, turns, places);
            result[f, take.IndexOf(marker)] += Vector3.Transform(by, turns[bone]);
        }

        return result;
    }

    private IReadOnlyList<Slip> Find(MarkerTake take) =>
        SlipFinder.Find(new BoneOffsets(measured.Performer, TakeSolver.Solve(measured.Performer, take).Motion, take), take.FrameRate);

    [Theory]
    [LongData("lamp-walk")]
    [LongData("haul-rope")]
    [InlineData("gangplank-hop")]
    public void Skin_that_lies_otherwise_has_not_slipped(string scene)
    {
        var slips = Find(Act(scene).Take);
        Assert.True(slips.Count == 0, string.Join("; ", slips));
    }

    [Theory]
    [InlineData("lamp-walk", "KneeOutL", 300, 0, -25, 5)]
    [LongData("haul-rope", "ForearmR", 500, -20, 0, 12)]
    public void A_knocked_marker_is_found_with_its_moment_and_followed(string scene, string marker, int frame, int x, int y, int z)
    {
        var (take, truth) = Act(scene);
        var by = new Vector3(x, y, z) / 1000;
        var knocked = Knocked(take, truth, marker, frame, by);
        var slip = Assert.Single(Find(knocked));
        Assert.Equal(marker, slip.Marker);
        Assert.InRange(slip.Frame, frame - 12, frame + 12);
        var (_, report, followed) = SlipFollower.Solve(measured.Performer, knocked, [slip]);
        output.WriteLine($"{slip.Frame}: {slip.By * 1000} at first, {followed[0].By * 1000} followed, {by * 1000} in truth");
        Assert.True((followed[0].By - by).Length() < 0.008, $"{followed[0].By * 1000} for {by * 1000}");
        // Followed it is no worse than any other day; left alone its residual is the first of all.
        var plain = TakeSolver.Solve(measured.Performer, take).Report.MarkerMeans[marker];
        var alone = TakeSolver.Solve(measured.Performer, knocked).Report.MarkerMeans;
        Assert.Equal(marker, alone.MaxBy(m => m.Value).Key);
        Assert.True(report.MarkerMeans[marker] < plain + 2, $"{report.MarkerMeans[marker]:0.0} followed, {plain:0.0} before");
        Assert.Equal(take.FrameCount, report.FrameResiduals.Length);
    }

    [Fact]
    public void Residuals_are_those_of_the_solve()
    {
        var take = Act("lamp-walk").Take;
        var (motion, report) = TakeSolver.Solve(measured.Performer, take);
        var offsets = new BoneOffsets(measured.Performer, motion, take);
        var all = offsets.Residuals([.. Enumerable.Range(0, measured.Performer.Markers.Count)]);
        for (var f = 0; f < take.FrameCount; f += 7)
        {
            Assert.Equal(report.FrameResiduals[f], all[f]!.Value, 0.02);
        }

        Assert.Empty(SlipFinder.Find(offsets, 1e6));
    }
}
