using System.CommandLine;
using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Operations;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;

namespace Eidolon.Cli.Verbs;

/// <summary>A motion onto another character.</summary>
internal static class RetargetVerb
{
    public static Command Create()
    {
        var input = new Argument<string>("MOTION");
        var character = new Option<string>("--character") { Required = true };
        var sourceRoles = new Option<string?>("--source-roles");
        var targetRoles = new Option<string?>("--target-roles");
        var setup = new Option<string?>("--setup");
        var unitScale = Options.UnitScale();
        var output = Options.Out();
        var json = Options.Json();
        var command = new Command("retarget", "A motion onto another character.")
        {
            input,
            character,
            sourceRoles,
            targetRoles,
            setup,
            unitScale,
            output,
            json,
        };
        command.SetAction(p =>
        {
            if (Path.GetExtension(p.GetRequiredValue(output)).ToLowerInvariant() is not (".bvh" or ".glb"))
            {
                throw new UsageException("--out must end in .bvh or .glb");
            }

            return Run(
                p.GetRequiredValue(input),
                p.GetRequiredValue(character),
                p.GetValue(sourceRoles),
                p.GetValue(targetRoles),
                p.GetValue(setup),
                Options.Scale(p.GetValue(unitScale)),
                p.GetRequiredValue(output),
                p.GetValue(json)
            );
        });
        return command;
    }

    private static int Run(
        string input,
        string characterPath,
        string? sourceRoles,
        string? targetRoles,
        string? setupPath,
        double? unitScale,
        string output,
        string? json
    )
    {
        var source = MotionFiles.ReadMotion(input, unitScale);
        source = source.On(Roled.Of(source.Skeleton, sourceRoles, input));
        var bytes = InputFile.Read(characterPath);
        var rest = MotionFiles.ReadMotion(bytes, characterPath, folder: InputFile.FolderOf(characterPath));
        var target = Roled.Of(rest.Skeleton, targetRoles, characterPath);
        var volumes = CharacterFile.Volumes(bytes, characterPath, target);
        var (motion, report) = Retargeter.Retarget(source, target, Setup(setupPath), volumes, default, new ConsoleProgress("retarget"));
        CharacterFile.Write(output, bytes, characterPath, motion);

        var result = RetargetOperation.RetargetJson(report);
        var warnings = source
            .Warnings.Concat(rest.Warnings.Where(w => !w.StartsWith("the file holds no animation", StringComparison.Ordinal)))
            .Concat(RestCheck.Check(target).Reasons.Select(r => $"character at rest: {r}"))
            .Concat(report.Warnings);
        result["warnings"] = Report.Array(warnings.Distinct());
        result["frames"] = motion.FrameCount;
        var worst = report.Contacts.Select(c => c.SlideMillimetres).DefaultIfEmpty(0).Max();
        Report.Write(
            json,
            result,
            $"{output}: {motion.FrameCount} frames, scale {report.Scale:0.###}, worst slide {worst:0.00} mm over {report.Contacts.Count} contacts"
        );
        return ExitCodes.Done;
    }

    private static RetargetSetup Setup(string? path)
    {
        if (path is null)
        {
            return new RetargetSetup();
        }

        try
        {
            return RetargetOperation.SetupFrom(
                JsonNode.Parse(InputFile.Read(path)) as JsonObject ?? throw new ArgumentException("an object is expected")
            );
        }
        catch (Exception e) when (e is JsonException or ArgumentException or Core.RefusedException)
        {
            throw new Core.InvalidInputException(path, "setup", e.Message, e);
        }
    }
}
