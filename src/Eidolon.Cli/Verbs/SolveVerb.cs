using System.CommandLine;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Solving;

namespace Eidolon.Cli.Verbs;

/// <summary>Markers to a skeleton with the performer's bone lengths.</summary>
internal static class SolveVerb
{
    public static Command Create()
    {
        var input = new Argument<string>("IN");
        var set = new Option<string>("--marker-set") { Required = true };
        var performer = new Option<string?>("--performer");
        var calibrate = new Option<string?>("--calibrate");
        var performerOut = new Option<string?>("--performer-out");
        var subject = new Option<string?>("--subject");
        var ride = new RideAlong();
        var output = Options.Out();
        var json = Options.Json();
        var command = new Command("solve", "Markers to a skeleton.")
        {
            input,
            set,
            performer,
            calibrate,
            performerOut,
            subject,
            ride.Gloves,
            ride.Face,
            ride.FaceOffset,
            output,
            json,
        };
        command.SetAction(p =>
        {
            if (p.GetValue(performer) is null == p.GetValue(calibrate) is null)
            {
                throw new UsageException("give either --performer PERFORMER.json or --calibrate ROM.c3d");
            }

            if (Path.GetExtension(p.GetRequiredValue(output)).ToLowerInvariant() is not (".bvh" or ".glb"))
            {
                throw new UsageException("--out must end in .bvh or .glb");
            }

            return Run(
                p.GetRequiredValue(input),
                p.GetRequiredValue(set),
                p.GetValue(performer),
                p.GetValue(calibrate),
                p.GetValue(performerOut),
                p.GetValue(subject),
                ride.Read(p),
                p.GetRequiredValue(output),
                p.GetValue(json)
            );
        });
        return command;
    }

    private static int Run(
        string input,
        string setPath,
        string? performerPath,
        string? romPath,
        string? performerOut,
        string? subject,
        RideAlong.Given ride,
        string output,
        string? json
    )
    {
        var set = MarkerSetJson.Read(InputFile.Read(setPath), setPath);
        var take = MotionFiles.ReadMarkers(input).Take;
        var own = Subject(take, subject, input);
        var warnings = take.Warnings.ToList();
        var progress = new ConsoleProgress("solve");
        var performer = performerPath is not null
            ? PerformerJson.Read(InputFile.Read(performerPath), performerPath)
            : Calibrate(romPath!, set, subject, warnings, progress);
        var result = SolveOperations.Solve.Run(
            new OperationInput(null, [new MarkerValue(own)]),
            [],
            new OperationContext(new FileResources { Set = set, Body = performer }, Progress: progress)
        );
        var (motion, rode) = ride.Add((MotionValue)result.Value, performer, set, own, progress);
        MotionFiles.WriteMotion(output, motion.Motion);
        if (performerOut is not null)
        {
            AtomicFile.WriteText(performerOut, PerformerJson.Write(performer) + "\n");
        }

        var report = result.Report;
        report["markers"] = new JsonArray([
            .. ((JsonObject)report["markers"]!).Select(m =>
                (JsonNode)new JsonObject { ["name"] = m.Key, ["meanMillimetres"] = m.Value?.DeepClone() }
            ),
        ]);
        var said = ((JsonArray)report["warnings"]!).Select(w => (string)w!).Concat(RideAlong.Into(report, rode));
        report["warnings"] = Report.Array([.. warnings, .. said]);
        Report.Write(json, report, $"{output}: {report["frames"]} frames, {result.Summary}, {report["solveFramesPerSecond"]} frames/s");
        return ExitCodes.Done;
    }

    private static MarkerTake Subject(MarkerTake take, string? subject, string file)
    {
        try
        {
            return MarkerNames.Subject(take, subject);
        }
        catch (Exception e) when (e is ArgumentException or RefusedException)
        {
            throw new Core.InvalidInputException(file, "labels", e.Message, e);
        }
    }

    private static Performer Calibrate(string romPath, MarkerSet set, string? subject, List<string> warnings, IProgress<double> progress)
    {
        var rom = MotionFiles.ReadMarkers(romPath).Take;
        try
        {
            var (performer, report) = PerformerCalibration.Calibrate(
                subject ?? Path.GetFileNameWithoutExtension(romPath),
                Subject(rom, subject, romPath),
                set,
                default,
                progress
            );
            warnings.AddRange(report.Warnings);
            return performer;
        }
        catch (Exception e) when (e is ArgumentException or RefusedException)
        {
            throw new Core.InvalidInputException(romPath, "markers", e.Message, e);
        }
    }
}
