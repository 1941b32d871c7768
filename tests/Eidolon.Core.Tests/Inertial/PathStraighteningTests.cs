using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Inertial;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Inertial;

/// <summary>A walk whose heading drifted, made straight again.</summary>
public sealed class PathStraighteningTests
{
    private const double Rate = 60;

    [Fact]
    public void A_walk_whose_heading_drifted_goes_straight_again_and_its_feet_stay()
    {
        var straight = Walk();
        var bent = Bent(straight, 0.4);
        var (start, end) = (0, bent.FrameCount - 1);
        Assert.True(Aside(bent) > 0.2, $"{Aside(bent):0.00} m aside: nothing to make straight");
        Assert.InRange(PathStraightening.Bend(bent, start, end), 30, 75);
        var mended = PathStraightening.Straighten(bent, start, end);
        Assert.True(Aside(mended) < 0.06, $"{Aside(mended):0.000} m aside");
        Assert.True(PathStraightening.Bend(mended, start, end) < PathStraightening.Bend(bent, start, end) / 3);
        Assert.True(MotionQuality.Measure(mended).WorstSlide is not { Millimetres: > 12 }, "feet slide");
        // As long as it was, and as long a way.
        Assert.Equal(Length(straight), Length(mended), 0.15);
    }

    [Fact]
    public void What_comes_before_stays_and_what_comes_after_moves_as_a_whole()
    {
        var bent = Bent(Walk(), 0.4);
        var (start, end) = (20, 90);
        var mended = PathStraightening.Straighten(bent, start, end);
        var n = bent.Skeleton.Count;
        for (var f = 0; f < start; f++)
        {
            Assert.Equal(bent.Translations[f * n], mended.Translations[f * n]);
        }

        var (a, b) = (bent.FrameCount - 1, end + 10);
        var (before, after) = (
            Vector3.Distance(bent.Translations[a * n], bent.Translations[b * n]),
            Vector3.Distance(mended.Translations[a * n], mended.Translations[b * n])
        );
        Assert.Equal(before, after, 0.03);
    }

    [Fact]
    public void Who_stands_has_no_way_to_make_straight()
    {
        var s = Anthropometry.Body(1.7f);
        var still = new Motion(
            s,
            Rate,
            120,
            [.. Enumerable.Repeat(Quaternion.Identity, 120 * s.Count)],
            [.. Enumerable.Range(0, 120).SelectMany(_ => s.Joints.Select(j => j.Offset))]
        );
        Assert.Equal(0, PathStraightening.Bend(still, 0, 119));
        Assert.Throws<RefusedException>(() => PathStraightening.Straighten(still, 0, 119));
    }

    /// <summary>Some seconds of someone who walks straight ahead.</summary>
    private static Motion Walk()
    {
        var walk = Acts.Perform("suit-patrol", HarbourCast.Ines, 1, Rate).Actors[0].Motion;
        // The longest straight of the patrol.
        var n = walk.Skeleton.Count;
        var length = 120;
        var best = Enumerable
            .Range(0, (walk.FrameCount - length) / 10)
            .Select(k => k * 10)
            .MaxBy(f => Vector3.Distance(walk.Translations[f * n], walk.Translations[(f + length) * n]));
        return MotionEdits.Range(walk, best, best + length);
    }

    /// <summary>As a drift of the heading would show it: turned more and more about the vertical, radians a second.</summary>
    private static Motion Bent(Motion motion, double drift)
    {
        var result = motion.Copy();
        var n = motion.Skeleton.Count;
        var place = motion.Translations[0];
        for (var f = 1; f < motion.FrameCount; f++)
        {
            var turn = Rotations.AboutAxis(1, drift * f / motion.FrameRate);
            place += Vector3.Transform(motion.Translations[f * n] - motion.Translations[(f - 1) * n], turn);
            (result.Translations[f * n], result.Rotations[f * n]) = (place, turn * motion.Rotations[f * n]);
        }

        return result;
    }

    /// <summary>How far the root leaves the line from its first to its last place, the sway taken off, metres.</summary>
    private static double Aside(Motion motion)
    {
        var n = motion.Skeleton.Count;
        var (a, b) = (motion.Translations[0], motion.Translations[(motion.FrameCount - 1) * n]);
        var line = Vector3.Normalize(new Vector3(b.X - a.X, 0, b.Z - a.Z));
        return Enumerable
            .Range(0, motion.FrameCount)
            .Max(f => Math.Abs(((motion.Translations[f * n].X - a.X) * line.Z) - ((motion.Translations[f * n].Z - a.Z) * line.X)));
    }

    private static double Length(Motion motion)
    {
        var n = motion.Skeleton.Count;
        return Vector3.Distance(motion.Translations[0], motion.Translations[(motion.FrameCount - 1) * n]);
    }
}
