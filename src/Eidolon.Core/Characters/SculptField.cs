using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters;

/// <summary>The blended distance field of a body's parts.</summary>
internal sealed class SculptField(IReadOnlyList<SculptPart> parts, float? floor)
{
    public float Distance(Vector3 p)
    {
        var d = float.MaxValue;
        foreach (var part in parts)
        {
            // Cheap rejection: too far to matter even with the blend.
            var reach = MathF.Max(part.RadiusA, part.RadiusB) * MathF.Max(part.Squash.X, MathF.Max(part.Squash.Y, part.Squash.Z));
            var near = Vector3.Clamp(p, Vector3.Min(part.A, part.B), Vector3.Max(part.A, part.B));
            if ((p - near).Length() - reach > MathF.Min(d, 0.2f) + part.Blend)
            {
                continue;
            }

            var e = part.Distance(p);
            var k = part.Blend;
            var h = MathF.Max(k - MathF.Abs(d - e), 0) / k;
            d = MathF.Min(d, e) - (h * h * k * 0.25f);
        }

        return floor is { } y ? MathF.Max(d, y - p.Y) : d;
    }

    public Vector3 Normal(Vector3 p, float h)
    {
        var n = new Vector3(
            Distance(p + new Vector3(h, 0, 0)) - Distance(p - new Vector3(h, 0, 0)),
            Distance(p + new Vector3(0, h, 0)) - Distance(p - new Vector3(0, h, 0)),
            Distance(p + new Vector3(0, 0, h)) - Distance(p - new Vector3(0, 0, h))
        );
        return n.LengthSquared() < 1e-12f ? Vector3.UnitY : Vector3.Normalize(n);
    }

    /// <summary>Moves a net vertex onto the surface itself.</summary>
    public Vector3 Settle(Vector3 p, float cell)
    {
        for (var i = 0; i < 2; i++)
        {
            var d = Distance(p);
            p -= Normal(p, cell * 0.5f) * Math.Clamp(d, -cell, cell) * 0.8f;
        }

        return p;
    }

    /// <summary>Weights fall off with distance from each joint's nearest part; only joints next to the nearest one in the tree count.</summary>
    public ((ushort, ushort, ushort, ushort) Joints, Vector4 Weights, Vector3 Colour) Bind(Skeleton s, Vector3 p)
    {
        var nearest = new Dictionary<int, float>();
        var best = float.MaxValue;
        SculptPart? bestPart = null;
        foreach (var part in parts)
        {
            var d = part.Distance(p);
            if (!nearest.TryGetValue(part.Joint, out var old) || d < old)
            {
                nearest[part.Joint] = d;
            }

            if (d < best)
            {
                (best, bestPart) = (d, part);
            }
        }

        var home = bestPart!.Joint;
        var chosen = nearest
            .Where(n =>
                n.Key == home
                || s.Parents[n.Key] == home
                || s.Parents[home] == n.Key
                || (s.Parents[home] >= 0 && s.Parents[home] == s.Parents[n.Key])
            )
            .Select(n => (Joint: n.Key, Weight: MathF.Exp(-(n.Value - best) / 0.016f)))
            .Where(n => n.Weight > 0.02f)
            .OrderByDescending(n => n.Weight)
            .Take(4)
            .ToArray();
        var total = chosen.Sum(c => c.Weight);
        ushort J(int i) => i < chosen.Length ? (ushort)chosen[i].Joint : (ushort)0;
        float W(int i) => i < chosen.Length ? chosen[i].Weight / total : 0;
        return ((J(0), J(1), J(2), J(3)), new Vector4(W(0), W(1), W(2), W(3)), bestPart.Colour);
    }
}
