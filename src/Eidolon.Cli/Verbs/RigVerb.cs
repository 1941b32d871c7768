using System.CommandLine;
using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;

namespace Eidolon.Cli.Verbs;

/// <summary>What a character's rig is: which joint plays which role, whether its rest pose suits retargeting, where it faces.</summary>
internal static class RigVerb
{
    public static Command Create()
    {
        var input = new Argument<string>("CHARACTER");
        var straighten = new Option<bool>("--straighten") { Description = "Write the character with its rest pose put right." };
        var output = new Option<string?>("--out") { Description = "File to write, of the character's own kind." };
        var bind = new Option<bool>("--bind") { Description = "Put a standard skeleton into a mesh without a rig and bind it." };
        var placed = new Option<string?>("--skeleton") { Description = "Where joints stand in the mesh; what it does not name is found." };
        var unitScale = Options.UnitScale();
        var json = Options.Json();
        var command = new Command("rig", "Roles and rest pose of a character; a rig for a mesh without one.")
        {
            input,
            straighten,
            bind,
            placed,
            output,
            unitScale,
            json,
        };
        command.SetAction(p =>
        {
            var (file, to, right) = (p.GetRequiredValue(input), p.GetValue(output), p.GetValue(straighten));
            var (rigged, skeleton) = (p.GetValue(bind), p.GetValue(placed));
            if (right && rigged)
            {
                throw new UsageException("--bind and --straighten are two steps: bind first, then straighten what came of it");
            }

            if ((right || rigged) != to is not null)
            {
                throw new UsageException("--straighten or --bind and --out go together");
            }

            if (skeleton is not null && !rigged)
            {
                throw new UsageException("--skeleton goes with --bind");
            }

            if (rigged)
            {
                return p.GetValue(unitScale) is null
                    ? RigBind.Run(file, skeleton, to!, p.GetValue(json))
                    : throw new UsageException("--unit-scale is for BVH; a mesh is glTF, which is in metres");
            }

            return Run(file, to, Options.Scale(p.GetValue(unitScale)), p.GetValue(json));
        });
        return command;
    }

    private static int Run(string file, string? output, double? unitScale, string? json)
    {
        var bytes = InputFile.Read(file);
        var kind = MotionFiles.KindOf(file, bytes);
        var read = Read(bytes, file, kind, unitScale);
        var guess = RoleFinder.Find(read.Skeleton);
        var skeleton = read.Skeleton.WithRoles(guess.Roles);
        var rest = RestCheck.Check(skeleton);
        if (output is not null)
        {
            if (!guess.Complete)
            {
                throw new Core.InvalidInputException(file, "roles", $"no joint was found for {string.Join(", ", guess.Missing)}");
            }

            Write(output, file, bytes, kind, RestStraightening.Straighten(skeleton));
        }

        var report = Told(guess, rest, skeleton, Height(skeleton, kind, bytes, file));
        report["warnings"] = Report.Array(
            read.Warnings.Where(w => !w.StartsWith("the file holds no animation", StringComparison.Ordinal)).Concat(guess.Doubts)
        );
        Report.Write(
            json,
            report,
            [
                $"{file}: {guess.Roles.Count} roles, {(rest.Verdict == RestVerdict.Ready ? "ready" : string.Join("; ", rest.Reasons))}",
                .. output is null ? Array.Empty<string>() : [$"{output}: straightened"],
            ]
        );
        return ExitCodes.Done;
    }

    private static Motion Read(byte[] bytes, string file, FileKind kind, double? unitScale)
    {
        try
        {
            return MotionFiles.ReadMotion(bytes, file, unitScale, InputFile.FolderOf(file));
        }
        catch (Core.InvalidInputException e)
            when (kind is FileKind.Glb or FileKind.Gltf && e.Reason.StartsWith("the file holds no joints", StringComparison.Ordinal))
        {
            throw new Core.InvalidInputException(file, e.Place, e.Reason + "; --bind puts a skeleton into a mesh", e);
        }
    }

    /// <summary>What is known of a rig, without warnings.</summary>
    public static JsonObject Told(RoleGuess guess, RestReport rest, Skeleton skeleton, float height) =>
        new JsonObject
        {
            ["roles"] = new JsonObject(
                guess.Roles.OrderBy(r => r.Key).Select(r => KeyValuePair.Create(r.Key.ToString(), (JsonNode?)r.Value))
            ),
            ["asked"] = new JsonArray([
                .. guess.Asked.Select(q =>
                    (JsonNode)new JsonObject { ["role"] = q.Role.ToString(), ["candidates"] = Report.Array(q.Candidates) }
                ),
            ]),
            ["missing"] = Report.Array(guess.Missing.Select(r => r.ToString())),
            ["rest"] = new JsonObject
            {
                ["verdict"] = rest.Verdict switch
                {
                    RestVerdict.Ready => "ready",
                    RestVerdict.WillDrift => "willDrift",
                    _ => "cannotFit",
                },
                ["reasons"] = new JsonArray([
                    .. rest.Reasons.Select(r =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["joint"] = r.Joint,
                                ["what"] = r.What,
                                ["degrees"] = r.Degrees is { } d ? Report.Number(d, 2) : null,
                                ["centimetres"] = r.Centimetres is { } c ? Report.Number(c, 2) : null,
                            }
                    ),
                ]),
            },
            ["facing"] = BodyFacing.Of(skeleton) is { } f ? Report.Vector(f) : null,
            ["heightMetres"] = Math.Round(height, 4),
        };

    /// <summary>From the floor to the top of the mesh, or of the last bones where there is none.</summary>
    private static float Height(Skeleton s, FileKind kind, byte[] bytes, string file)
    {
        var ends = s.Joints.SelectMany(
            (j, i) =>
                j.EndSite is { } e
                    ? [s.RestPositions[i].Y, (s.RestPositions[i] + Vector3.Transform(e, s.RestRotations[i])).Y]
                    : new[] { s.RestPositions[i].Y }
        );
        var (low, high) = (ends.Min(), ends.Max());
        if (
            kind is FileKind.Glb or FileKind.Gltf
            && GltfMeshBounds.Heights(GltfReader.Open(bytes, file, InputFile.FolderOf(file))) is { } mesh
        )
        {
            (low, high) = (MathF.Min(low, mesh.Low), MathF.Max(high, mesh.High));
        }

        return high - low;
    }

    private static void Write(string output, string file, byte[] bytes, FileKind kind, Skeleton straight)
    {
        switch (Path.GetExtension(output).ToLowerInvariant())
        {
            case ".glb" when kind is FileKind.Glb or FileKind.Gltf:
                var packed = GltfReader.Packed(bytes, file, InputFile.FolderOf(file));
                AtomicFile.Write(output, s => GltfWriter.WriteAtRest(s, packed, file, straight));
                break;
            case ".bvh":
                MotionFiles.WriteMotion(output, Motion.AtRest(RestStraightening.Unturned(straight), 30, 1));
                break;
            default:
                throw new UsageException("--out must end in .bvh, or in .glb where the character is one");
        }
    }
}
