using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Inertial;

/// <summary>
/// Carries a posed body through the room: what stands on the floor stands still, the pelvis' accelerometer carries over the moments between, and
/// heights are those of the floor and of what is stepped onto.
/// </summary>
/// <remarks>
/// Feet at rest as zero-velocity updates after Skog et al., "Zero-velocity detection — an algorithm evaluation", 2010; contacts of heel and toe
/// are those of <see cref="BodyContacts"/>.
/// </remarks>
internal static class SuitTravel
{
    /// <summary>Half as sure that a foot stands where its sensor turns so fast, rad/s, or its force is so far from gravity, m/s².</summary>
    private const float FootTurn = 0.55f,
        FootForce = 1.3f;

    /// <summary>The pelvis' acceleration is off by so much, m/s²; what stands moves by so much, m/s.</summary>
    private const double Acceleration = 0.8,
        Standing = 0.01;

    /// <summary>A foot that rests by its own sensor but shows no contact says so many times less.</summary>
    private const double Unseen = 4;

    /// <summary>Whatever else is known, the lowest point of the feet moves no faster than about this, m/s: a flight or a fall.</summary>
    private const double Lowest = 1.2;

    /// <summary>Ground within this height of ground stood on before is the same ground, metres; where somebody stood that often, within that.</summary>
    private const float SameGround = 0.07f,
        FamiliarGround = 0.095f;

    private const int Familiar = 6;

    public static readonly BodyRole[] Feet = [BodyRole.FootL, BodyRole.FootR];

    /// <summary>A first way, by the feet that lie flat and still.</summary>
    /// <param name="motion">Posed over the origin; its root's places are set.</param>
    /// <param name="pelvis">Acceleration of the pelvis in the world, m/s², without gravity.</param>
    /// <param name="still">Per foot, left and right, how surely it rests at each frame, 0 to 1.</param>
    public static void Rough(Motion motion, Vector3[] pelvis, float[][] still)
    {
        var path = Accelerated(motion, pelvis);
        Support(path, motion);
        Rest(path, motion, still, Standing);
        Set(motion, path.Solve());
    }

    /// <summary>A foot whose own sensor says that it rests.</summary>
    private static void Rest(RootPath path, Motion motion, float[][] still, double speed)
    {
        for (var side = 0; side < 2; side++)
        {
            int foot = motion.Skeleton.IndexOf(Feet[side]),
                toes = motion.Skeleton.IndexOf(side == 0 ? BodyRole.ToesL : BodyRole.ToesR);
            var way = Way(motion, toes < 0 ? [foot] : [foot, toes]);
            for (var f = 0; f + 1 < motion.FrameCount; f++)
            {
                var w = MathF.Min(still[side][f], still[side][f + 1]);
                if (w > 0.02f)
                {
                    path.Step(f, way[f] - way[f + 1], speed / w);
                }
            }
        }
    }

    /// <summary>The way once more by the contacts that the first one shows and a person has corrected.</summary>
    public static void ByContacts(Motion motion, Vector3[] pelvis, float[][] still, IReadOnlyList<Contact> contacts)
    {
        var relative = motion.Copy();
        Set(relative, new Vector3[motion.FrameCount]);
        var path = Accelerated(motion, pelvis);
        Support(path, relative);
        Rest(path, relative, still, Standing * Unseen);
        foreach (var group in contacts.GroupBy(c => c.Role))
        {
            var way = Way(relative, [motion.Skeleton.IndexOf(group.Key)]);
            foreach (var c in group)
            {
                for (var f = c.Start; f < c.End; f++)
                {
                    path.Step(f, way[f] - way[f + 1], Standing);
                }
            }
        }

        Set(motion, path.Solve());
        Level(motion, contacts);
    }

    /// <summary>How surely a foot rests, 0 to 1, by its own sensor.</summary>
    public static float[] Resting(SensorTrack track, SensorOrientation turns)
    {
        // Over a little time: what trembles on the spot goes nowhere.
        var window = Math.Max(1, (int)(0.04 * track.Rate));
        var own = new float[track.Count];
        for (var f = 0; f < own.Length; f++)
        {
            var around = new FrameRange(Math.Max(0, f - window), Math.Min(own.Length - 1, f + window));
            var turn = (float)(SensorTrack.Mean(track.Gyroscope, around) - turns.Bias).Length / FootTurn;
            var force = (float)(SensorTrack.Mean(track.Accelerometer, around).Length - SensorOrientation.Gravity) / FootForce;
            own[f] = 1 / ((1 + (turn * turn * turn * turn)) * (1 + (force * force * force * force)));
        }

        // Only what lasts is rest.
        var half = Math.Max(1, (int)(0.03 * track.Rate));
        var result = new float[own.Length];
        for (var f = 0; f < own.Length; f++)
        {
            result[f] = 1;
            for (var g = Math.Max(0, f - half); g <= Math.Min(own.Length - 1, f + half); g++)
            {
                result[f] = MathF.Min(result[f], own[g]);
            }
        }

        return result;
    }

    /// <summary>Where nothing rests, the lowest ankle or toe carries, loosely: accelerations alone would run away within seconds.</summary>
    private static void Support(RootPath path, Motion motion)
    {
        var s = motion.Skeleton;
        var joints = new[] { BodyRole.FootL, BodyRole.FootR, BodyRole.ToesL, BodyRole.ToesR }.Select(s.IndexOf).Where(j => j >= 0);
        var ways = joints.Select(j => (Height: s.RestPositions[j].Y, Path: Way(motion, [j]))).ToArray();
        for (var f = 0; f + 1 < motion.FrameCount && ways.Length > 0; f++)
        {
            var (_, way) = ways.MinBy(w => w.Path[f].Y - w.Height);
            path.Step(f, way[f] - way[f + 1], Lowest);
        }
    }

    private static RootPath Accelerated(Motion motion, Vector3[] pelvis)
    {
        var path = new RootPath(motion.FrameCount, motion.FrameRate);
        path.Place(0, Vector3.Zero, 1e-3);
        for (var f = 1; f + 1 < motion.FrameCount; f++)
        {
            path.Accelerate(f, pelvis[f], Acceleration);
        }

        return path;
    }

    /// <summary>Where the mean of some joints is, against the root's own place of each frame.</summary>
    private static Vector3[] Way(Motion motion, IReadOnlyList<int> joints)
    {
        var world = ForwardKinematics.WorldPositions(motion);
        var n = motion.Skeleton.Count;
        var way = new Vector3[motion.FrameCount];
        for (var f = 0; f < way.Length; f++)
        {
            Vector3 sum = default;
            foreach (var j in joints)
            {
                sum += world[(f * n) + j];
            }

            way[f] = (sum / joints.Count) - motion.Translations[f * n];
        }

        return way;
    }

    private static void Set(Motion motion, Vector3[] path)
    {
        for (var f = 0; f < path.Length; f++)
        {
            motion.Translations[f * motion.Skeleton.Count] = path[f];
        }
    }

    /// <summary>
    /// Puts each contact onto the ground: ground near in height to ground stood on before is the same, anything else is a step. What that moves
    /// between two contacts is shared out over the time between them.
    /// </summary>
    private static void Level(Motion motion, IReadOnlyList<Contact> contacts)
    {
        if (contacts.Count == 0)
        {
            return;
        }

        var s = motion.Skeleton;
        var world = ForwardKinematics.WorldPositions(motion);
        var (grounds, visits) = (new List<float>(), new List<int>());
        var knots = new List<(int Frame, float Lift)>();
        var lift = float.NaN;
        foreach (var c in contacts.OrderBy(c => c.Start + c.End))
        {
            var joint = s.IndexOf(c.Role);
            float sum = 0;
            for (var f = c.Start; f <= c.End; f++)
            {
                sum += world[(f * s.Count) + joint].Y;
            }

            // How high the ground is under it: the joint's height above its own at rest.
            var height = (sum / c.Length) - s.RestPositions[joint].Y;
            lift = float.IsNaN(lift) ? -height : lift;
            var here = height + lift;
            var ground = -1;
            for (var g = 0; g < grounds.Count; g++)
            {
                var near = visits[g] >= Familiar ? FamiliarGround : SameGround;
                if (MathF.Abs(grounds[g] - here) < near && (ground < 0 || MathF.Abs(grounds[g] - here) < MathF.Abs(grounds[ground] - here)))
                {
                    ground = g;
                }
            }

            if (ground < 0)
            {
                ground = grounds.Count;
                grounds.Add(here);
                visits.Add(0);
            }

            visits[ground]++;
            lift += grounds[ground] - here;
            knots.Add(((c.Start + c.End) / 2, lift));
        }

        var k = 0;
        for (var f = 0; f < motion.FrameCount; f++)
        {
            while (k + 1 < knots.Count && knots[k + 1].Frame <= f)
            {
                k++;
            }

            var (a, b) = (knots[k], knots[Math.Min(k + 1, knots.Count - 1)]);
            var t = b.Frame > a.Frame ? Math.Clamp((f - a.Frame) / (float)(b.Frame - a.Frame), 0, 1) : 0;
            motion.Translations[f * s.Count].Y += a.Lift + ((b.Lift - a.Lift) * t);
        }
    }
}
