using System.Diagnostics;
using System.Text.Json.Nodes;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Video;

namespace Eidolon.Core.Operations;

/// <summary>From what trackers saw in films to what the performer did.</summary>
public static class FilmOperation
{
    /// <summary>Name of <see cref="Points"/>: what it says of films is nothing to other recordings.</summary>
    internal const string PointsName = "film-points";

    /// <summary>
    /// Films to the performer's skeleton: cameras placed, films brought in step, all poses together. Parameters: late (seconds, where the performance
    /// was recorded in other ways too: the first film's first picture is so long after the take's first frame; 0 when left out).
    /// </summary>
    public static Operation Solve { get; } =
        new("solve-video", 3, NodeKind.Solve, "Solve", "Solve the films", (input, p, c) =>
        {
            var own = FilmsOf(input);
            var recorded = input.Own as RecordedValue;
            var take = recorded is null ? null : TakeClock.Of(recorded, own.Films[0].FrameRate, p);
            var contacts = recorded?.Contacts ?? own.Contacts;
            var who = c.Resources.Performer(c.Scope.Subject).Body;
            var clock = Stopwatch.StartNew();
            var (motion, report) = FilmSolver.Solve(
                own.Films,
                own.Cameras,
                who.Skeleton,
                own.Fixes,
                take?.Own(contacts) ?? contacts,
                progress: c.Progress,
                cancel: c.Cancel
            );
            var said = ReportOf(motion, report, [.. own.Cameras.Select(k => k.Name)]);
            motion = Fingers(motion, who.Stature, own.Films, report, said, c.Cancel);
            said["solveFramesPerSecond"] = Math.Round(motion.FrameCount / clock.Elapsed.TotalSeconds, 1);
            said["fixes"] = own.Fixes.Count;
            said["boneLengths"] = new JsonObject(
                who.BoneLengths.Select(b => KeyValuePair.Create(b.Key, (JsonNode?)Math.Round(b.Value, 6)))
            );
            if (take is not null)
            {
                motion = take.Take(motion);
                OnTheTake(said, take, own.FrameCount);
            }

            return new OperationResult(
                new MotionValue(motion) { Contacts = contacts },
                string.Join(", ", report.ReprojectionPixels.Select(p => $"{p:0.0}")) + " px",
                said
            );
        })
        {
            SetUp = true,
            OneOf = SolveOperations.Solver,
            Reads = (scope, _) => [new(ResourceKind.Performer, scope.Subject)],
        };

    private static FilmValue FilmsOf(OperationInput input) =>
        input.Own as FilmValue
        ?? (input.Own as RecordedValue)?.Films
        ?? throw new RefusedException("the take has no films with tracked points");

    /// <summary>What a solve of films says, on the clock of a take that has one of its own; pictures keep their own numbers.</summary>
    private static void OnTheTake(JsonObject said, TakeClock take, int own)
    {
        take.Take((JsonArray)said["contacts"]!);
        take.Take(said["hands"]?["off"] as JsonArray ?? []);
        said["offsetsSeconds"] = new JsonArray([
            .. ((JsonArray)said["offsetsSeconds"]!).Select(o => (JsonNode)Math.Round((double)o! + take.Late, 5)),
        ]);
        (said["frames"], said["frameRate"], said["lateSeconds"]) = (take.Frames, take.FrameRate, Math.Round(take.Late, 4));
        take.Warn((JsonArray)said["warnings"]!, own, "the first film");
    }

    /// <summary>Puts fingers on the body where the films have hand points; their report lies under "hands".</summary>
    public static Motion Fingers(
        Motion body,
        float stature,
        IReadOnlyList<FilmTake> films,
        FilmReport report,
        JsonObject said,
        CancellationToken cancel = default
    )
    {
        if (!FilmHands.AreIn(films))
        {
            return body;
        }

        var (motion, _, hands) = FilmHands.Solve(body, stature, films, report.Cameras, report.OffsetsSeconds, cancel);
        var own = HandOperations.ReportOf(hands);
        own.Remove("warnings");
        said["hands"] = own;
        foreach (var w in hands.Warnings)
        {
            ((JsonArray)said["warnings"]!).Add((JsonNode)w);
        }

        return motion;
    }

    /// <summary>
    /// Points put right by hand in a picture. Parameters: points [{film, frame, point, u, v}], pixels of that film; with "back": true instead of
    /// u and v the tracker's point counts again there.
    /// </summary>
    public static Operation Points { get; } =
        new(PointsName, 1, NodeKind.Solve, "Solve", "Points by hand", (input, p, _) =>
        {
            var own = FilmsOf(input);
            var asked = (p["points"] as JsonArray ?? []).Select(FixOf).ToArray();
            if (asked.Length == 0)
            {
                throw new RefusedException("no point was named");
            }

            bool Asked(FilmFix x) => asked.Any(a => (a.Film, a.Frame, a.Point) == (x.Film, x.Frame, x.Point));
            FilmFix[] fixes = [.. own.Fixes.Where(x => !Asked(x)), .. asked.Where(a => float.IsFinite(a.U))];
            FilmFixes.Apply(own.Films, fixes);
            var mended = own with { Fixes = fixes };
            return new OperationResult(
                input.Own is RecordedValue recorded ? recorded with { Films = mended } : mended,
                string.Join(", ", asked.Select(a => $"{a.Point} {a.Frame}").Take(3)) + (asked.Length > 3 ? " …" : string.Empty),
                []
            );
        })
        {
            Quick = true,
            Gathers = true,
            AheadOf = [Solve.Name],
            FitsRecipe = _ => false,
        };

    /// <summary>What a solve of films says, with frames counted from 0 and ranges whose both ends are inside.</summary>
    /// <param name="names">Of the films, in order.</param>
    public static JsonObject ReportOf(Motion motion, FilmReport report, IReadOnlyList<string> names) =>
        new()
        {
            ["frames"] = motion.FrameCount,
            ["frameRate"] = motion.FrameRate,
            ["offsetsSeconds"] = new JsonArray([.. report.OffsetsSeconds.Select(o => (JsonNode)Math.Round(o, 5))]),
            ["reprojectionPixels"] = new JsonArray([
                .. report.ReprojectionPixels.Select(p => double.IsFinite(p) ? (JsonNode)Math.Round(p, 2) : null),
            ]),
            ["worst"] = new JsonArray([
                .. report.Worst.Select(w =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["file"] = names[w.File],
                            ["film"] = w.File,
                            ["frame"] = w.Frame,
                            ["point"] = w.Point,
                            ["pixels"] = Math.Round(w.Pixels, 1),
                        }
                ),
            ]),
            ["exchangedLegs"] = new JsonArray([
                .. report.ExchangedLegs.Select(x =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["file"] = names[x.File],
                            ["film"] = x.File,
                            ["start"] = x.Start,
                            ["end"] = x.End,
                        }
                ),
            ]),
            ["cameras"] = new JsonArray([
                .. report.Cameras.Select(c =>
                {
                    var json = CameraRingJson.Write(c);
                    json["position"] = new JsonArray(Round(c.Position.X), Round(c.Position.Y), Round(c.Position.Z));
                    json["forward"] = new JsonArray(Round(c.Forward.X), Round(c.Forward.Y), Round(c.Forward.Z));
                    return (JsonNode)json;
                }),
            ]),
            ["contacts"] = ContactJson.Of(report.Contacts, motion.Skeleton),
            ["warnings"] = new JsonArray([.. report.Warnings.Select(w => (JsonNode)w)]),
        };

    private static double Round(double v) => Math.Round(v, 7);

    private static FilmFix FixOf(JsonNode? node)
    {
        var p = node as JsonObject ?? throw new RefusedException("each point must be an object");
        var back = p["back"]?.GetValue<bool>() ?? false;
        var (u, v) = (p.Number("u", double.NaN), p.Number("v", double.NaN));
        return back ? new FilmFix(p.Whole("film", 0), p.Whole("frame", 0), p.Needed("point"), float.NaN, float.NaN)
            : double.IsFinite(u) && double.IsFinite(v)
                ? new FilmFix(p.Whole("film", 0), p.Whole("frame", 0), p.Needed("point"), (float)u, (float)v)
            : throw new RefusedException("a point put by hand needs u and v, pixels");
    }
}
