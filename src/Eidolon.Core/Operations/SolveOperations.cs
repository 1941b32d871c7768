using System.Text.Json.Nodes;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Operations;

/// <summary>From the markers of a take to what its performers and props did.</summary>
public static class SolveOperations
{
    /// <summary>Operations that make a performer's motion of a recording: of markers, a suit, films. A node has one of them.</summary>
    public const string Solver = "solver";

    /// <summary>
    /// Markers to the performer's skeleton; parameters: slips ("follow": a marker that slipped hangs where it went from then on; else it is only said).
    /// What was decided about contacts stays.
    /// </summary>
    public static Operation Solve { get; } =
        new("solve", 1, NodeKind.Solve, "Solve", "Solve", (input, p, c) =>
        {
            var (who, markers) = (c.Resources.Performer(c.Scope.Subject), input.MarkersBelow);
            var own = CarriedMarkers.Own(who.Prefix, markers);
            var (motion, report) = TakeSolver.Solve(who.Body, own, c.Cancel, c.Progress);
            var slips = SlipFinder.Find(new BoneOffsets(who.Body, motion, own), own.FrameRate);
            var follow = slips.Count > 0 && p.Text("slips") == "follow";
            if (follow)
            {
                (motion, report, slips) = SlipFollower.Solve(who.Body, own, slips, c.Cancel, c.Progress);
            }

            var contacts = (input.Own as MotionValue)?.Contacts ?? (input.Own as RecordedValue)?.Contacts ?? [];
            return new OperationResult(
                new MotionValue(motion.From(markers.FirstFrame)) { Contacts = contacts },
                $"mean {report.Mean:0.0} mm",
                ReportOf(who.Body, motion, report, slips, follow)
            );
        })
        {
            SetUp = true,
            OneOf = Solver,
            RootAside = true,
            Ignores = [FilmOperation.PointsName],
            Reads = (scope, _) => [new(ResourceKind.Performer, scope.Subject)],
        };

    /// <summary>Finds a prop by its shape among the markers that nobody else carries.</summary>
    public static Operation FindProp { get; } = new("find-prop", 1, NodeKind.Places, "Solve", "Find the prop", (input, _, c) =>
        {
            var markers = input.MarkersBelow;
            var named = markers.Names.Where(n => !MarkerNames.IsUnnamed(n)).ToHashSet(StringComparer.Ordinal);
            var prop = c.Resources.Prop(c.Scope.Subject);
            var (places, rms) = PropFinder.Find(markers, prop, named, c.Cancel, c.Progress);
            if (places.SeenFrames == 0)
            {
                throw new RefusedException($"{prop.Name} is not seen in the take: its {prop.Markers.Count} markers stand together nowhere");
            }

            var share = (double)places.SeenFrames / places.FrameCount;
            var report = new JsonObject { ["seenFraction"] = Math.Round(share, 5), ["fitMillimetres"] = Math.Round(rms, 3) };
            return new OperationResult(new PlacesValue(places), $"seen {share * 100:0.0} %, fit {rms:0.0} mm", report);
        }) { SetUp = true, Reads = (scope, _) => [new(ResourceKind.Prop, scope.Subject)] };

    private static JsonObject ReportOf(Performer performer, Motion motion, SolveReport report, IReadOnlyList<Slip> slips, bool followed) =>
        new()
        {
            ["frames"] = motion.FrameCount,
            ["residualMillimetres"] = new JsonObject
            {
                ["mean"] = Math.Round(report.Mean, 4),
                ["p95"] = Math.Round(report.P95, 4),
                ["max"] = Math.Round(report.Max, 4),
            },
            ["markers"] = new JsonObject(
                report.MarkerMeans.Select(m =>
                    KeyValuePair.Create(m.Key, (JsonNode?)(double.IsNaN(m.Value) ? null : Math.Round(m.Value, 4)))
                )
            ),
            ["solveFramesPerSecond"] = Math.Round(report.FramesPerSecond, 1),
            ["boneLengths"] = new JsonObject(
                performer.BoneLengths.Select(b => KeyValuePair.Create(b.Key, (JsonNode?)Math.Round(b.Value, 6)))
            ),
            ["slips"] = new JsonArray([
                .. slips.Select(s =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["marker"] = s.Marker,
                            ["frame"] = s.Frame,
                            ["millimetres"] = Math.Round(s.By.Length() * 1000, 1),
                            ["followed"] = followed,
                        }
                ),
            ]),
            ["warnings"] = new JsonArray([
                .. report
                    .Warnings.Concat(
                        slips.Select(s =>
                            $"{s.Marker} sits {s.By.Length() * 1000:0} mm elsewhere on its bone from frame {s.Frame} on"
                            + (followed ? ", and is followed there" : string.Empty)
                        )
                    )
                    .Select(w => (JsonNode)w),
            ]),
        };
}
