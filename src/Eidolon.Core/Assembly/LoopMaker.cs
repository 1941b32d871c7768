using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>Closes a cycle and writes it as often as wanted.</summary>
/// <remarks>
/// What is left between the last pose and the first, and between how both go on, is spread over the whole cycle by a parabola in each joint's
/// rotation vector; then planted feet are held through a row of cycles, of which a middle one is taken.
/// </remarks>
public static class LoopMaker
{
    /// <summary>A way that turns less than this in a cycle is meant to be straight, degrees.</summary>
    private const double Straight = 25;

    /// <summary>Poses farther apart than this are no cycle, metres.</summary>
    private const double NoCycle = 0.12;

    /// <summary>A planted foot that slides more than this in a frame, and so much more than it did, is held, millimetres.</summary>
    private const double Slide = 1.2,
        OwnSlide = 1.3;

    /// <summary>From here on a slide is told, millimetres a frame.</summary>
    private const double Seen = 2;

    /// <summary>Joints that change their speed over the seam by more than this do so visibly, millimetres a second.</summary>
    private const double Even = 20;

    /// <summary>The end of a cycle is led into its beginning for so long, seconds.</summary>
    private const double Lead = 0.2;

    /// <summary>A cycle this far from the ends of a row is like any other, seconds.</summary>
    private const double Apart = 1;

    /// <summary>Speeds are taken over so long before and after a moment, seconds.</summary>
    private const double Reach = 0.03;

    /// <param name="motion">Its skeleton has roles.</param>
    /// <param name="start">First frame of the cycle.</param>
    /// <param name="end">The frame a cycle later.</param>
    /// <param name="cycles">How many are written, at least 1; the last one ends on the pose the first begins with.</param>
    /// <param name="inPlace">Without the way over the floor; what sways stays.</param>
    /// <param name="cancel">Stops it.</param>
    /// <param name="bend">How far it turns to the left in a cycle, degrees: 0 is straight. Null: as it does, straight where that is little.</param>
    /// <param name="within">The frames the cycle is cut from, both inside; null for all. Those around are still looked at.</param>
    public static (Motion Motion, LoopReport Report) Make(
        Motion motion,
        int start,
        int end,
        double apart,
        int cycles,
        bool inPlace,
        CancellationToken cancel = default,
        (int First, int Last)? within = null,
        double? bend = null
    )
    {
        SampleBudget.Check(
            $"a loop of {cycles} cycles",
            (double)cycles * (end - start) + 1,
            motion.Skeleton.Count + (motion.Morphs.Count / 7)
        );
        var source = motion;
        var (first, last) = within ?? (0, motion.FrameCount - 1);
        motion = CarriedRoot.Lift(motion, start);
        var warnings = new List<string>();
        var (poses, own) = (LoopPoses.Of(motion, start, end), Heading(motion, start, end) * 180 / Math.PI);
        // What a person bends slides by that: only what it did before is its own.
        var slides = BodyRoles.Complete(motion.Skeleton) ? OverlapMeasure.Slide(motion, start, end) : 0;
        motion = bend is { } asked ? LoopBend.Bent(motion, start, end, (asked - own) * Math.PI / 180) : motion;
        if (apart > NoCycle)
        {
            warnings.Add($"the nearest two poses are {apart * 1000:0} mm apart: this is hardly a cycle");
        }

        var turned = bend ?? (Math.Abs(own) < Straight ? 0 : own);
        var turn = turned == 0 ? Quaternion.Identity : Rotations.AboutAxis(1, turned * Math.PI / 180);
        // A way that is meant to be straight is bent back with the rest that is spread, about the line from its beginning to its end.
        var closed = Spread(motion, start, end, turn);
        cancel.ThrowIfCancellationRequested();
        if (BodyRoles.Complete(motion.Skeleton))
        {
            var length = closed.FrameCount - 1;
            // So many before and after that the one in the middle knows nothing of the ends.
            var before = (int)Math.Ceiling(Apart * motion.FrameRate / length);
            var row = Row(closed, turn, (2 * before) + 1);
            var from = before * length;
            var asItIs = Power(turn, closed, before, back: true).Lay(Spread(row, from, from + length, turn));
            // Feet that stand as they did are left alone: holding them would only add edges where they are set down.
            var slid = OverlapMeasure.Slide(row, from, from + length);
            if (slid > Math.Max(Slide, OwnSlide * slides) && Held(row, from, length, slid) is { } held)
            {
                cancel.ThrowIfCancellationRequested();
                // A cycle may begin anywhere: not where a foot is just being set down.
                var around = Power(turn, closed, before, back: false).Turn;
                var (least, most) = (Math.Max(first - start, -length / 2), Math.Min(last - end, length / 2));
                var later = Calmest(held, from, motion, start, around, least, most);
                var calm = Power(turn, closed, before, back: true).Lay(Spread(held, from + later, from + later + length, turn));
                // Nor are they held where that costs an even way over the seam, and the slide can hardly be seen.
                var even = Measure(calm, turn, motion, start + later).Speed;
                if (slid > Seen || even <= Even || even < Measure(asItIs, turn, motion, start).Speed)
                {
                    (asItIs, slid) = (calm, OverlapMeasure.Slide(held, from, from + length));
                    (start, end) = (start + later, end + later);
                }
            }

            if (slid > Seen)
            {
                warnings.Add($"a foot slides up to {slid:0.0} mm in a frame in which it is taken for planted");
            }

            closed = asItIs;
        }
        else
        {
            warnings.Add("the skeleton has no legs that are known: no feet are held");
        }

        var whole = Row(closed, turn, cycles);
        var (millimetres, degrees, speed) = Measure(closed, turn, motion, start);
        if (speed > Even)
        {
            warnings.Add($"a joint changes its speed by {speed:0} mm/s where one cycle goes over into the next");
        }

        var way = Way(closed);
        if (inPlace)
        {
            whole = Standing(whole, closed.FrameCount - 1, way);
        }

        return (
            CarriedRoot.Lower(whole, source, start),
            new LoopReport(start, end, apart * 1000, millimetres, degrees, speed, new Vector2(way.X, way.Z).Length(), own, warnings)
            {
                BentDegrees = turned,
                Poses = poses,
            }
        );
    }

    /// <summary>How far a motion turns to the left from one frame to another, radians: all joints together, over some frames around both.</summary>
    private static double Heading(Motion motion, int start, int end)
    {
        var n = motion.Skeleton.Count;
        var fit = default(FloorFit);
        var reach = Math.Max(1, (int)Math.Round(Reach * motion.FrameRate));
        var (turns, pa, pb) = (new Quaternion[n], new Vector3[n], new Vector3[n]);
        for (var k = Math.Max(-reach, -start); k <= Math.Min(reach, motion.FrameCount - 1 - end); k++)
        {
            ForwardKinematics.World(motion, end + k, turns, pa);
            ForwardKinematics.World(motion, start + k, turns, pb);
            fit.Add(pa, pb);
        }

        return Rotations.Log(fit.Lay().Turn).Y;
    }

    /// <summary>A cycle whose ends are made the same pose, going on the same way.</summary>
    /// <param name="turn">From one cycle to the next.</param>
    private static Motion Spread(Motion motion, int start, int end, Quaternion turn)
    {
        var s = motion.Skeleton;
        var (n, length) = (s.Count, end - start);
        var reach = Math.Max(1, (int)Math.Round(Reach * motion.FrameRate));
        var lead = (int)Math.Round(Lead * motion.FrameRate);
        var cycle = MotionEdits.Range(motion, start, end + 1).From(0);
        for (var j = 0; j < n; j++)
        {
            var root = s.Parents[j] < 0;
            Quaternion Back(Quaternion q) => root ? Quaternion.Normalize(Quaternion.Conjugate(turn) * q) : q;
            var delta = Rotations.Log(Quaternion.Normalize(Quaternion.Conjugate(Back(Turn(motion, end, j))) * Turn(motion, start, j)));
            var faster = Speed(motion, start, j, reach, q => q) - Speed(motion, end, j, reach, Back);
            var (place, rush) = (Vector3.Zero, Vector3.Zero);
            if (root)
            {
                Vector3 Home(Vector3 v) => Vector3.Transform(v, Quaternion.Conjugate(turn));
                // Over the floor a cycle leads on; only height has to come back.
                place = new Vector3(0, motion.Translations[(start * n) + j].Y - motion.Translations[(end * n) + j].Y, 0);
                rush = Pace(motion, start, j, reach) - Home(Pace(motion, end, j, reach));
            }
            else
            {
                place = motion.Translations[(start * n) + j] - motion.Translations[(end * n) + j];
            }

            Quaternion Corrected(Quaternion q, float u) => Quaternion.Normalize(q * Rotations.Exp(Parabola(delta, faster * length, u)));
            for (var f = 0; f <= length; f++)
            {
                var u = f / (float)length;
                ref var q = ref cycle.Rotations[(f * n) + j];
                q = Corrected(q, u);
                cycle.Translations[(f * n) + j] += Parabola(place, rush * length, u);
            }

            // The last frames go over into those that led to the first pose, so that nothing at all changes over the seam.
            var (home, before) = (motion.Translations[(start * n) + j], Math.Min(Math.Min(lead, start), length / 3));
            var last = cycle.Translations[(length * n) + j];
            for (var k = 1; k < before; k++)
            {
                var at = ((length - k) * n) + j;
                var w = CubicSpline.MinimumJerk(1 - (k / (float)before));
                var u = -k / (float)length;
                var led = Corrected(Turn(motion, start - k, j), u);
                var from =
                    motion.Translations[((start - k) * n) + j]
                    - home
                    + Parabola(place, rush * length, u)
                    - Parabola(place, rush * length, 0);
                cycle.Rotations[at] = Quaternion.Normalize(
                    Rotations.Slerp(cycle.Rotations[at], root ? Quaternion.Normalize(turn * led) : led, w)
                );
                cycle.Translations[at] = Vector3.Lerp(cycle.Translations[at], last + (root ? Vector3.Transform(from, turn) : from), w);
            }
        }

        return cycle;
    }

    /// <summary>A parabola that gains <paramref name="gap"/> over the cycle and whose slope gains <paramref name="slope"/>; its mean is near zero.</summary>
    private static Vector3 Parabola(Vector3 gap, Vector3 slope, float u)
    {
        var bend = slope / 2;
        var straight = gap - bend;
        return (straight * (u - .5f)) + (bend * ((u * u) - .5f));
    }

    private static Quaternion Turn(Motion m, int frame, int joint) => m.Rotations[(frame * m.Skeleton.Count) + joint];

    /// <summary>How fast a joint turns, radians a frame in its own axes.</summary>
    private static Vector3 Speed(Motion m, int frame, int joint, int reach, Func<Quaternion, Quaternion> by)
    {
        var (from, to) = (Math.Max(0, frame - reach), Math.Min(m.FrameCount - 1, frame + reach));
        return Rotations.Log(Quaternion.Normalize(Quaternion.Conjugate(by(Turn(m, from, joint))) * by(Turn(m, to, joint))))
            / Math.Max(1, to - from);
    }

    private static Vector3 Pace(Motion m, int frame, int joint, int reach)
    {
        var (from, to) = (Math.Max(0, frame - reach), Math.Min(m.FrameCount - 1, frame + reach));
        var n = m.Skeleton.Count;
        return (m.Translations[(to * n) + joint] - m.Translations[(from * n) + joint]) / Math.Max(1, to - from);
    }

    /// <summary>Cycles one after another; each begins where the one before ended.</summary>
    private static Motion Row(Motion cycle, Quaternion turn, int count)
    {
        var (n, length) = (cycle.Skeleton.Count, cycle.FrameCount - 1);
        var result = new Motion(cycle.Skeleton, cycle.FrameRate, (length * count) + 1)
        {
            Warnings = cycle.Warnings,
            Morphs = cycle.Morphs.ToDictionary(
                m => m.Key,
                m => Enumerable.Range(0, (length * count) + 1).Select(f => m.Value[f % length]).ToArray()
            ),
        };
        for (var c = 0; c < count; c++)
        {
            var laid = Power(turn, cycle, c, back: false).Lay(cycle);
            var frames = c == count - 1 ? length + 1 : length;
            laid.Rotations.AsSpan(0, frames * n).CopyTo(result.Rotations.AsSpan(c * length * n));
            laid.Translations.AsSpan(0, frames * n).CopyTo(result.Translations.AsSpan(c * length * n));
        }

        return result;
    }

    /// <summary>Where a number of cycles later everything is, or back from there.</summary>
    private static ClipPlacement Power(Quaternion turn, Motion cycle, int times, bool back)
    {
        var n = cycle.Skeleton.Count;
        var pelvis = Math.Max(0, cycle.Skeleton.IndexOf(BodyRole.Pelvis));
        var (turns, first, last) = (new Quaternion[n], new Vector3[n], new Vector3[n]);
        ForwardKinematics.World(cycle, 0, turns, first);
        ForwardKinematics.World(cycle, cycle.FrameCount - 1, turns, last);
        var move = (last[pelvis] - Vector3.Transform(first[pelvis], turn)) with { Y = 0 };
        var (q, t) = (Quaternion.Identity, Vector3.Zero);
        for (var k = 0; k < times; k++)
        {
            t = Vector3.Transform(t, turn) + move;
            q = Quaternion.Normalize(turn * q);
        }

        return back ? new ClipPlacement(Quaternion.Conjugate(q), -Vector3.Transform(t, Quaternion.Conjugate(q))) : new ClipPlacement(q, t);
    }

    private static Vector3 Way(Motion cycle)
    {
        var n = cycle.Skeleton.Count;
        var pelvis = Math.Max(0, cycle.Skeleton.IndexOf(BodyRole.Pelvis));
        var world = ForwardKinematics.WorldPositions(cycle);
        return (world[((cycle.FrameCount - 1) * n) + pelvis] - world[pelvis]) with { Y = 0 };
    }

    /// <summary>Takes an even way out of a row of cycles.</summary>
    private static Motion Standing(Motion row, int length, Vector3 way)
    {
        var result = row.Copy();
        var parents = row.Skeleton.Parents;
        for (var f = 0; f < row.FrameCount; f++)
        {
            for (var j = 0; j < parents.Length; j++)
            {
                if (parents[j] < 0)
                {
                    result.Translations[(f * parents.Length) + j] -= way * (f / (float)length);
                }
            }
        }

        return result;
    }

    /// <summary>The row with its feet held, unless they would then slide more: what is taken for planted may be a shuffle that nothing can hold.</summary>
    private static Motion? Held(Motion row, int from, int length, double slid)
    {
        var held = row.Copy();
        FootPin.Hold(held, 0, held.FrameCount - 1, []);
        return OverlapMeasure.Slide(held, from, from + length) < slid ? held : null;
    }

    /// <summary>The frame, counted from the beginning, at which holding the feet has changed the least of how joints go on.</summary>
    /// <param name="turn">From the source to the cycle that begins at <paramref name="from"/> in the row.</param>
    private static int Calmest(Motion row, int from, Motion source, int start, Quaternion turn, int least, int most)
    {
        var (world, before) = (ForwardKinematics.WorldPositions(row), ForwardKinematics.WorldPositions(source));
        var n = row.Skeleton.Count;
        var reach = Math.Max(1, (int)Math.Round(Reach * row.FrameRate));
        float Off(int k) =>
            start + k < reach || start + k + reach >= source.FrameCount
                ? float.PositiveInfinity
                : Enumerable
                    .Range(0, n)
                    .Max(j =>
                        (
                            Change(world, n, from + k, j, reach) - Vector3.Transform(Change(before, n, start + k, j, reach), turn)
                        ).LengthSquared()
                    );
        return most < least ? 0 : Enumerable.Range(least, most - least + 1).MinBy(k => (Off(k), Math.Abs(k)));
    }

    /// <summary>By how much a joint's speed after a frame differs from that before it, metres a frame.</summary>
    private static Vector3 Change(Vector3[] places, int joints, int frame, int joint, int reach) =>
        (places[((frame - reach) * joints) + joint] - (2 * places[(frame * joints) + joint]) + places[((frame + reach) * joints) + joint])
        / reach;

    /// <summary>How well the last frame is the first, and how evenly joints go over the seam, against the source at that moment.</summary>
    private static (double Millimetres, double Degrees, double Speed) Measure(Motion cycle, Quaternion turn, Motion source, int start)
    {
        var (n, length) = (cycle.Skeleton.Count, cycle.FrameCount - 1);
        var next = Power(turn, cycle, 1, back: false);
        var (turns, places) = (new Quaternion[cycle.Rotations.Length], ForwardKinematics.WorldPositions(cycle));
        ForwardKinematics.WorldPositions(cycle, turns);
        double millimetres = 0,
            degrees = 0,
            speed = 0;
        var row = ForwardKinematics.WorldPositions(Row(cycle, turn, 2));
        var before = ForwardKinematics.WorldPositions(source);
        var reach = Math.Clamp((int)Math.Round(Reach * cycle.FrameRate), 1, length);
        for (var j = 0; j < n; j++)
        {
            millimetres = Math.Max(millimetres, (places[(length * n) + j] - next.Of(places[j])).Length() * 1000);
            degrees = Math.Max(
                degrees,
                Rotations.Angle(turns[(length * n) + j], Quaternion.Normalize(next.Turn * turns[j])) * 180 / Math.PI
            );
            // What the source itself does at that moment (a heel that strikes) is no fault of the seam.
            var change = Change(row, n, length, j, reach);
            var own = start >= reach ? Vector3.Transform(Change(before, n, start, j, reach), turn) : Vector3.Zero;
            speed = Math.Max(speed, (change - own).Length() * cycle.FrameRate * 1000);
        }

        return (millimetres, degrees, speed);
    }
}
