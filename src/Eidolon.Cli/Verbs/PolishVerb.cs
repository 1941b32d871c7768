using System.CommandLine;
using Eidolon.Core.Clipping;
using Eidolon.Core.Formats;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;

namespace Eidolon.Cli.Verbs;

/// <summary>Polishing a finished motion; each way is a verb of its own below this one.</summary>
internal static class PolishVerb
{
    public static Command Create() => new("polish", "Polishes a finished motion.") { PushOut() };

    private static Command PushOut()
    {
        var input = new Argument<string>("MOTION");
        var character = new Option<string>("--character") { Required = true, Description = "Whose body arms are to stay out of." };
        var roles = new Option<string?>("--target-roles");
        var unitScale = Options.UnitScale();
        var output = Options.Out();
        var json = Options.Json();
        var command = new Command("push-out", "Arms out of the body they went into, smoothly.")
        {
            input,
            character,
            roles,
            unitScale,
            output,
            json,
        };
        command.SetAction(p =>
            PushOut(
                p.GetRequiredValue(input),
                p.GetRequiredValue(character),
                p.GetValue(roles),
                Options.Scale(p.GetValue(unitScale)),
                Options.Motion(p.GetRequiredValue(output)),
                p.GetValue(json)
            )
        );
        return command;
    }

    private static int PushOut(string input, string characterPath, string? roles, double? scale, string output, string? json)
    {
        var motion = MotionFiles.ReadMotion(input, scale);
        var bytes = InputFile.Read(characterPath);
        var rest = MotionFiles.ReadMotion(bytes, characterPath, folder: InputFile.FolderOf(characterPath));
        var character = Roled.Of(rest.Skeleton, roles, characterPath);
        var own = SameJoints(motion.Skeleton, character)
            ? motion.Skeleton.WithRoles(Roles(character))
            : throw new Core.InvalidInputException(input, "joints", $"the motion is not one of {characterPath}: its joints are others");
        var volumes = CharacterFile.Volumes(bytes, characterPath, character);
        var (pushed, report) = Core.Clipping.PushOut.Apply(motion.On(own), volumes, default, new ConsoleProgress("push-out"));
        CharacterFile.Write(output, bytes, characterPath, pushed);

        var told = RetargetOperation.PushOutJson(report);
        told["frames"] = pushed.FrameCount;
        told["warnings"] = Report.Array(
            motion.Warnings.Concat(
                report.After.Count > 0
                    ? [$"{report.After.Count} frames still clip, up to {PushOutReport.Deepest(report.After):0} mm"]
                    : Array.Empty<string>()
            )
        );
        Report.Write(
            json,
            told,
            $"{output}: {report.Before.Count} frames clipped, {report.After.Count} are left; hands moved up to {report.HandMillimetres:0} mm"
        );
        return ExitCodes.Done;
    }

    private static bool SameJoints(Skeleton a, Skeleton b) =>
        a.Count == b.Count && Enumerable.Range(0, a.Count).All(j => a[j].Name == b[j].Name && a.Parents[j] == b.Parents[j]);

    private static Dictionary<BodyRole, string> Roles(Skeleton s) =>
        s.Joints.Where(j => j.Role is not null).ToDictionary(j => j.Role!.Value, j => j.Name);
}
