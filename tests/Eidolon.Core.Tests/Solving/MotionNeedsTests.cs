using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.Testing;
using Xunit.Abstractions;

namespace Eidolon.Core.Tests.Solving;

/// <summary>What a measuring take lacks is said, and what it costs.</summary>
[Trait(LongRun.Run, LongRun.Whole)]
public sealed class MotionNeedsTests(ITestOutputHelper output)
{
    private static MarkerTake Rom(Person person) => Acts.Labelled(Acts.Perform("rom", person, 1));

    [Fact, Trait(LongRun.Run, LongRun.Long)]
    public void A_T_pose_alone_measures_a_body_roughly_and_says_how_roughly()
    {
        var sums = new Dictionary<string, (double Sum, int N)>();
        foreach (var person in Strangers.Some(4, 9).Append(HarbourCast.Ines))
        {
            var (performer, report) = PerformerCalibration.Calibrate(person.Name, Rom(person).Range(0, 240), HarbourMarkers.Set());
            var performance = Acts.Perform("lamp-walk", person, 2, 30);
            var (motion, _) = TakeSolver.Solve(performer, Acts.Labelled(performance));
            var truth = ForwardKinematics.WorldPositions(performance.Actors[0].Motion);
            var mine = ForwardKinematics.WorldPositions(motion);
            for (var k = 0; k < truth.Length; k++)
            {
                var stem = BodyRoles.Stem(motion.Skeleton[k % motion.Skeleton.Count].Role!.Value);
                var (sum, n) = sums.GetValueOrDefault(stem);
                sums[stem] = (sum + (truth[k] - mine[k]).LengthSquared(), n + 1);
            }

            output.WriteLine($"{person.Name}: {string.Join("; ", report.Warnings)}");
            Assert.Contains("measured from its pose alone", Assert.Single(report.Warnings));
        }

        output.WriteLine(string.Join(", ", sums.Select(s => $"{s.Key} {Math.Sqrt(s.Value.Sum / s.Value.N) * 1000:0.0} mm")));
        // What it says it costs is what it costs.
        foreach (var lack in MotionNeeds.Of(HarbourCast.Ines.Skeleton.Joints.ToDictionary(j => j.Name, _ => 0.0)))
        {
            var (sum, n) = sums[BodyRoles.Stem(lack.Role)];
            var measured = Math.Sqrt(sum / n) * 1000;
            Assert.InRange(lack.Millimetres, 0.7 * measured, 1.4 * measured);
        }
    }

    [Fact]
    public void A_knee_that_never_bends_is_named_with_its_cost_and_a_whole_range_of_motion_says_nothing()
    {
        var rom = Rom(HarbourCast.Ines);
        Assert.Empty(PerformerCalibration.Calibrate("Ines", rom, HarbourMarkers.Set()).Report.Warnings);
        // Arms and trunk move in the first half; the legs come after.
        var (_, report) = PerformerCalibration.Calibrate("Ines", rom.Range(0, 33 * 120), HarbourMarkers.Set());
        output.WriteLine(string.Join("; ", report.Warnings));
        Assert.Contains(report.Warnings, w => w.StartsWith("the left knee turns by", StringComparison.Ordinal) && w.Contains("mm off"));
        Assert.DoesNotContain(report.Warnings, w => w.Contains("elbow") || w.Contains("shoulder"));
    }
}
