using System.Numerics;
using Eidolon.Core.Formats.Bvh;
using Eidolon.Core.Formats.C3d;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Formats.Usd;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Formats;

/// <summary>One door to every format: what kind a file is, and its motion or markers.</summary>
public static class MotionFiles
{
    /// <summary>By extension; a file without a known one is told by its first bytes.</summary>
    public static FileKind KindOf(string path, ReadOnlySpan<byte> bytes)
    {
        switch (Path.GetExtension(path).ToLowerInvariant())
        {
            case ".c3d":
                return FileKind.C3d;
            case ".bvh":
                return FileKind.Bvh;
            case ".glb":
                return FileKind.Glb;
            case ".gltf":
                return FileKind.Gltf;
            case ".csv":
                return FileKind.Csv;
        }

        if (bytes.Length > 4 && bytes[..4].SequenceEqual("glTF"u8))
        {
            return FileKind.Glb;
        }

        if (bytes.Length > 512 && bytes[1] == 0x50)
        {
            return FileKind.C3d;
        }

        return Utf8Mark.Without(bytes).StartsWith("HIERARCHY"u8)
            ? FileKind.Bvh
            : throw new InvalidInputException(path, "name", "the kind of file is not known (c3d, bvh, glb, gltf or csv)");
    }

    /// <summary>Reads a motion by the ending of its name.</summary>
    /// <exception cref="InvalidInputException">It is of no known kind or cannot be read.</exception>
    public static Motion ReadMotion(string path, double? unitScale = null) =>
        ReadMotion(InputFile.Read(path), path, unitScale, InputFile.FolderOf(path));

    /// <param name="folder">Where buffers of a .gltf may lie; null where nothing but these bytes is read.</param>
    public static Motion ReadMotion(byte[] bytes, string path, double? unitScale = null, string? folder = null) =>
        AnyMotion(bytes, path, unitScale, folder).Checked(path);

    /// <summary>The same wherever its joints are: an import may still correct the unit.</summary>
    internal static Motion AnyMotion(byte[] bytes, string path, double? unitScale = null, string? folder = null) =>
        KindOf(path, bytes) switch
        {
            FileKind.Bvh => BvhReader.Read(bytes, path, unitScale ?? 0.01),
            FileKind.Glb or FileKind.Gltf => unitScale is { } s && s != 1
                ? MotionEdits.Scale(GltfReader.Read(bytes, path, folder), (float)s)
                : GltfReader.Read(bytes, path, folder),
            var k => throw new InvalidInputException(
                path,
                "format",
                $"{k.ToString().ToLowerInvariant()} holds markers, a motion (bvh, glb) is needed here"
            ),
        };

    /// <summary>Reads markers by the ending of the name.</summary>
    /// <exception cref="InvalidInputException">They are of no known kind or cannot be read.</exception>
    public static C3dDocument ReadMarkers(string path) => ReadMarkers(InputFile.Read(path), path);

    /// <summary>The same for bytes that are at hand.</summary>
    /// <exception cref="InvalidInputException">They are of no known kind or cannot be read.</exception>
    public static C3dDocument ReadMarkers(byte[] bytes, string path)
    {
        var document = AnyMarkers(bytes, path);
        document.Take.Checked(path);
        return document;
    }

    /// <summary>The same wherever its markers are: an import may still correct the unit.</summary>
    internal static C3dDocument AnyMarkers(byte[] bytes, string path) =>
        KindOf(path, bytes) switch
        {
            FileKind.C3d => C3dReader.Read(bytes, path),
            FileKind.Csv => new C3dDocument(CsvMarkers.Read(bytes, path)),
            var k => throw new InvalidInputException(
                path,
                "format",
                $"{k.ToString().ToLowerInvariant()} holds a motion, markers (c3d, csv) are needed here"
            ),
        };

    /// <summary>Writes a motion by the extension of <paramref name="path"/>.</summary>
    /// <param name="units">m, cm, mm or in; BVH is centimetres when null. GLB is always metres.</param>
    public static void WriteMotion(string path, Motion motion, string? units = null, string up = "Y", RotationOrder? order = null)
    {
        var extension = Path.GetExtension(path).ToLowerInvariant();
        AtomicFile.Write(path, stream => WriteMotion(stream, extension, motion, units, up, order));
    }

    /// <summary>Writes a motion by the ending of the name.</summary>
    public static void WriteMotion(
        Stream stream,
        string extension,
        Motion motion,
        string? units = null,
        string up = "Y",
        RotationOrder? order = null
    )
    {
        switch (extension)
        {
            case ".bvh":
                Units.TryMetres(units ?? "cm", out var metres);
                BvhWriter.Write(stream, up == "Z" ? MotionEdits.Turn(MotionEdits.LevelRest(motion), YUpToZUp) : motion, metres, order);
                break;
            case ".glb":
                GltfWriter.WriteSkeleton(stream, motion);
                break;
            case ".gltf":
                GltfWriter.WriteText(stream, "motion.gltf", glb => GltfWriter.WriteSkeleton(glb, motion));
                break;
            case ".usda":
                Units.TryMetres(units ?? "m", out var unit);
                UsdaWriter.Write(stream, up == "Z" ? MotionEdits.Turn(motion, YUpToZUp) : motion, unit, up == "Z" ? 'Z' : 'Y');
                break;
            case ".csv":
                CsvMarkers.Write(stream, JointPoints(motion), units ?? "m", up);
                break;
            default:
                throw new ArgumentException($"a motion cannot be written as '{extension}' (bvh, glb, gltf, usda or csv)");
        }
    }

    /// <summary>The turn that makes +Z the upright axis.</summary>
    public static Quaternion YUpToZUp { get; } = Rotations.AboutAxis(0, Math.PI / 2);

    /// <summary>Joint centres as points.</summary>
    public static MarkerTake JointPoints(Motion motion) =>
        new([.. motion.Skeleton.Joints.Select(j => j.Name)], motion.FrameRate, motion.FrameCount, ForwardKinematics.WorldPositions(motion))
        {
            FirstFrame = motion.FirstFrame,
        };
}
