using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Hands;

/// <summary>Fingers from markers on them: those of a marker set whose segment is a finger's bone.</summary>
/// <remarks>
/// A finger's length is told by the take itself: where the markers are farthest from the knuckles the hand lies flat. One marker a finger is
/// enough; fingers that were never straight keep the length of the average hand of that stature, and it is said.
/// </remarks>
public static class HandMarkers
{
    /// <summary>Where on the last bone a marker sits on the nail when nobody says it: share of the bone, and metres above.</summary>
    private const float Along = 0.75f,
        Above = 0.007f;

    /// <summary>The share of a take that the hand lies flat at least, and is a fist.</summary>
    private const double Share = 0.04;

    /// <summary>In a fist a fingertip is this near its knuckle, against the straight finger.</summary>
    private const float Closed = 0.66f;

    /// <summary>Metres and radians that are nothing strange, and the sum of squares from which two fingers are looked at.</summary>
    private const float Usual = 0.003f,
        Aside = 10 * MathF.PI / 180,
        Strained = 4;

    /// <summary>A measured wrist is not farther off, metres.</summary>
    private const float FarthestOff = 0.02f;

    /// <summary>How a fist is closed (Kapandji, "The Physiology of the Joints").</summary>
    private static readonly FingerPose Fist = new(0, 85 * MathF.PI / 180, 100 * MathF.PI / 180, 67 * MathF.PI / 180);

    /// <summary>Shorter or longer than this against the average hand it was never straight, or its marker is another's.</summary>
    private const float Least = 0.80f,
        Most = 1.25f;

    /// <summary>Puts fingers on a solved body.</summary>
    /// <param name="own">The performer's own markers, named as in the set.</param>
    /// <exception cref="RefusedException">No marker of the take sits on a finger.</exception>
    public static (Motion Motion, HandPoses Poses, HandReport Report) Solve(
        Performer who,
        Motion body,
        MarkerTake own,
        MarkerSet set,
        CancellationToken cancel = default
    )
    {
        var (turns, places) = HandWork.Frames(body);
        HandShape[] shapes = [HandWork.Shape(0, who.Stature), HandWork.Shape(1, who.Stature)];
        var warnings = new List<string>();
        var worn = new Worn[HandPoses.Fingers][];
        for (var i = 0; i < worn.Length; i++)
        {
            var (side, finger) = (i / HandShape.FingerCount, i % HandShape.FingerCount);
            worn[i] =
            [
                .. FingerMarkers
                    .Of(set)
                    .Where(m => OfFinger(m.Segment, side, finger) && own.IndexOf(m.Name) >= 0)
                    .Select(m => new Worn(own.IndexOf(m.Name), Bone(m.Segment), m.Offset)),
            ];
        }

        if (worn.All(w => w.Length == 0))
        {
            throw new RefusedException("no marker of the take sits on a finger: the marker set says which do, by their segment (IndexL3)");
        }

        var seen = new Vector3[own.FrameCount * own.MarkerCount];
        Array.Fill(seen, MarkerTake.Hidden);
        var last = Math.Min(body.FrameCount, own.FrameCount);
        for (var f = 0; f < last; f++)
        {
            for (var i = 0; i < worn.Length; i++)
            {
                var at = (f * 2) + (i / HandShape.FingerCount);
                foreach (var w in worn[i])
                {
                    if (own[f, w.Marker] is var p && MarkerTake.Seen(p))
                    {
                        seen[(f * own.MarkerCount) + w.Marker] = Vector3.Transform(p - places[at], Quaternion.Conjugate(turns[at]));
                    }
                }
            }
        }

        for (var side = 0; side < 2; side++)
        {
            shapes[side] = Measure(shapes[side], side, worn, seen, own.MarkerCount, last, warnings);
        }

        var poses = new HandPoses(body.FrameCount);
        Span<FingerSight> sights = new FingerSight[8];
        for (var i = 0; i < worn.Length; i++)
        {
            var (side, finger) = (i / HandShape.FingerCount, i % HandShape.FingerCount);
            var chain = shapes[side].Fingers[finger];
            var pose = new FingerPose(0, 0.1f, 0.15f, 0.1f);
            for (var f = 0; f < last; f++)
            {
                if ((f & 255) == 0)
                {
                    cancel.ThrowIfCancellationRequested();
                }

                var n = 0;
                foreach (var w in worn[i])
                {
                    if (seen[(f * own.MarkerCount) + w.Marker] is var p && MarkerTake.Seen(p) && n < sights.Length)
                    {
                        sights[n++] = new FingerSight(w.Bone, w.On(chain), p);
                    }
                }

                if (n > 0)
                {
                    (pose, var residual) = FingerSolver.Solve(chain, sights[..n], pose);
                    (poses.Poses[HandPoses.At(f, side, finger)], poses.Residuals[HandPoses.At(f, side, finger)]) = (pose, residual);
                }
            }
        }

        var off = HandWork.Off(poses, body.FrameRate, Exchanged(shapes, poses, worn, seen, own.MarkerCount));
        // Where a finger cannot be where it was seen, its last trusted pose is better than a wrong one.
        foreach (var o in off)
        {
            var (side, finger) = (o.Side == 'L' ? 0 : 1, HandShape.Names.ToList().IndexOf(o.Finger));
            for (var f = o.Start; f <= o.End; f++)
            {
                poses.Residuals[HandPoses.At(f, side, finger)] = float.NaN;
            }
        }

        poses.Fill();
        warnings.AddRange(off.Select(Told));
        return (
            HandSkeleton.With(body, shapes[0], shapes[1], poses),
            poses,
            new HandReport(HandWork.Fingers(poses, shapes, who.Stature), off, warnings)
        );
    }

    /// <summary>A stretch in words.</summary>
    public static string Told(FingerOff o) =>
        $"the {(o.Side == 'L' ? "left" : "right")} {o.Finger.ToLowerInvariant()} cannot be where its marker is "
        + $"from frame {o.Start} to {o.End} ({o.Millimetres:0} mm off)"
        + (o.With.Length > 0 ? $": its marker and the {o.With.ToLowerInvariant()}'s look exchanged" : string.Empty)
        + "; it is carried over that stretch from its neighbours in time";

    private static bool OfFinger(BodyRole role, int side, int finger) =>
        role.ToString() is var n && n.StartsWith(HandShape.Names[finger], StringComparison.Ordinal) && n[^2] == (side == 0 ? 'L' : 'R');

    private static int Bone(BodyRole role) => role.ToString()[^1] - '1';

    /// <summary>Bone lengths by where the markers are farthest from the knuckles.</summary>
    private static HandShape Measure(
        HandShape shape,
        int side,
        Worn[][] worn,
        Vector3[] seen,
        int markers,
        int frames,
        List<string> warnings
    )
    {
        var fingers = shape.Fingers.ToArray();
        var reach = new float[HandShape.FingerCount][];
        var tips = new Worn?[HandShape.FingerCount];
        for (var finger = 0; finger < fingers.Length; finger++)
        {
            tips[finger] = worn[(side * HandShape.FingerCount) + finger].Where(w => w.Bone == 2).Select(w => (Worn?)w).FirstOrDefault();
            reach[finger] = Reach(fingers[finger], tips[finger], seen, markers, frames);
        }

        var found = new float[HandShape.FingerCount];
        for (var round = 0; round < 3; round++)
        {
            var open = Frames(reach, frames, flattest: true);
            for (var finger = 0; finger < fingers.Length; finger++)
            {
                // The hand is flat there; the middle one of many frames, because noise makes single ones too long.
                float[] far = [.. open.Select(f => reach[finger][f]).Where(float.IsFinite).Order()];
                found[finger] = far.Length == 0 ? float.NaN : far[far.Length / 2];
                fingers[finger] = shape.Fingers[finger] with { Base = fingers[finger].Base };
                fingers[finger] = found[finger] is >= Least and <= Most ? fingers[finger].Scaled(found[finger]) : fingers[finger];
            }

            if (round == 2 || FistOff(fingers, tips, reach, seen, markers, frames) is not { } off)
            {
                break;
            }

            for (var finger = 0; finger < fingers.Length; finger++)
            {
                fingers[finger] = fingers[finger] with { Base = fingers[finger].Base + off };
                reach[finger] = Reach(shape.Fingers[finger] with { Base = fingers[finger].Base }, tips[finger], seen, markers, frames);
            }
        }

        for (var finger = 0; finger < fingers.Length; finger++)
        {
            if (tips[finger] is not null && found[finger] is < Least or > Most)
            {
                warnings.Add(
                    $"the {(side == 0 ? "left" : "right")} {HandShape.Names[finger].ToLowerInvariant()} was never straight in the take, "
                        + $"or its marker is not on it ({found[finger] * 100:0} % of an average hand's): the average length is kept"
                );
            }
        }

        return shape with
        {
            Fingers = fingers,
        };
    }

    /// <summary>
    /// How far the knuckles lie from where the hand was thought to be: in a fist the fingertips are where a fist has them. A wrist that was measured
    /// a centimetre off would bend every finger by twenty degrees. Null when there is no fist in the take.
    /// </summary>
    private static Vector3? FistOff(FingerChain[] fingers, Worn?[] tips, float[][] reach, Vector3[] seen, int markers, int frames)
    {
        int[] closed =
        [
            .. Frames(reach, frames, flattest: false)
                .Where(f =>
                    Enumerable.Range(1, HandShape.FingerCount - 1).All(k => tips[k] is null || reach[k][f] is < Closed or float.NaN)
                ),
        ];
        Span<Vector3> joints = stackalloc Vector3[4];
        var (sum, n) = (Vector3.Zero, 0);
        for (var k = 1; k < fingers.Length; k++)
        {
            if (tips[k] is not { } tip)
            {
                continue;
            }

            var (a, b, c) = fingers[k].Turns(Fist);
            fingers[k].Places(Fist, joints);
            var at = joints[2] + Vector3.Transform(tip.On(fingers[k]), a * b * c);
            foreach (var f in closed)
            {
                if (seen[(f * markers) + tip.Marker] is var p && MarkerTake.Seen(p))
                {
                    (sum, n) = (sum + (p - at), n + 1);
                }
            }
        }

        if (n < 8)
        {
            return null;
        }

        var off = sum / n;
        return off.Length() > FarthestOff ? off * (FarthestOff / off.Length()) : off;
    }

    /// <summary>How far a finger's marker is from the knuckle in every frame, against the straight average finger; NaN where it is not seen.</summary>
    private static float[] Reach(FingerChain chain, Worn? tip, Vector3[] seen, int markers, int frames)
    {
        var reach = new float[frames];
        Array.Fill(reach, float.NaN);
        if (tip is not { } t)
        {
            return reach;
        }

        var straight = (chain.Middle + chain.Last + t.On(chain)).Length();
        for (var f = 0; f < frames; f++)
        {
            if (seen[(f * markers) + t.Marker] is var p && MarkerTake.Seen(p))
            {
                reach[f] = (p - chain.Base).Length() / straight;
            }
        }

        return reach;
    }

    /// <summary>The frames in which the whole hand is flattest, or the most closed.</summary>
    private static int[] Frames(float[][] reach, int frames, bool flattest)
    {
        float Flat(int f)
        {
            var (sum, n) = (0f, 0);
            foreach (var r in reach)
            {
                (sum, n) = float.IsFinite(r[f]) ? (sum + r[f], n + 1) : (sum, n);
            }

            return n == 0 ? float.NaN : sum / n;
        }

        var all = Enumerable.Range(0, frames).Select(f => (Frame: f, By: Flat(f))).Where(f => float.IsFinite(f.By));
        var ranked = (flattest ? all.OrderByDescending(f => f.By) : all.OrderBy(f => f.By)).ToArray();
        return [.. ranked.Take(Math.Max(1, (int)(frames * Share))).Select(f => f.Frame)];
    }

    /// <summary>
    /// The neighbour whose marker a finger has: with exchanged markers both would fit much better, and lie less aside. Of every sample, −1 where
    /// the marker is its own.
    /// </summary>
    private static int[] Exchanged(HandShape[] shapes, HandPoses poses, Worn[][] worn, Vector3[] seen, int markers)
    {
        var with = new int[poses.Poses.Length];
        Array.Fill(with, -1);
        for (var side = 0; side < 2; side++)
        {
            for (var k = 1; k + 1 < HandShape.FingerCount; k++)
            {
                Worn? Tip(int finger) => worn[(side * HandShape.FingerCount) + finger] is [{ Bone: 2 } one] ? one : null;
                if (Tip(k) is not { } a || Tip(k + 1) is not { } b)
                {
                    continue;
                }

                var (first, second) = (shapes[side].Fingers[k], shapes[side].Fingers[k + 1]);
                for (var f = 0; f < poses.FrameCount; f++)
                {
                    var (i, j) = (HandPoses.At(f, side, k), HandPoses.At(f, side, k + 1));
                    var own = Strain(poses.Poses[i], poses.Residuals[i]) + Strain(poses.Poses[j], poses.Residuals[j]);
                    if (!(own > Strained))
                    {
                        continue;
                    }

                    float Other(FingerChain chain, Worn on, Worn by, FingerPose start)
                    {
                        var (pose, residual) = FingerSolver.Solve(
                            chain,
                            [new FingerSight(2, on.On(chain), seen[(f * markers) + by.Marker])],
                            start
                        );
                        return Strain(pose, residual);
                    }

                    if (own - Other(first, a, b, poses.Poses[j]) - Other(second, b, a, poses.Poses[i]) > Strained / 2)
                    {
                        (with[i], with[j]) = (k + 1, k);
                    }
                }
            }
        }

        return with;
    }

    /// <summary>How unlikely a pose is: how far from what was seen and how far aside it lies, squares of what is usual.</summary>
    private static float Strain(FingerPose pose, float residual) =>
        (residual * residual / (Usual * Usual)) + (pose.Spread * pose.Spread / (Aside * Aside));

    private readonly record struct Worn(int Marker, int Bone, Vector3? Given)
    {
        /// <summary>Where it sits from its bone's joint as the finger lies straight.</summary>
        public Vector3 On(FingerChain chain)
        {
            if (Given is { } g)
            {
                return g;
            }

            var bone =
                Bone == 0 ? chain.Middle
                : Bone == 1 ? chain.Last
                : chain.Tip;
            // Above is against the way the finger closes.
            return (bone * (Bone == 2 ? Along : 0.5f)) - (chain.Spreads * Above);
        }
    }
}
