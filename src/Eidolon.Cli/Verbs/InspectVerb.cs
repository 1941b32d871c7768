using System.CommandLine;
using System.Text.Json.Nodes;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.C3d;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Cli.Verbs;

/// <summary>What is in a file.</summary>
internal static class InspectVerb
{
    public static Command Create()
    {
        var file = new Argument<string>("FILE");
        var json = Options.Json();
        var unitScale = Options.UnitScale();
        var command = new Command("inspect", "What is in a file.") { file, json, unitScale };
        command.SetAction(p => Run(p.GetRequiredValue(file), p.GetValue(json), Options.Scale(p.GetValue(unitScale))));
        return command;
    }

    private static int Run(string path, string? json, double? unitScale)
    {
        var bytes = InputFile.Read(path);
        var kind = MotionFiles.KindOf(path, bytes);
        if (kind == FileKind.Csv && CentroidCsv.Is(bytes))
        {
            return Centroids(bytes, path, json);
        }

        var report = kind is FileKind.C3d or FileKind.Csv
            ? Markers(MotionFiles.ReadMarkers(bytes, path), kind)
            : Motion(bytes, path, kind, unitScale);
        Report.Write(
            json,
            report,
            $"{path}: {report["format"]}, {report["frameCount"]} frames at {report["frameRate"]}/s ({report["durationSeconds"]} s), "
                + $"first frame {report["firstFrame"]}, {report["units"]}, {report["upAxis"]} up",
            $"{((JsonArray)report["markers"]!).Count} markers, {((JsonArray)report["joints"]!).Count} joints, "
                + $"{report["meshes"]} meshes, {report["morphTargets"]} morph targets"
        );
        return ExitCodes.Done;
    }

    /// <summary>A raw take of 2D centroids.</summary>
    private static int Centroids(byte[] bytes, string path, string? json)
    {
        var take = CentroidCsv.Read(bytes, path);
        var report = Common(
            FileKind.Csv,
            take.FrameRate,
            take.FrameCount,
            0,
            "px",
            "",
            [],
            [],
            [],
            [],
            [],
            ("centroids", take.CentroidCount),
            (
                "cameras",
                new JsonArray([
                    .. Enumerable
                        .Range(0, take.CameraCount)
                        .Select(c =>
                            (JsonNode)
                                new JsonObject
                                {
                                    ["index"] = c,
                                    ["centroids"] = Enumerable.Range(0, take.FrameCount).Sum(f => take.UAt(f, c).Length),
                                    ["emptyFrames"] = Enumerable.Range(0, take.FrameCount).Count(f => take.UAt(f, c).Length == 0),
                                }
                        ),
                ])
            )
        );
        Report.Write(
            json,
            report,
            $"{path}: 2D centroids of {take.CameraCount} cameras, {take.FrameCount} frames at {take.FrameRate}/s, {take.CentroidCount} in all"
        );
        return ExitCodes.Done;
    }

    private static JsonObject Markers(C3dDocument document, FileKind kind)
    {
        var take = document.Take;
        var markers = new JsonArray([
            .. take.Names.Select(
                (n, m) =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["name"] = n,
                            ["visibleFrames"] = take.VisibleFrames(m),
                            ["gaps"] = new JsonArray([
                                .. take.Gaps(m).Select(g => (JsonNode)new JsonObject { ["start"] = g.Start, ["end"] = g.End }),
                            ]),
                        }
            ),
        ]);
        return Common(
            kind,
            take.FrameRate,
            take.FrameCount,
            take.FirstFrame,
            kind == FileKind.Csv ? "m" : document.Units,
            kind == FileKind.Csv ? "Y" : document.UpAxis,
            markers,
            [],
            [],
            [],
            take.Warnings,
            ("analogChannels", document.AnalogChannels)
        );
    }

    private static JsonObject Motion(byte[] bytes, string path, FileKind kind, double? unitScale)
    {
        IReadOnlyList<string> meshes = [],
            morphs = [];
        Motion motion;
        if (kind is FileKind.Glb or FileKind.Gltf)
        {
            var model = GltfReader.Open(bytes, path, InputFile.FolderOf(path));
            meshes = GltfContents.MeshNames(model);
            morphs = [.. model.LogicalMeshes.SelectMany(GltfContents.MorphNames).Distinct()];
            motion = model.LogicalNodes.Any(n => n.Mesh is null)
                ? GltfReader.ReadMotion(GltfReader.GltfBindingOf(model, path), path, GltfReader.Size(bytes, path))
                : throw new Core.InvalidInputException(path, "nodes", "the file holds meshes but no joints");
        }
        else
        {
            motion = MotionFiles.ReadMotion(bytes, path, unitScale);
        }

        var joints = new JsonArray([
            .. motion.Skeleton.Joints.Select(j =>
                (JsonNode)
                    new JsonObject
                    {
                        ["name"] = j.Name,
                        ["parent"] = j.Parent < 0 ? null : motion.Skeleton[j.Parent].Name,
                        ["offset"] = Report.Vector(j.Offset),
                    }
            ),
        ]);
        return Common(
            kind,
            motion.FrameRate,
            motion.FrameCount,
            motion.FirstFrame,
            kind == FileKind.Bvh ? UnitName(unitScale) : "m",
            "Y",
            [],
            joints,
            meshes,
            morphs,
            motion.Warnings
        );
    }

    private static string UnitName(double? scale) =>
        scale switch
        {
            null or 0.01 => "cm",
            1 => "m",
            0.001 => "mm",
            0.0254 => "in",
            _ => $"{scale} m",
        };

    private static JsonObject Common(
        FileKind kind,
        double rate,
        int frames,
        int first,
        string units,
        string up,
        JsonArray markers,
        JsonArray joints,
        IReadOnlyList<string> meshes,
        IReadOnlyList<string> morphs,
        IReadOnlyList<string> warnings,
        params (string Name, JsonNode? Value)[] more
    )
    {
        var report = new JsonObject
        {
            ["format"] = kind.ToString().ToLowerInvariant(),
            ["frameRate"] = Math.Round(rate, 6),
            ["frameCount"] = frames,
            ["firstFrame"] = first,
            ["durationSeconds"] = Math.Round(frames / rate, 6),
            ["units"] = units,
            ["upAxis"] = up,
            ["markers"] = markers,
            ["joints"] = joints,
            ["meshes"] = meshes.Count,
            ["morphTargets"] = morphs.Count,
            ["meshNames"] = Report.Array(meshes),
            ["morphTargetNames"] = Report.Array(morphs),
            ["warnings"] = Report.Array(warnings),
        };
        foreach (var (name, value) in more)
        {
            report[name] = value;
        }

        return report;
    }
}
