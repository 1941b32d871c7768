using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Characters;
using Eidolon.Core.Characters.Binding;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Formats.Json;

namespace Eidolon.Cli.Verbs;

/// <summary><c>rig MESH --bind</c>: a standard skeleton in a mesh without a rig, and the mesh bound to it.</summary>
internal static class RigBind
{
    public static int Run(string file, string? placedFile, string output, string? json)
    {
        if (!Path.GetExtension(output).Equals(".glb", StringComparison.OrdinalIgnoreCase))
        {
            throw new UsageException("--out must end in .glb");
        }

        var bytes = InputFile.Read(file);
        if (MotionFiles.KindOf(file, bytes) is not (FileKind.Glb or FileKind.Gltf))
        {
            throw new InvalidInputException(file, "file", "a mesh in .glb or .gltf is expected");
        }

        var model = GltfBareModel.Open(GltfReader.Packed(bytes, file, InputFile.FolderOf(file)), file);
        var given = placedFile is null ? null : PlacedSkeletonJson.Read(InputFile.Read(placedFile), placedFile);
        byte[] glb;
        PlacedSkeleton placed;
        SkinWeights weights;
        try
        {
            (glb, placed, weights) = model.Bind(given, new ConsoleProgress("binding"));
        }
        catch (RefusedException e)
        {
            throw new InvalidInputException(file, "mesh", e.Message, e);
        }

        var skeleton = placed.ToSkeleton();
        AtomicFile.Write(output, s => s.Write(glb));

        var (low, high) = (model.Mesh.Positions.Min(p => p.Y), model.Mesh.Positions.Max(p => p.Y));
        var report = RigVerb.Told(RoleFinder.Find(skeleton), RestCheck.Check(skeleton), skeleton, high - low);
        report["joints"] = new JsonObject(
            placed.Places.Select(p => KeyValuePair.Create(p.Key.ToString(), (JsonNode?)Report.Vector(p.Value)))
        );
        report["vertices"] = weights.Weights.Length;
        report["looseParts"] = new JsonArray([
            .. weights.LooseParts.Select(l => (JsonNode)new JsonObject { ["joint"] = skeleton[l.Joint].Name, ["vertices"] = l.Vertices }),
        ]);
        report["warnings"] = Report.Array(placed.Doubts.Concat(Plausible(high - low)));
        Report.Write(
            json,
            report,
            $"{output}: {skeleton.Count} joints, {weights.Weights.Length} vertices bound, {weights.LooseParts.Count} loose parts"
        );
        return ExitCodes.Done;
    }

    /// <summary>glTF is in metres; a figure as tall as a house was told in other units.</summary>
    private static IEnumerable<string> Plausible(float height)
    {
        if (height is > .4f and < 3.5f)
        {
            yield break;
        }

        var likely = new[] { (.01f, "centimetres"), (.0254f, "inches"), (.001f, "millimetres") }
            .Where(u => height * u.Item1 is > .8f and < 2.6f)
            .Select(u => $"; its numbers look like {u.Item2}")
            .FirstOrDefault(string.Empty);
        yield return $"the mesh is {height:0.##} m tall{likely}";
    }
}
