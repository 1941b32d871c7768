using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Clipping;

/// <summary>Arms inside the trunk, head or thighs, over a whole motion.</summary>
public static class ClippingMeasure
{
    /// <summary>Skins press in so far without anybody seeing it, metres.</summary>
    internal const float Unseen = 0.005f;

    /// <summary>Frames with the deepest pair each; lengths in metres go in, millimetres come out.</summary>
    /// <param name="world">World places of all joints.</param>
    /// <param name="turns">Their world turns; needed where volumes have offsets.</param>
    /// <param name="volumes">By average proportions when null.</param>
    public static List<ClippingFrame> Measure(
        Motion motion,
        ReadOnlySpan<Vector3> world,
        ReadOnlySpan<Quaternion> turns = default,
        BodyVolumes? volumes = null
    )
    {
        volumes ??= BodyVolumes.OfProportions(motion.Skeleton);
        var found = new List<ClippingFrame>();
        BodyVolume[] arms = [.. volumes.Arms],
            bodies = [.. volumes.Trunk];
        var n = motion.Skeleton.Count;
        for (var f = 0; f < motion.FrameCount; f++)
        {
            var places = world.Slice(f * n, n);
            var turned = turns.IsEmpty ? turns : turns.Slice(f * n, n);
            var best = default(ClippingFrame);
            foreach (var a in arms)
            {
                var (a1, a2) = Ends(a, places, turned);
                foreach (var b in bodies)
                {
                    var (b1, b2) = Ends(b, places, turned);
                    var depth = a.Radius + b.Radius - Segments.Distance(a1, a2, b1, b2);
                    if (depth > Unseen && depth * 1000 > best.DepthMillimetres)
                    {
                        best = new ClippingFrame(f, a.Part, b.Part, depth * 1000);
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

    /// <summary>Both ends of a volume in the world.</summary>
    internal static (Vector3 A, Vector3 B) Ends(BodyVolume v, ReadOnlySpan<Vector3> places, ReadOnlySpan<Quaternion> turns) =>
        turns.IsEmpty
            ? (places[v.A], places[v.B])
            : (places[v.A] + Vector3.Transform(v.OffsetA, turns[v.A]), places[v.B] + Vector3.Transform(v.OffsetB, turns[v.B]));
}
