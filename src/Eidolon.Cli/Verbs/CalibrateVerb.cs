using System.CommandLine;
using System.Text.Json.Nodes;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Optical;

namespace Eidolon.Cli.Verbs;

/// <summary>A waved wand's 2D centroids to a camera file.</summary>
internal static class CalibrateVerb
{
    public static Command Create()
    {
        var input = new Argument<string>("WAND") { Description = "2D centroids of the waved wand (csv)." };
        var cameras = new Option<string>("--cameras")
        {
            Required = true,
            Description = "The maker's figures of the cameras (json): name, width, height, focal.",
        };
        var ground = new Option<string?>("--ground")
        {
            Description = "2D centroids of the ground frame (csv): sets floor, origin and axes.",
        };
        var middle = new Option<double>("--wand-middle")
        {
            DefaultValueFactory = _ => 0.2,
            Description = "Metres from the wand's first end to its middle marker.",
        };
        var length = new Option<double>("--wand-length") { DefaultValueFactory = _ => 0.5, Description = "Metres from end to end." };
        var output = Options.Out();
        var json = Options.Json();
        var command = new Command("calibrate", "A waved wand to a camera file.") { input, cameras, ground, middle, length, output, json };
        command.SetAction(p =>
            Run(
                p.GetRequiredValue(input),
                p.GetRequiredValue(cameras),
                p.GetValue(ground),
                new Wand(p.GetValue(middle), p.GetValue(length)),
                p.GetRequiredValue(output),
                p.GetValue(json)
            )
        );
        return command;
    }

    private static int Run(string input, string camerasPath, string? groundPath, Wand wand, string output, string? json)
    {
        if (!(wand.Length is > 0.05 and < 5) || !(wand.ToMiddle > 0 && wand.ToMiddle < 0.49 * wand.Length))
        {
            throw new UsageException("--wand-length must be 0.05 to 5 m, and --wand-middle less than half of it");
        }

        var wave = CentroidCsv.Read(InputFile.Read(input), input);
        var nominal = CameraRingJson.Read(InputFile.Read(camerasPath), camerasPath);
        var still = groundPath is null ? null : CentroidCsv.Read(InputFile.Read(groundPath), groundPath);
        var (ring, report) = Named(input, () =>
            RingCalibration.Calibrate(wave, nominal.Cameras, wand, default, new ConsoleProgress("calibrate"))
        );
        var warnings = report.Warnings.ToList();
        double? groundError = null;
        if (still is not null)
        {
            (ring, var rms) = Named(groundPath!, () => GroundAlignment.Align(ring, still));
            groundError = rms;
        }
        else
        {
            ring = GroundAlignment.Roughly(ring);
            warnings.Add("no ground frame was given: up is guessed from the cameras, the floor is taken three metres below them");
        }

        AtomicFile.WriteText(output, CameraRingJson.Write(ring with { CalibratedUtc = DateTime.UtcNow }) + "\n");
        Report.Write(
            json,
            new JsonObject
            {
                ["reprojectionPixels"] = Math.Round(report.ResidualPixels, 5),
                ["wands"] = report.Wands,
                ["sightings"] = report.Sightings,
                ["leftOut"] = report.LeftOut,
                ["groundMillimetres"] = groundError is { } g ? Math.Round(g, 4) : null,
                ["cameras"] = new JsonArray([
                    .. report.Cameras.Select(
                        (c, i) =>
                            (JsonNode)
                                new JsonObject
                                {
                                    ["name"] = c.Name,
                                    ["reprojectionPixels"] = Math.Round(c.ResidualPixels, 5),
                                    ["sightings"] = c.Sightings,
                                    ["coverage"] = Math.Round(c.Coverage, 4),
                                    ["position"] = Report.Vector(ring.Cameras[i].Position.ToSingle()),
                                }
                    ),
                ]),
                ["warnings"] = Report.Array(warnings),
            },
            $"{output}: {ring.Count} cameras, {report.ResidualPixels:0.000} px noise"
        );
        return ExitCodes.Done;
    }

    /// <summary>Core does not know files: its complaint gets the file's name.</summary>
    internal static T Named<T>(string file, Func<T> work)
    {
        try
        {
            return work();
        }
        catch (Core.InvalidInputException e) when (!File.Exists(e.File))
        {
            throw new Core.InvalidInputException(file, e.Place, e.Reason, e);
        }
    }
}
