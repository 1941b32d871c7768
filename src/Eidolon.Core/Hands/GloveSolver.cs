using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Hands;

/// <summary>Fingers from gloves: two poses at the beginning, the open hand and the fist, tell how the sensors sit.</summary>
/// <remarks>
/// A sensor may be strapped on any way round: the open hand is its zero, the turn from there to the fist its axis. The wearer's axes are lined up
/// with the hand's by two of them (Black 1964, "A Passive System for Determining the Attitude of a Satellite"). A sensor on the middle bone tells
/// the sum of two bends; they share it as they do in a fist.
/// </remarks>
public static class GloveSolver
{
    private const float Degree = MathF.PI / 180;

    /// <summary>A hand is held still below this, radians a second, for so long, seconds.</summary>
    private const float Still = 0.35f;

    private const double Held = 0.7;

    /// <summary>From the open hand to the fist the fingers turn by so much at least, radians.</summary>
    private const float Fist = 70 * Degree;

    /// <summary>Bends of the two joints before the sensor in a fist: their share of its turn.</summary>
    private const float FistFirst = 85f / 185;

    /// <summary>Puts fingers on a body.</summary>
    /// <param name="offsetSeconds">When the gloves' first frame was, on the body's clock.</param>
    /// <param name="open">Frames of the gloves' recording with open hands; found when null. So is <paramref name="fist"/>.</param>
    /// <exception cref="RefusedException">The two poses are not there.</exception>
    public static (Motion Motion, HandPoses Poses, HandReport Report) Solve(
        Motion body,
        float stature,
        GloveTake gloves,
        double offsetSeconds = 0,
        (int Start, int End)? open = null,
        (int Start, int End)? fist = null,
        CancellationToken cancel = default
    )
    {
        HandShape[] shapes = [HandWork.Shape(0, stature), HandWork.Shape(1, stature)];
        var poses = new HandPoses(body.FrameCount);
        var warnings = new List<string>();
        for (var side = 0; side < 2; side++)
        {
            cancel.ThrowIfCancellationRequested();
            var turns = Relative(gloves, side);
            if (turns.All(t => t is null))
            {
                warnings.Add($"the {(side == 0 ? "left" : "right")} glove sent nothing");
                continue;
            }

            var (zero, closed) = Poses(gloves, side, turns, open, fist);
            var worn = Worn(shapes[side], zero, closed);
            for (var f = 0; f < body.FrameCount; f++)
            {
                var at = ((f / body.FrameRate) - offsetSeconds) * gloves.FrameRate;
                for (var finger = 0; finger < HandShape.FingerCount; finger++)
                {
                    if (Sample(turns, gloves.FrameCount, at, finger) is { } q)
                    {
                        poses.Poses[HandPoses.At(f, side, finger)] = worn[finger](q);
                        poses.Residuals[HandPoses.At(f, side, finger)] = 0;
                    }
                }
            }
        }

        poses.Fill();
        return (
            HandSkeleton.With(body, shapes[0], shapes[1], poses),
            poses,
            new HandReport(HandWork.Fingers(poses, shapes, stature), [], [.. gloves.Warnings, .. warnings])
        );
    }

    /// <summary>Every finger's turn against its hand, as the sensors say it: [frame × 5 + finger].</summary>
    private static Quaternion?[] Relative(GloveTake gloves, int side)
    {
        var turns = new Quaternion?[gloves.FrameCount * HandShape.FingerCount];
        var hand = side * (1 + HandShape.FingerCount);
        for (var f = 0; f < gloves.FrameCount; f++)
        {
            for (var k = 0; k < HandShape.FingerCount; k++)
            {
                turns[(f * HandShape.FingerCount) + k] =
                    gloves.At(f, hand) is { } h && gloves.At(f, hand + 1 + k) is { } q ? Quaternion.Conjugate(h) * q : null;
            }
        }

        return turns;
    }

    private static Quaternion? Sample(Quaternion?[] turns, int frames, double at, int finger)
    {
        var a = (int)Math.Floor(at);
        if (a < 0 || a >= frames)
        {
            return null;
        }

        var (x, y) = (turns[(a * HandShape.FingerCount) + finger], turns[(Math.Min(a + 1, frames - 1) * HandShape.FingerCount) + finger]);
        return x is { } p && y is { } q ? Rotations.Slerp(p, q, (float)(at - a)) : x;
    }

    /// <summary>The mean turns of the open hand and of the fist.</summary>
    private static (Quaternion[] Open, Quaternion[] Fist) Poses(
        GloveTake gloves,
        int side,
        Quaternion?[] turns,
        (int Start, int End)? open,
        (int Start, int End)? fist
    )
    {
        var name = side == 0 ? "left" : "right";
        if (open is { } o && fist is { } c)
        {
            return (Mean(turns, o, name), Mean(turns, c, name));
        }

        var stretches = StillStretches(gloves, turns);
        for (var i = 0; i + 1 < stretches.Count; i++)
        {
            var zero = Mean(turns, stretches[i], name);
            for (var k = i + 1; k < Math.Min(stretches.Count, i + 3); k++)
            {
                var closed = Mean(turns, stretches[k], name);
                var bent = Enumerable.Range(1, 4).Average(n => Rotations.Angle(zero[n], closed[n]));
                if (bent > Fist)
                {
                    return (zero, closed);
                }
            }
        }

        throw new RefusedException(
            $"the {name} glove has no open hand followed by a fist, each held for {Held:0.0} s: hold both at the beginning, or give their frames"
        );
    }

    private static List<(int Start, int End)> StillStretches(GloveTake gloves, Quaternion?[] turns)
    {
        var list = new List<(int, int)>();
        var least = (int)Math.Ceiling(Held * gloves.FrameRate);
        var span = Math.Max(1, (int)Math.Round(0.1 * gloves.FrameRate));
        var start = 0;
        for (var f = span; f <= gloves.FrameCount; f++)
        {
            var moving = f == gloves.FrameCount || Speed(turns, f, span, gloves.FrameRate) > Still;
            if (moving)
            {
                if (f - span - start >= least)
                {
                    list.Add((start, f - span - 1));
                }

                start = f;
            }
        }

        return list;
    }

    /// <summary>Mean of the fingers' turns a second: the noise of single sensors goes out of it.</summary>
    private static float Speed(Quaternion?[] turns, int frame, int span, double rate)
    {
        var (sum, n) = (0f, 0);
        for (var k = 0; k < HandShape.FingerCount; k++)
        {
            if (turns[(frame * HandShape.FingerCount) + k] is { } now && turns[((frame - span) * HandShape.FingerCount) + k] is { } then)
            {
                (sum, n) = (sum + Rotations.Angle(then, now), n + 1);
            }
        }

        return n == 0 ? 0 : sum / n * (float)(rate / span);
    }

    private static Quaternion[] Mean(Quaternion?[] turns, (int Start, int End) range, string name)
    {
        var mean = new Quaternion[HandShape.FingerCount];
        for (var k = 0; k < mean.Length; k++)
        {
            var sum = Vector4.Zero;
            Quaternion? first = null;
            for (var f = range.Start; f <= range.End && (f * HandShape.FingerCount) + k < turns.Length; f++)
            {
                if (turns[(f * HandShape.FingerCount) + k] is { } q)
                {
                    first ??= q;
                    q = Quaternion.Dot(first.Value, q) < 0 ? -q : q;
                    sum += new Vector4(q.X, q.Y, q.Z, q.W);
                }
            }

            mean[k] = first is null
                ? throw new RefusedException(
                    $"the {name} glove's {HandShape.Names[k].ToLowerInvariant()} sent nothing while the poses were held"
                )
                : Quaternion.Normalize(new Quaternion(sum.X, sum.Y, sum.Z, sum.W));
        }

        return mean;
    }

    /// <summary>From what a sensor says to how its finger is held, for every finger.</summary>
    private static Func<Quaternion, FingerPose>[] Worn(HandShape shape, Quaternion[] zero, Quaternion[] closed)
    {
        // Turns against the open hand, in the axes of the hand's sensor.
        Vector3 FistTurn(int k) => Rotations.Log(closed[k] * Quaternion.Conjugate(zero[k]));
        var fingers = Vector3.Zero;
        for (var k = 1; k < HandShape.FingerCount; k++)
        {
            fingers += FistTurn(k);
        }

        var toHand = LinedUp(Vector3.Normalize(fingers), FistTurn(0), shape.Fingers[1].Bends, shape.Fingers[0].Bends);
        var worn = new Func<Quaternion, FingerPose>[HandShape.FingerCount];
        for (var k = 0; k < worn.Length; k++)
        {
            var chain = shape.Fingers[k];
            var own = zero[k];
            var most = FistTurn(k).Length();
            // The finger's own axis: nobody's fingers close quite in parallel.
            var axis = Vector3.Normalize(Vector3.Transform(FistTurn(k), toHand));
            worn[k] = q =>
            {
                var turn = Rotations.Log(q * Quaternion.Conjugate(own));
                var seen = Rotations.Exp(Vector3.Transform(turn, toHand));
                var bend = Vector3.Dot(Rotations.Log(Rotations.Twist(seen, axis)), axis);
                var aside = Rotations.Log(seen * Quaternion.Conjugate(Quaternion.CreateFromAxisAngle(axis, bend)));
                var share = chain.IsThumb ? 0.45f : FistFirst;
                // The first joint closes late: a half-closed hand is bent more in its middle joints.
                var t = Math.Clamp(bend / MathF.Max(most, 0.1f), 0, 1);
                share *= chain.IsThumb ? 1 : 0.85f + (0.15f * t);
                var second = bend * (1 - share);
                return FingerLimits
                    .Of(chain.IsThumb)
                    .Clamp(
                        new FingerPose(Vector3.Dot(aside, chain.Spreads), bend * share, second, second * (chain.IsThumb ? 0.9f : 0.667f))
                    );
            };
        }

        return worn;
    }

    /// <summary>The turn that lays the first direction on its goal and the second as near as it gets.</summary>
    private static Quaternion LinedUp(Vector3 a, Vector3 b, Vector3 goalA, Vector3 goalB)
    {
        static Quaternion Frame(Vector3 x, Vector3 other)
        {
            var z = Vector3.Cross(x, other);
            z =
                z.Length() < 1e-3f
                    ? Vector3.Normalize(Vector3.Cross(x, MathF.Abs(x.Y) < 0.9f ? Vector3.UnitY : Vector3.UnitX))
                    : Vector3.Normalize(z);
            return Rotations.FromAxes(x, Vector3.Cross(z, x), z);
        }

        return Frame(goalA, goalB) * Quaternion.Conjugate(Frame(a, b.Length() < 0.05f ? Vector3.Zero : Vector3.Normalize(b)));
    }
}
