using System.Numerics;
using Eidolon.Core.Characters;
using Eidolon.Core.Characters.Sculpting;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Skeletons;

namespace Eidolon.StandIns.Characters;

/// <summary>Models of the props of Harbour Lights, made of boxes about the prop's pivot, as GLB.</summary>
public static class HarbourPropModels
{
    private static readonly Vector3 Wood = new(0.45f, 0.33f, 0.22f);
    private static readonly Vector3 Dark = new(0.27f, 0.21f, 0.17f);
    private static readonly Vector3 Iron = new(0.24f, 0.25f, 0.28f);
    private static readonly Vector3 Glow = new(0.98f, 0.80f, 0.46f);

    /// <summary>A box: middle, size, colour.</summary>
    private readonly record struct Box(Vector3 Middle, Vector3 Size, Vector3 Colour);

    /// <summary>The model of a prop by the name it has in Harbour Lights; null for one that has none.</summary>
    public static byte[]? Build(string prop) =>
        prop switch
        {
            "Crate" => Write(prop, Crate()),
            "Lantern pole" => Write(prop, LanternPole()),
            "Bollard hook" => Write(prop, Hook()),
            _ => null,
        };

    /// <summary>0.46 × 0.36 × 0.52 m: boards with gaps, corner posts, a handle at either end.</summary>
    private static IEnumerable<Box> Crate()
    {
        const float x = 0.46f,
            y = 0.36f,
            z = 0.52f;
        for (var k = 0; k < 4; k++)
        {
            var at = (k - 1.5f) * (y / 4);
            yield return new(new(0, at, z / 2), new(x, (y / 4) - 0.008f, 0.018f), Wood);
            yield return new(new(0, at, -z / 2), new(x, (y / 4) - 0.008f, 0.018f), Wood);
            yield return new(new(x / 2, at, 0), new(0.018f, (y / 4) - 0.008f, z), Wood);
            yield return new(new(-x / 2, at, 0), new(0.018f, (y / 4) - 0.008f, z), Wood);
        }

        for (var k = 0; k < 5; k++)
        {
            var at = (k - 2f) * (x / 5);
            yield return new(new(at, y / 2, 0), new((x / 5) - 0.008f, 0.018f, z + 0.018f), Wood);
        }

        foreach (var (sx, sz) in new[] { (1, 1), (1, -1), (-1, 1), (-1, -1) })
        {
            yield return new(new(sx * x / 2, 0, sz * z / 2), new(0.045f, y + 0.02f, 0.045f), Dark);
        }

        yield return new(new(0, 0.06f, (z / 2) + 0.035f), new(0.16f, 0.022f, 0.022f), Dark);
        yield return new(new(0, 0.06f, (-z / 2) - 0.035f), new(0.16f, 0.022f, 0.022f), Dark);
    }

    /// <summary>A pole of 1.6 m held at the pivot, with the lantern at its upper end.</summary>
    private static IEnumerable<Box> LanternPole()
    {
        yield return new(new(0, 0.1f, 0), new(0.028f, 1.6f, 0.028f), Wood);
        yield return new(new(0.05f, 0.88f, 0), new(0.12f, 0.02f, 0.02f), Iron);
        yield return new(new(0.1f, 0.84f, 0), new(0.012f, 0.07f, 0.012f), Iron);
        yield return new(new(0.1f, 0.73f, 0), new(0.09f, 0.13f, 0.09f), Glow);
        yield return new(new(0.1f, 0.805f, 0), new(0.12f, 0.02f, 0.12f), Iron);
        yield return new(new(0.1f, 0.655f, 0), new(0.11f, 0.02f, 0.11f), Iron);
    }

    /// <summary>An iron hook of 0.4 m.</summary>
    private static IEnumerable<Box> Hook()
    {
        yield return new(new(0, 0.06f, 0), new(0.03f, 0.24f, 0.03f), Iron);
        yield return new(new(0.03f, -0.06f, 0), new(0.09f, 0.03f, 0.03f), Iron);
        yield return new(new(-0.03f, -0.16f, 0), new(0.09f, 0.03f, 0.03f), Iron);
        yield return new(new(0.07f, -0.11f, 0), new(0.03f, 0.12f, 0.03f), Iron);
        yield return new(new(-0.07f, -0.12f, 0), new(0.03f, 0.08f, 0.03f), Iron);
    }

    private static byte[] Write(string name, IEnumerable<Box> boxes)
    {
        var (places, normals, colours, triangles) = (new List<Vector3>(), new List<Vector3>(), new List<Vector3>(), new List<int>());
        foreach (var box in boxes)
        {
            for (var axis = 0; axis < 3; axis++)
            {
                foreach (var sign in new[] { 1f, -1f })
                {
                    Face(box, axis, sign, places, normals, colours, triangles);
                }
            }
        }

        var n = places.Count;
        var joints = new (ushort, ushort, ushort, ushort)[n];
        var weights = new Vector4[n];
        Array.Fill(weights, Vector4.UnitX);
        var mesh = new SkinnedMesh(new SurfaceMaterial(name, Vector3.One), [.. places], [.. normals], joints, weights, [.. triangles])
        {
            Colours = [.. colours],
        };
        return GltfSkinWriter.WriteBare(new SkinnedFigure([mesh], []), name, Matrix4x4.Identity);
    }

    private static void Face(
        Box box,
        int axis,
        float sign,
        List<Vector3> places,
        List<Vector3> normals,
        List<Vector3> colours,
        List<int> triangles
    )
    {
        Vector3 Along(int a, float v) =>
            a == 0 ? new(v, 0, 0)
            : a == 1 ? new(0, v, 0)
            : new(0, 0, v);
        float Size(int a) =>
            a == 0 ? box.Size.X
            : a == 1 ? box.Size.Y
            : box.Size.Z;
        var (u, w) = ((axis + 1) % 3, (axis + 2) % 3);
        var first = places.Count;
        foreach (var (a, b) in new[] { (-0.5f, -0.5f), (0.5f, -0.5f), (0.5f, 0.5f), (-0.5f, 0.5f) })
        {
            places.Add(box.Middle + Along(axis, sign * Size(axis) / 2) + Along(u, a * Size(u)) + Along(w, b * Size(w)));
            normals.Add(Along(axis, sign));
            colours.Add(box.Colour);
        }

        int[] order = sign > 0 ? [0, 1, 2, 0, 2, 3] : [0, 2, 1, 0, 3, 2];
        triangles.AddRange(order.Select(i => first + i));
    }
}
