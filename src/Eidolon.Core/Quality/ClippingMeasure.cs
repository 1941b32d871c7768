using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Quality;

/// <summary>Arms inside the trunk, head or thighs, by capsules of body proportions.</summary>
public static class ClippingMeasure
{
    /// <summary>Frames with the deepest pair each; lengths in metres go in, millimetres come out.</summary>
    public static List<ClippingFrame> Measure(Motion motion, ReadOnlySpan<Vector3> world)
    {
        var s = motion.Skeleton;
        var found = new List<ClippingFrame>();
        if (BodyRoles.Required.Any(r => s.IndexOf(r) < 0))
        {
            return found;
        }

        var size = (s.RestPositions[s.IndexOf(BodyRole.ShinL)] - s.RestPositions[s.IndexOf(BodyRole.ThighL)]).Length() / 0.245f;
        var bodies = Capsules(
            s,
            size,
            [
                ("Pelvis", BodyRole.Pelvis, Spine(s), .072f),
                ("Chest", Spine(s), NeckOf(s), .070f),
                ("Head", BodyRole.Head, BodyRole.Head, .045f),
                ("ThighL", BodyRole.ThighL, BodyRole.ShinL, .036f),
                ("ThighR", BodyRole.ThighR, BodyRole.ShinR, .036f),
            ]
        );
        var arms = Capsules(
            s,
            size,
            [
                ("ForearmL", BodyRole.ForearmL, BodyRole.HandL, .016f),
                ("ForearmR", BodyRole.ForearmR, BodyRole.HandR, .016f),
                ("HandL", BodyRole.HandL, BodyRole.HandL, .022f),
                ("HandR", BodyRole.HandR, BodyRole.HandR, .022f),
            ]
        );
        var n = s.Count;
        for (var f = 0; f < motion.FrameCount; f++)
        {
            var row = world.Slice(f * n, n);
            var best = default(ClippingFrame);
            foreach (var a in arms)
            {
                foreach (var b in bodies)
                {
                    var depth = a.Radius + b.Radius - Segments.Distance(row[a.A], row[a.B], row[b.A], row[b.B]);
                    if (depth > 0.005f && depth * 1000 > best.DepthMillimetres)
                    {
                        best = new ClippingFrame(f, a.Name, b.Name, depth * 1000);
                    }
                }
            }

            if (best.DepthMillimetres > 0)
            {
                found.Add(best);
            }
        }

        return found;
    }

    private static BodyRole Spine(Skeleton s) => BodyRoles.Spine.First(r => s.IndexOf(r) >= 0);

    private static BodyRole NeckOf(Skeleton s) => s.IndexOf(BodyRole.Neck) >= 0 ? BodyRole.Neck : BodyRole.Head;

    private static (string Name, int A, int B, float Radius)[] Capsules(
        Skeleton s,
        float size,
        (string, BodyRole, BodyRole, float)[] rows
    ) => Array.ConvertAll(rows, r => (r.Item1, s.IndexOf(r.Item2), s.IndexOf(r.Item3), r.Item4 * size));
}
