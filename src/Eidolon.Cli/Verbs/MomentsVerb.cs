using System.CommandLine;
using System.Text.Json.Nodes;
using Eidolon.Core.Assembly;
using Eidolon.Core.Skeletons;

namespace Eidolon.Cli.Verbs;

/// <summary>Good moments to overlap two motions.</summary>
internal static class MomentsVerb
{
    private const int MostMoments = 1000;

    public static Command Create()
    {
        var a = new Argument<string>("A");
        var b = new Argument<string>("B");
        var count = new Option<int>("--count") { DefaultValueFactory = _ => 5, Description = "How many at most." };
        var unitScale = Options.UnitScale();
        var json = Options.Json();
        var command = new Command("moments", "Good moments to overlap two motions.") { a, b, count, unitScale, json };
        command.SetAction(p =>
            p.GetValue(count) is >= 1 and <= MostMoments and var n
                ? Run(p.GetRequiredValue(a), p.GetRequiredValue(b), n, Options.Scale(p.GetValue(unitScale)), p.GetValue(json))
                : throw new UsageException($"--count must be 1 to {MostMoments}")
        );
        return command;
    }

    private static int Run(string a, string b, int count, double? scale, string? json)
    {
        var (one, other) = (Roled.Read(a, scale), Roled.Read(b, scale));
        var warnings = new List<string>();
        var rate = other.FrameRate;
        if (Math.Abs(one.FrameRate - rate) > 1e-6)
        {
            warnings.Add($"{b} is at {rate:0.###} frames a second, {a} at {one.FrameRate:0.###}: 'frames' counts those of {a}");
            other = MotionEdits.Resample(other, one.FrameRate);
        }

        IReadOnlyList<OverlapMoment> moments;
        try
        {
            moments = MomentFinder.Find(one, other, count);
        }
        catch (Core.RefusedException e)
        {
            throw new Core.InvalidInputException(b, "motion", e.Message, e);
        }

        var report = new JsonObject
        {
            ["moments"] = new JsonArray([
                .. moments.Select(m =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["a"] = m.A,
                            ["b"] = (int)Math.Round(m.B * rate / one.FrameRate),
                            ["frames"] = m.Frames,
                            ["distanceMillimetres"] = Report.Number(m.DistanceMillimetres, 2),
                            ["supportA"] = m.SupportA,
                            ["supportB"] = m.SupportB,
                        }
                ),
            ]),
            ["warnings"] = Report.Array(one.Warnings.Concat(other.Warnings).Concat(warnings).Distinct()),
        };
        Report.Write(
            json,
            report,
            moments.Select(m =>
                $"{m.A, 6} over {m.B, 6}, {m.Frames} frames: {m.DistanceMillimetres:0} mm apart, on {m.SupportA} and {m.SupportB}"
            )
        );
        return ExitCodes.Done;
    }
}
