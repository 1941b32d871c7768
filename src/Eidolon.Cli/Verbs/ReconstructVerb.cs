using System.CommandLine;
using System.Diagnostics;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.C3d;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Optical;

namespace Eidolon.Cli.Verbs;

/// <summary>2D centroids to 3D trajectories.</summary>
internal static class ReconstructVerb
{
    public static Command Create()
    {
        var input = new Argument<string>("IN") { Description = "2D centroids (csv)." };
        var cameras = new Option<string>("--cameras") { Required = true, Description = "Calibrated cameras (json)." };
        var defaults = new ReconstructOptions();
        var tolerance = new Option<double>("--tolerance")
        {
            DefaultValueFactory = _ => defaults.TolerancePixels,
            Description = "Pixels a centroid may lie off its point.",
        };
        var gate = new Option<double>("--gate")
        {
            DefaultValueFactory = _ => defaults.GatePixels,
            Description = "Pixels around the foreseen place.",
        };
        var rays = new Option<int>("--rays")
        {
            DefaultValueFactory = _ => defaults.MinimumRays,
            Description = "Cameras that must agree on a new point.",
        };
        var shortest = new Option<int>("--shortest")
        {
            DefaultValueFactory = _ => defaults.MinimumFrames,
            Description = "Frames of the shortest trajectory kept.",
        };
        var output = Options.Out();
        var json = Options.Json();
        var command = new Command("reconstruct", "2D centroids to 3D trajectories.")
        {
            input,
            cameras,
            tolerance,
            gate,
            rays,
            shortest,
            output,
            json,
        };
        command.SetAction(p =>
            Run(
                p.GetRequiredValue(input),
                p.GetRequiredValue(cameras),
                defaults with
                {
                    TolerancePixels = p.GetValue(tolerance),
                    GatePixels = p.GetValue(gate),
                    MinimumRays = p.GetValue(rays),
                    MinimumFrames = p.GetValue(shortest),
                },
                p.GetRequiredValue(output),
                p.GetValue(json)
            )
        );
        return command;
    }

    private static int Run(string input, string camerasPath, ReconstructOptions options, string output, string? json)
    {
        try
        {
            options.Checked();
        }
        catch (Exception e) when (e is ArgumentException or RefusedException)
        {
            throw new UsageException(e.Message);
        }

        var seen = CentroidCsv.Read(InputFile.Read(input), input);
        var ring = CameraRingJson.Read(InputFile.Read(camerasPath), camerasPath);
        var clock = Stopwatch.StartNew();
        var (take, report) = CalibrateVerb.Named(input, () =>
            TakeReconstructor.Reconstruct(seen, ring, options, default, new ConsoleProgress("reconstruct"))
        );
        var speed = take.FrameCount / clock.Elapsed.TotalSeconds;
        AtomicFile.Write(output, s => C3dWriter.Write(s, new C3dDocument(take)));
        Report.Write(
            json,
            new JsonObject
            {
                ["frames"] = take.FrameCount,
                ["frameRate"] = take.FrameRate,
                ["points"] = report.Points,
                ["trajectories"] = report.Trajectories,
                ["dropped"] = report.Dropped,
                ["meanRays"] = Math.Round(report.MeanRays, 3),
                ["framesPerSecond"] = Math.Round(speed, 1),
                ["cameras"] = new JsonArray([
                    .. report.Cameras.Select(c =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["name"] = c.Name,
                                ["residualPixels"] = Math.Round(c.ResidualPixels, 4),
                                ["used"] = Math.Round(c.Used, 4),
                                ["knocked"] = c.Knocked,
                            }
                    ),
                ]),
                ["warnings"] = Report.Array(report.Warnings),
            },
            $"{output}: {report.Trajectories} trajectories, {report.MeanRays:0.0} rays a point, {speed:0} frames/s"
        );
        return ExitCodes.Done;
    }
}
