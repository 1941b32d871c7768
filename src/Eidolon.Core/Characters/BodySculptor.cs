using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters;

/// <summary>Makes one smooth skin out of blended parts: a signed distance field, its surface, and weights from the parts' joints.</summary>
/// <remarks>Blend after Quilez' polynomial smooth minimum; surface by Surface Nets (Gibson 1998).</remarks>
public static class BodySculptor
{
    /// <param name="cell">Size of a grid cell, metres: detail finer than this is lost.</param>
    /// <param name="floor">Everything below this height is cut flat (soles); null for none.</param>
    public static SkinnedMesh Sculpt(Skeleton skeleton, IReadOnlyList<SculptPart> parts, float cell, float? floor)
    {
        Vector3 low = new(float.MaxValue),
            high = new(float.MinValue);
        foreach (var p in parts)
        {
            var r = new Vector3(MathF.Max(p.RadiusA, p.RadiusB)) * Vector3.Max(p.Squash, Vector3.One) + new Vector3(cell * 3);
            low = Vector3.Min(low, Vector3.Min(p.A, p.B) - r);
            high = Vector3.Max(high, Vector3.Max(p.A, p.B) + r);
        }

        var field = new SculptField(parts, floor);
        var net = SurfaceNet.Extract(field.Distance, low, high, cell);
        var positions = net.Positions;
        var normals = new Vector3[positions.Length];
        var colours = new Vector3[positions.Length];
        var joints = new (ushort, ushort, ushort, ushort)[positions.Length];
        var weights = new Vector4[positions.Length];
        Parallel.For(0, positions.Length, i =>
        {
            positions[i] = field.Settle(positions[i], cell);
            normals[i] = field.Normal(positions[i], cell * 0.5f);
            (joints[i], weights[i], colours[i]) = field.Bind(skeleton, positions[i]);
        });
        return new SkinnedMesh(positions, normals, colours, joints, weights, net.Triangles);
    }
}
