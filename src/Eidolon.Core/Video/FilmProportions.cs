using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Video;

/// <summary>
/// Bones of someone nobody measured, from two films and more: points that several cameras surely see are placed where their rays pass each other,
/// and bones are as long as their ends are apart, left and right alike.
/// </summary>
internal static class FilmProportions
{
    /// <summary>A point is surely seen from this weight on, 1/pixel²; rays that pass each other farther than this do not belong together, metres.</summary>
    private const double SureWeight = 0.01,
        Apart = 0.03;

    /// <summary>Fewer sights of a bone say nothing; nobody's bones are off a usual body's by more than this share.</summary>
    private const int Fewest = 30;
    private const float Most = 0.25f;

    /// <summary>The points at both ends of a bone, and the joint that ends it; all without their side.</summary>
    private static readonly (string From, string To, string Joint)[] Bones =
    [
        ("Shoulder", "Elbow", "Forearm"),
        ("Elbow", "Wrist", "Hand"),
        ("Hip", "Knee", "Shin"),
        ("Knee", "Ankle", "Foot"),
    ];

    private static readonly BodyRole[] Trunk = [BodyRole.SpineLower, BodyRole.SpineMid, BodyRole.SpineUpper, BodyRole.Chest, BodyRole.Neck];

    /// <summary>The same skeleton with the lengths that the films show.</summary>
    public static Skeleton Of(FilmBody body, FilmClock clock)
    {
        var places = Places(body, clock);
        var s = body.Skeleton;
        var factors = Enumerable.Repeat(Vector3.One, s.Count).ToArray();
        foreach (var (from, to, joint) in Bones)
        {
            double[] lengths = [.. "LR".SelectMany(side => Lengths(places, body.PointOf(from + side), body.PointOf(to + side)))];
            foreach (var j in "LR".Select(side => s.IndexOf(Enum.Parse<BodyRole>(joint + side))).Where(j => j >= 0))
            {
                factors[j] *= Ratio(lengths, s[j].Offset.Length());
            }
        }

        Wide(body, places, factors, "Hip", "Thigh", ["Thigh"]);
        Wide(body, places, factors, "Shoulder", "UpperArm", ["Clavicle", "UpperArm"]);
        High(body, places, factors);
        return new Skeleton([.. s.Joints.Select((j, i) => j with { Offset = j.Offset * factors[i] })]);
    }

    /// <summary>How far left and right joints are apart.</summary>
    private static void Wide(FilmBody body, Vector3d?[][] places, Vector3[] factors, string point, string joint, string[] scaled)
    {
        var s = body.Skeleton;
        int At(string n, char side) => s.IndexOf(Enum.Parse<BodyRole>(n + side));
        if (At(joint, 'L') < 0 || At(joint, 'R') < 0)
        {
            return;
        }

        var now = (s.RestPositions[At(joint, 'L')] - s.RestPositions[At(joint, 'R')]).Length();
        var ratio = Ratio([.. Lengths(places, body.PointOf(point + "L"), body.PointOf(point + "R"))], now);
        foreach (var j in scaled.SelectMany(n => "LR".Select(side => At(n, side))).Where(j => j >= 0))
        {
            factors[j].X *= ratio;
        }
    }

    /// <summary>From the hips to the neck.</summary>
    private static void High(FilmBody body, Vector3d?[][] places, Vector3[] factors)
    {
        var s = body.Skeleton;
        int pelvis = s.IndexOf(BodyRole.Pelvis),
            neck = s.IndexOf(BodyRole.Neck);
        if (pelvis < 0 || neck < 0)
        {
            return;
        }

        // A bent back is shorter from end to end than along: the longest tenth stands upright.
        var lengths = Lengths(places, body.PointOf("Pelvis"), body.PointOf("Neck")).OrderDescending().ToArray();
        var ratio = Ratio(
            [.. lengths.Take(Math.Max(Fewest, lengths.Length / 5))],
            (s.RestPositions[neck] - s.RestPositions[pelvis]).Length()
        );
        foreach (var j in Trunk.Select(s.IndexOf).Where(j => j >= 0))
        {
            factors[j].Y *= ratio;
        }
    }

    private static float Ratio(double[] lengths, float now)
    {
        if (lengths.Length < Fewest || now <= 0)
        {
            return 1;
        }

        Array.Sort(lengths);
        return Math.Clamp((float)lengths[lengths.Length / 2] / now, 1 - Most, 1 + Most);
    }

    private static IEnumerable<double> Lengths(Vector3d?[][] places, int a, int b) =>
        a < 0 || b < 0 ? [] : places.Where(p => p[a] is not null && p[b] is not null).Select(p => (p[a]!.Value - p[b]!.Value).Length);

    private static Vector3d?[][] Places(FilmBody body, FilmClock clock) =>
        [
            .. Enumerable
                .Range(0, clock.FrameCount)
                .Select(f =>
                {
                    var row = new Vector3d?[body.Points.Count];
                    foreach (var point in clock.At(f).Where(s => s.Weight > SureWeight).GroupBy(s => s.Point))
                    {
                        row[point.Key] = Meet([.. point]);
                    }

                    return row;
                }),
        ];

    /// <summary>The place nearest to all rays; null where there are too few, or they pass each other too far.</summary>
    private static Vector3d? Meet(FilmSight[] sights)
    {
        if (sights.Length < 2)
        {
            return null;
        }

        var rays = sights
            .Select(s =>
            {
                var (x, y) = s.Camera.Undistort(s.U, s.V);
                return (Eye: s.Camera.Position, Way: (s.Camera.Rotation.Transposed * new Vector3d(x, y, 1)).Normalised());
            })
            .ToArray();
        // Sum over rays of (I − w wᵀ)(place − eye) is zero.
        var a = new double[9];
        Span<double> right = stackalloc double[3];
        foreach (var (eye, w) in rays)
        {
            double[] d = [w.X, w.Y, w.Z];
            double[] e = [eye.X, eye.Y, eye.Z];
            for (var i = 0; i < 3; i++)
            {
                for (var j = 0; j < 3; j++)
                {
                    var v = (i == j ? 1 : 0) - (d[i] * d[j]);
                    a[(i * 3) + j] += v;
                    right[i] += v * e[j];
                }
            }
        }

        if (!DenseCholesky.Factor(a, 3))
        {
            return null;
        }

        double[] x3 = [right[0], right[1], right[2]];
        DenseCholesky.Solve(a, 3, x3);
        var place = new Vector3d(x3[0], x3[1], x3[2]);
        return rays.All(r => (Vector3d.Cross(r.Way, place - r.Eye)).Length < Apart) ? place : null;
    }
}
