using System.Text.Json.Nodes;
using Eidolon.Core.Faces;
using Eidolon.Core.Hands;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Operations;

/// <summary>Fingers and face that ride along with a solved body.</summary>
public static class HandOperations
{
    /// <summary>Cut-off of a face's smoothing when nothing is said, hertz: a blink keeps its depth.</summary>
    public const double FaceHertz = 12;

    /// <summary>Parameter: which of several recordings of gloves or of a face is used, from 1.</summary>
    public const string Recording = "recording";

    private const string Gloves = "gloves";

    private const string SolveFirst = "solve the body first: hands and face ride along with it";

    /// <summary>
    /// Puts fingers on the body. Parameters: from ("markers", or "gloves"), offset (seconds from the beginning of the body's recording to the gloves', 0), recording (which
    /// of several gloves' recordings, 1), open and fist ([first, last] frames of the gloves' recording; found when left out).
    /// </summary>
    public static Operation Fingers { get; } =
        new("hands", 1, NodeKind.Solve, "Solve", "Find the fingers", (input, p, c) =>
        {
            var (data, who) = (input.Moving(SolveFirst), c.Resources.Performer(c.Scope.Subject));
            var (motion, _, report) =
                p.Text("from") == Gloves
                    ? GloveSolver.Solve(
                        data.Motion,
                        who.Body.Stature,
                        c.Resources.Gloves(c.Scope.Subject, p.Whole(Recording, 1)),
                        p.Number("offset", 0) - (data.Motion.FirstFrame / data.Motion.FrameRate),
                        Range(p, "open"),
                        Range(p, "fist"),
                        c.Cancel
                    )
                    : HandMarkers.Solve(
                        who.Body,
                        data.Motion,
                        CarriedMarkers.Own(who.Prefix, input.MarkersBelow),
                        c.Resources.MarkerSet(),
                        c.Cancel
                    );
            return new OperationResult(data with { Motion = motion }, Summary(report), ReportOf(report));
        })
        {
            Once = true,
            Reads = (scope, p) =>
                p.Text("from") == Gloves
                    ? [new(ResourceKind.Performer, scope.Subject), new(ResourceKind.Gloves, scope.Subject, p.Whole(Recording, 1))]
                    : [new(ResourceKind.Performer, scope.Subject), new(ResourceKind.MarkerSet)],
            FitsRecipe = p => p["open"] is null && p["fist"] is null && p["offset"] is null,
        };

    /// <summary>
    /// Lays the face's weights on the body's frames. Parameters: offset (seconds from the beginning of the body's recording to the face's; found by the clap or the
    /// jaw when left out), recording (which of several, 1), smooth (hertz; 0 leaves the weights as they are).
    /// </summary>
    public static Operation Face { get; } =
        new("face", 1, NodeKind.Solve, "Solve", "Lay the face on", (input, p, c) =>
        {
            var data = input.Moving(SolveFirst);
            var face = c.Resources.Face(c.Scope.Subject, p.Whole(Recording, 1));
            var begins = data.Motion.FirstFrame / data.Motion.FrameRate;
            var found = FaceLag.Find(data.Motion, face, begins);
            var given = p["offset"] is not null;
            var offset = given ? p.Number("offset", 0) : found?.Seconds ?? 0;
            if (Math.Abs(offset - begins) > data.Motion.DurationSeconds + (face.FrameCount / face.FrameRate))
            {
                throw new RefusedException($"an offset of {offset:0.0} s puts the face outside the take");
            }

            var smooth = Math.Clamp(p.Number("smooth", FaceHertz), 0, 60);
            var (motion, hidden) = FaceTrack.On(data.Motion, face, offset - begins, smooth);
            var warnings = face.Warnings.ToList();
            if (!given && found is null)
            {
                warnings.Add(
                    "no clap and no jaw tells when the face began: it is laid from the first frame, and its moment cannot be trusted"
                );
            }

            return new OperationResult(
                data with
                {
                    Motion = motion,
                },
                $"{motion.Morphs.Count} weights, {offset * 1000:+0;-0;0} ms",
                new JsonObject
                {
                    ["weights"] = motion.Morphs.Count,
                    ["offsetSeconds"] = Math.Round(offset, 5),
                    ["foundBy"] = given ? "hand" : found?.By ?? "nothing",
                    ["foundSeconds"] = found is { } s ? Math.Round(s.Seconds, 5) : null,
                    ["smoothHertz"] = smooth,
                    ["faceFrameRate"] = face.FrameRate,
                    ["sure"] = Math.Round(Enumerable.Range(0, face.FrameCount).Average(f => face.Sure(f) >= FaceTrack.Unsure ? 1.0 : 0), 4),
                    ["hidden"] = new JsonArray([.. hidden.Select(h => (JsonNode)new JsonArray(h.Start, h.End))]),
                    ["warnings"] = new JsonArray([.. warnings.Select(w => (JsonNode)w)]),
                }
            );
        })
        {
            Once = true,
            Reads = (scope, p) => [new(ResourceKind.Face, scope.Subject, p.Whole(Recording, 1))],
            FitsRecipe = p => p["offset"] is null,
        };

    /// <summary>What finding the fingers says; ranges have both ends inside.</summary>
    public static JsonObject ReportOf(HandReport report) =>
        new()
        {
            ["fingers"] = new JsonArray([
                .. report.Fingers.Select(f =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["side"] = f.Side.ToString(),
                            ["finger"] = f.Finger,
                            ["seenFraction"] = Math.Round(f.Seen, 4),
                            ["millimetres"] = double.IsNaN(f.Millimetres) ? null : Math.Round(f.Millimetres, 2),
                            ["size"] = Math.Round(f.Size, 3),
                        }
                ),
            ]),
            ["off"] = new JsonArray([
                .. report.Off.Select(o =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["side"] = o.Side.ToString(),
                            ["finger"] = o.Finger,
                            ["start"] = o.Start,
                            ["end"] = o.End,
                            ["millimetres"] = Math.Round(o.Millimetres, 1),
                            ["with"] = o.With.Length > 0 ? o.With : null,
                        }
                ),
            ]),
            ["warnings"] = new JsonArray([.. report.Warnings.Select(w => (JsonNode)w)]),
        };

    private static string Summary(HandReport report)
    {
        var seen = report.Fingers.Where(f => f.Seen > 0).ToArray();
        var off = report.Off.Count > 0 ? $", {report.Off.Count} stretches off" : string.Empty;
        return $"{seen.Length} of {HandPoses.Fingers} fingers seen{off}";
    }

    private static (int Start, int End)? Range(JsonObject p, string name)
    {
        if (p[name] is null)
        {
            return null;
        }

        try
        {
            return p[name] is JsonArray { Count: 2 } a && (int)a[0]! is >= 0 and var from && (int)a[1]! is var to && to >= from
                ? (from, to)
                : throw new RefusedException($"'{name}' must be two frames, the first and the last");
        }
        catch (Exception e) when (e is InvalidOperationException or FormatException)
        {
            throw new RefusedException($"'{name}' must be two frames, the first and the last");
        }
    }
}
