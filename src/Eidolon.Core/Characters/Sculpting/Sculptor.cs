using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters.Sculpting;

/// <summary>Makes skins out of garments: a distance field each, its surface, and weights from what moves its parts.</summary>
/// <remarks>Surface: naive surface nets (Gibson 1998), each vertex then settled onto the field.</remarks>
public static class Sculptor
{
    /// <summary>Normals are taken over twice this at most, so that thin cloth does not feel its other side, metres.</summary>
    private const float Edge = 0.005f;

    /// <summary>Skin this deep inside another garment is never seen, in any pose, metres.</summary>
    private const float Cover = 0.014f;

    /// <summary>The skins of a figure.</summary>
    /// <param name="helpers">Bones of the skin alone; bindings number them behind the joints of the skeleton.</param>
    public static SkinnedFigure Sculpt(Skeleton skeleton, IReadOnlyList<SkinHelper> helpers, IReadOnlyList<Garment> garments)
    {
        SculptField[] fields = [.. garments.Select(g => new SculptField(g))];
        var skins = garments.Select((g, k) => (Skin: Skin(g, k, fields, skeleton.Count + helpers.Count), g.Moves));
        return new([.. skins.SelectMany(s => s.Moves is null ? [s.Skin] : FaceSkins.Split(s.Skin, s.Moves))], helpers);
    }

    private static SkinnedMesh Skin(Garment garment, int own, SculptField[] fields, int bones)
    {
        var field = fields[own];
        var cell = garment.Cell;
        var (positions, triangles) = SurfaceNet.Extract(
            field.Distance,
            field.Low - new Vector3(cell * 2),
            field.High + new Vector3(cell * 2),
            cell
        );
        var normals = new Vector3[positions.Length];
        var joints = new (ushort, ushort, ushort, ushort)[positions.Length];
        var weights = new Vector4[positions.Length];
        SculptPart[] parts = [.. garment.Parts.Where(p => p.Binding is not null)];
        Parallel.For(
            0,
            positions.Length,
            () => (Bones: new float[bones], Near: new float[parts.Length]),
            (i, _, own) =>
            {
                positions[i] = field.Settle(positions[i], cell);
                normals[i] = field.Normal(positions[i], MathF.Min(cell * 0.7f, Edge));
                (joints[i], weights[i]) = Bind(parts, garment.Fade, positions[i], own.Bones, own.Near);
                return own;
            },
            _ => { }
        );
        return Seen(new SkinnedMesh(garment.Material, positions, normals, joints, weights, triangles), own, fields);
    }

    /// <summary>Without the triangles that lie deep inside another garment, where nobody sees them.</summary>
    private static SkinnedMesh Seen(SkinnedMesh mesh, int own, SculptField[] fields)
    {
        var hidden = new bool[mesh.Positions.Length];
        Parallel.For(0, hidden.Length, i =>
        {
            for (var k = 0; k < fields.Length && !hidden[i]; k++)
            {
                hidden[i] = k != own && fields[k].Holds(mesh.Positions[i]) && fields[k].Distance(mesh.Positions[i]) < -Cover;
            }
        });
        return mesh.Only((a, b, c) => !hidden[a] || !hidden[b] || !hidden[c]);
    }

    /// <summary>The four strongest bones of a place; parts have a say by how near they are.</summary>
    private static ((ushort, ushort, ushort, ushort), Vector4) Bind(
        SculptPart[] parts,
        float fade,
        Vector3 p,
        float[] weights,
        float[] near
    )
    {
        var best = float.MaxValue;
        for (var i = 0; i < parts.Length; i++)
        {
            near[i] = parts[i].Shape.Distance(p);
            best = MathF.Min(best, near[i]);
        }

        Array.Clear(weights);
        for (var i = 0; i < parts.Length; i++)
        {
            var say = MathF.Exp(-(near[i] - best) / fade);
            if (say > 0.01f)
            {
                parts[i].Binding!.Add(p, say, weights);
            }
        }

        Span<ushort> bones = stackalloc ushort[4];
        Span<float> own = stackalloc float[4];
        for (var k = 0; k < 4; k++)
        {
            var most = 0;
            for (var b = 1; b < weights.Length; b++)
            {
                most = weights[b] > weights[most] ? b : most;
            }

            (bones[k], own[k], weights[most]) = (weights[most] > 0 ? (ushort)most : (ushort)0, MathF.Max(weights[most], 0), -1);
        }

        // What is too little to be seen only costs.
        for (var k = 1; k < 4; k++)
        {
            (bones[k], own[k]) = own[k] < 0.015f * own[0] ? ((ushort)0, 0) : (bones[k], own[k]);
        }

        var sum = own[0] + own[1] + own[2] + own[3];
        return ((bones[0], bones[1], bones[2], bones[3]), new Vector4(own[0], own[1], own[2], own[3]) / sum);
    }
}
