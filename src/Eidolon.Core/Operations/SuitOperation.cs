using System.Diagnostics;
using System.Text.Json.Nodes;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Inertial;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Operations;

/// <summary>From a suit's recording to what its wearer did.</summary>
public static class SuitOperation
{
    /// <summary>
    /// Sensors to the wearer's skeleton, and the way through the room. Parameters: late (seconds, where the performance was recorded in other ways
    /// too: the suit's first frame is so long after the take's; 0 when left out).
    /// </summary>
    public static Operation Solve { get; } =
        new("solve-suit", 2, NodeKind.Solve, "Solve", "Solve the suit", (input, p, c) =>
        {
            var recorded = input.Own as RecordedValue;
            var own = input.Own as SuitValue ?? recorded?.Suit ?? throw new RefusedException("the take has no recording of a suit");
            var take = recorded is null ? null : TakeClock.Of(recorded, own.Take.FrameRate, p);
            var contacts = recorded?.Contacts ?? own.Contacts;
            var who = c.Resources.Performer(c.Scope.Subject);
            var clock = Stopwatch.StartNew();
            var (motion, report) = SuitSolver.Solve(
                own.Take,
                who.Body.Skeleton,
                edits: take?.Own(contacts) ?? contacts,
                progress: c.Progress,
                cancel: c.Cancel
            );
            var said = ReportOf(motion, report);
            said["solveFramesPerSecond"] = Math.Round(motion.FrameCount / clock.Elapsed.TotalSeconds, 1);
            said["boneLengths"] = new JsonObject(
                who.Body.BoneLengths.Select(b => KeyValuePair.Create(b.Key, (JsonNode?)Math.Round(b.Value, 6)))
            );
            if (take is not null)
            {
                motion = take.Take(motion);
                OnTheTake(said, take, own.Take.FrameCount);
            }

            return new OperationResult(
                new MotionValue(motion) { Contacts = contacts },
                $"{report.TravelMetres:0.0} m, {report.Disturbed.Count} disturbed",
                said
            );
        })
        {
            SetUp = true,
            OneOf = SolveOperations.Solver,
            Ignores = [FilmOperation.PointsName],
            Reads = (scope, _) => [new(ResourceKind.Performer, scope.Subject)],
        };

    /// <summary>What a suit's solve says, with the frames of a take that has a clock of its own; the poses stay in the suit's.</summary>
    private static void OnTheTake(JsonObject said, TakeClock take, int own)
    {
        take.Take((JsonArray)said["contacts"]!);
        take.Take((JsonArray)said["disturbed"]!);
        (said["frames"], said["frameRate"], said["lateSeconds"]) = (take.Frames, take.FrameRate, Math.Round(take.Late, 4));
        take.Warn((JsonArray)said["warnings"]!, own, "the suit");
    }

    /// <summary>Lays the end of the way on its start: for someone who came back to where they set out.</summary>
    public static Operation ClosePath { get; } = new("close-path", 1, NodeKind.Solve, "Solve", "Lay the end on the start", (input, _, _) =>
        {
            var data = input.Moving("solve the take first: there is no way yet");
            var gap = PathClosing.Gap(data.Motion);
            return new OperationResult(
                data with
                {
                    Motion = PathClosing.Close(data.Motion, data.Contacts),
                },
                $"{gap * 100:0.0} cm shared out over the way",
                new JsonObject { ["gapMetres"] = Math.Round(gap, 4) }
            );
        }) { FitsRecipe = _ => false };

    /// <summary>Makes a stretch of the way straight. Parameters: from, to (frames, both inside; all when left out).</summary>
    public static Operation StraightenPath { get; } =
        new("straighten-path", 1, NodeKind.Solve, "Solve", "Straighten the path", (input, p, _) =>
        {
            var data = input.Moving("solve the take first: there is no way yet");
            var (from, to) = (p.Whole("from", 0), p.Whole("to", data.FrameCount - 1));
            if (from < 0 || to >= data.FrameCount || to <= from)
            {
                throw new RefusedException($"frames {from} to {to} are no stretch of this take");
            }

            var bend = PathStraightening.Bend(data.Motion, from, to);
            return new OperationResult(
                data with
                {
                    Motion = PathStraightening.Straighten(data.Motion, from, to, data.Contacts),
                },
                $"{bend:0}° taken out of {from} to {to}",
                new JsonObject { ["bendDegrees"] = Math.Round(bend, 2) }
            );
        }) { FitsRecipe = _ => false };

    /// <summary>What a suit's solve says, with frames counted from 0 and ranges whose both ends are inside.</summary>
    public static JsonObject ReportOf(Motion motion, SuitReport report) =>
        new()
        {
            ["frames"] = motion.FrameCount,
            ["frameRate"] = motion.FrameRate,
            ["travelMetres"] = Math.Round(report.TravelMetres, 3),
            ["poses"] = new JsonObject
            {
                ["still"] = Range(report.Poses.Still),
                ["tPose"] = Range(report.Poses.TPose),
                ["aPose"] = Range(report.Poses.APose),
            },
            ["contacts"] = ContactJson.Of(report.Contacts, motion.Skeleton),
            ["disturbed"] = new JsonArray([
                .. report.Disturbed.Select(d =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["bone"] = d.Bone.ToString(),
                            ["start"] = d.Start,
                            ["end"] = d.End,
                            ["microtesla"] = Math.Round(d.Microtesla, 1),
                        }
                ),
            ]),
            ["gyroscopeBias"] = new JsonObject(
                report.Bias.Select(b =>
                    KeyValuePair.Create(
                        b.Key.ToString(),
                        (JsonNode?)new JsonArray(Math.Round(b.Value.X, 6), Math.Round(b.Value.Y, 6), Math.Round(b.Value.Z, 6))
                    )
                )
            ),
            ["warnings"] = new JsonArray([.. report.Warnings.Select(w => (JsonNode)w)]),
        };

    private static JsonArray Range(FrameRange r) => [r.Start, r.End];
}
