using System.Numerics;

namespace Eidolon.Core.Formats.Gltf;

/// <summary>How a prop's model is laid on its markers.</summary>
/// <param name="Unit">Metres in a unit of the file; null where it is to be as long as the markers reach.</param>
/// <param name="Centred">Its middle on the middle of the markers; else its own origin on the pivot.</param>
public sealed record PropModelFit(float? Unit, bool Centred);

/// <summary>A prop's model: meshes without a rig, in the frame of the prop. Exchanged for another one, what holds the prop holds that.</summary>
public static class GltfPropModel
{
    private const float Least = 0.005f,
        Most = 50;

    /// <summary>A file laid on the markers of a prop.</summary>
    /// <param name="bytes">GLB, or text with its buffers packed in.</param>
    /// <param name="markers">In the prop's frame, metres.</param>
    /// <returns>The model as GLB, and its size, metres.</returns>
    /// <exception cref="InvalidInputException">It is no model of a prop; says why.</exception>
    public static (byte[] Glb, Vector3 Size) Fit(byte[] bytes, string file, IReadOnlyList<Vector3> markers, PropModelFit fit)
    {
        var glb = GltfReader.Packed(bytes, file);
        var (low, high) = Box(GltfBareModel.Open(glb, file).Mesh.Positions);
        var (from, to) = Box(markers);
        var length = Longest(high - low);
        var unit = fit.Unit
            ?? (
                length > 0 && Longest(to - from) > 0
                    ? Longest(to - from) / length
                    : throw new InvalidInputException(file, "meshes", "the mesh has no extent to be measured by")
            );
        var size = (high - low) * unit;
        if (Longest(size) is not (>= Least and <= Most))
        {
            throw new InvalidInputException(file, "meshes", $"it would be {Longest(size):0.###} m long: choose another unit");
        }

        var move = fit.Centred ? ((from + to) / 2) - ((low + high) / 2 * unit) : Vector3.Zero;
        return (Moved(glb, file, Matrix4x4.CreateScale(unit) * Matrix4x4.CreateTranslation(move)), size);
    }

    /// <summary>A model that was fitted, moved within its frame, as when the frame's pivot is put elsewhere.</summary>
    public static byte[] Moved(byte[] glb, string file, Matrix4x4 by)
    {
        var model = GltfReader.Open(GltfContainer.WithoutAnimations(glb, file), file);
        foreach (var top in (model.DefaultScene ?? model.LogicalScenes[0]).VisualChildren)
        {
            top.LocalMatrix *= by;
        }

        using var stream = new MemoryStream();
        model.WriteGLB(stream);
        return stream.ToArray();
    }

    private static float Longest(Vector3 v) => Math.Max(v.X, Math.Max(v.Y, v.Z));

    private static (Vector3 Low, Vector3 High) Box(IReadOnlyList<Vector3> points) =>
        (points.Aggregate(Vector3.Min), points.Aggregate(Vector3.Max));
}
