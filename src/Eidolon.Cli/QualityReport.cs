using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Characters;
using Eidolon.Core.Markers;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;

namespace Eidolon.Cli;

/// <summary>The quality measures of a take or a motion as the keys of a report.</summary>
internal static class QualityReport
{
    /// <summary>Why there is no figure, where there is none.</summary>
    private static JsonNode? NoJitter(double value, double rate) =>
        !double.IsNaN(value) ? null
        : JitterMeasure.CanTell(rate) ? "not measurable: nothing is seen for long enough"
        : "not measurable at this rate";

    public static (JsonObject Report, List<Finding> Findings) Of(MarkerTake take)
    {
        var path = new Vector3[take.FrameCount];
        double sum = 0;
        var n = 0;
        for (var m = 0; m < take.MarkerCount; m++)
        {
            for (var f = 0; f < path.Length; f++)
            {
                path[f] = take[f, m];
            }

            var j = JitterMeasure.Measure(path, take.FrameRate);
            (sum, n) = double.IsNaN(j) ? (sum, n) : (sum + (j * j), n + 1);
        }

        var gaps = new JsonArray([
            .. take.Names.SelectMany(
                (name, m) =>
                    take.Gaps(m)
                        .Select(g =>
                            (JsonNode)
                                new JsonObject
                                {
                                    ["marker"] = name,
                                    ["start"] = g.Start,
                                    ["end"] = g.End,
                                }
                        )
            ),
        ]);
        var report = new JsonObject
        {
            ["footSlide"] = new JsonObject { ["meanMillimetresPerFrame"] = null, ["worst"] = null },
            ["floorPenetrationMillimetres"] = null,
            ["floatMillimetres"] = null,
            ["jitter"] = n == 0 ? null : Report.Number(Math.Sqrt(sum / n)),
            ["jitterNote"] = NoJitter(n == 0 ? double.NaN : 0, take.FrameRate),
            ["clipping"] = new JsonArray(),
            ["gaps"] = gaps,
            ["warnings"] = Report.Array(take.Warnings),
        };
        return (report, MarkerFindings.Find(take));
    }

    public static (JsonObject Report, List<Finding> Findings) Of(Motion motion)
    {
        var guess = RoleFinder.Find(motion.Skeleton);
        var warnings = motion.Warnings.ToList();
        if (!guess.Complete)
        {
            warnings.Add($"no joint was found for {string.Join(", ", guess.Missing)}: measures of feet and clipping may be missing");
        }

        var q = MotionQuality.Measure(motion.On(motion.Skeleton.WithRoles(guess.Roles)));
        var report = new JsonObject
        {
            ["footSlide"] = new JsonObject
            {
                ["meanMillimetresPerFrame"] = Report.Number(q.SlidePerFrame),
                ["worst"] = q.WorstSlide is { } w
                    ? new JsonObject
                    {
                        ["joint"] = w.Joint,
                        ["start"] = w.Start,
                        ["end"] = w.End,
                        ["slideMillimetres"] = Report.Number(w.Millimetres),
                    }
                    : null,
                ["contacts"] = q.Contacts.Count,
            },
            ["floorPenetrationMillimetres"] = Report.Number(q.Penetration),
            ["floatMillimetres"] = Report.Number(q.Float),
            ["jitter"] = Report.Number(q.Jitter),
            ["jitterNote"] = NoJitter(q.Jitter, motion.FrameRate),
            ["boneDriftMillimetres"] = Report.Number(q.BoneDrift),
            ["clipping"] = new JsonArray([
                .. q.Clipping.Select(c =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["frame"] = c.Frame,
                            ["parts"] = new JsonArray(c.PartA, c.PartB),
                            ["depthMillimetres"] = Report.Number(c.DepthMillimetres, 2),
                        }
                ),
            ]),
            ["gaps"] = new JsonArray(),
            ["warnings"] = Report.Array(warnings),
        };
        return (report, [.. q.Findings]);
    }
}
