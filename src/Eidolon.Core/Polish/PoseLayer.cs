using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Polish;

/// <summary>
/// An additive layer on one joint, in rotation-vector space: keys with smooth curves between them; a Release key lets the motion below
/// show through unchanged, and outside two Release keys nothing moves.
/// </summary>
public sealed record PoseLayer(string Joint, float Weight, IReadOnlyList<LayerKey> Keys)
{
    /// <summary>Index of the joint by name or by role.</summary>
    public int JointIn(Skeleton skeleton)
    {
        var j = skeleton.IndexOf(Joint);
        j = j < 0 && Enum.TryParse<BodyRole>(Joint, out var role) ? skeleton.IndexOf(role) : j;
        return j >= 0 ? j : throw new RefusedException($"there is no joint '{Joint}'");
    }

    /// <summary>The motion with the layer on it; the source is left as it is.</summary>
    public Motion Apply(Motion motion)
    {
        var joint = JointIn(motion.Skeleton);
        var result = motion.Copy();
        for (var f = 0; f < motion.FrameCount; f++)
        {
            var v = At(f) * (Weight * MathF.PI / 180);
            if (v.LengthSquared() > 0)
            {
                ref var q = ref result.Rotations[(f * motion.Skeleton.Count) + joint];
                q = Quaternion.Normalize(q * Rotations.Exp(v));
            }
        }

        return result;
    }

    /// <summary>
    /// The layer's own turn at a frame, degrees: monotone cubic between keys, held outside unless the outer key is a Release key (which is zero
    /// anyway).
    /// </summary>
    public Vector3 At(int frame)
    {
        if (Keys.Count == 0)
        {
            return Vector3.Zero;
        }

        var keys = Keys.OrderBy(k => k.Frame).ToArray();
        Vector3 Value(int i) => keys[i].Release ? Vector3.Zero : keys[i].Degrees;
        if (frame <= keys[0].Frame)
        {
            return Value(0);
        }

        if (frame >= keys[^1].Frame)
        {
            return Value(keys.Length - 1);
        }

        var k = Array.FindLastIndex(keys, x => x.Frame <= frame);
        float span = keys[k + 1].Frame - keys[k].Frame;
        var t = (frame - keys[k].Frame) / span;
        Vector3 a = Value(k),
            b = Value(k + 1);
        // Flat at extremes and at Release keys, so that nothing overshoots (Fritsch & Carlson 1980).
        Vector3 Slope(int i)
        {
            if (i == 0 || i == keys.Length - 1 || keys[i].Release)
            {
                return Vector3.Zero;
            }

            Vector3 before = Value(i) - Value(i - 1),
                after = Value(i + 1) - Value(i);
            float h0 = keys[i].Frame - keys[i - 1].Frame,
                h1 = keys[i + 1].Frame - keys[i].Frame;
            float One(float d0, float d1) => d0 * d1 <= 0 ? 0 : 2 / ((h0 / d0) + (h1 / d1));
            return new Vector3(One(before.X, after.X), One(before.Y, after.Y), One(before.Z, after.Z));
        }

        var (ma, mb) = (Slope(k) * span, Slope(k + 1) * span);
        return new Vector3(
            CubicSpline.Hermite(a.X, ma.X, b.X, mb.X, t),
            CubicSpline.Hermite(a.Y, ma.Y, b.Y, mb.Y, t),
            CubicSpline.Hermite(a.Z, ma.Z, b.Z, mb.Z, t)
        );
    }
}
