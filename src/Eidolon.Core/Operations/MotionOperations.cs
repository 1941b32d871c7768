using System.Text.Json.Nodes;
using Eidolon.Core.Assembly;
using Eidolon.Core.Markers;
using Eidolon.Core.Polish;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Operations;

/// <summary>Operations that give motions.</summary>
public static class MotionOperations
{
    /// <summary>Markers to the performer's skeleton.</summary>
    public static Operation Solve { get; } = new("solve", 1, "Solve", "Solve", (data, _, c) =>
        {
            // With several performers the first of the slate is solved, from the markers that carry the name.
            var performer = c.Resources.Performer();
            var (motion, report) = TakeSolver.Solve(
                performer,
                CarriedMarkers.Own(performer, MarkerOperations.Markers(data)),
                c.Cancel,
                c.Progress
            );
            var json = new JsonObject
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
                    c.Resources.Performer().BoneLengths.Select(b => KeyValuePair.Create(b.Key, (JsonNode?)Math.Round(b.Value, 6)))
                ),
                ["frameResiduals"] = new JsonArray([
                    .. report.FrameResiduals.Select(r => (JsonNode?)(float.IsNaN(r) ? null : Math.Round(r, 2))),
                ]),
                ["warnings"] = new JsonArray([.. report.Warnings.Select(w => (JsonNode)w)]),
            };
            return new OperationResult(
                data with
                {
                    Performer = motion,
                    Character = null,
                    CharacterName = null,
                },
                $"mean {report.Mean:0.0} mm",
                json
            );
        });

    /// <summary>Performer to character; parameters: character, travel (scaled, footprints), place (role → 0 to 100), floor (m).</summary>
    public static Operation Retarget { get; } = new("retarget", 1, "Retarget", "Retarget", (data, p, c) =>
        {
            var name = p.Needed("character");
            var source = data.Performer ?? throw new ArgumentException("the take is not solved yet");
            var (motion, report) = Retargeter.Retarget(
                source,
                c.Resources.Character(name),
                SetupFrom(p) with
                {
                    Contacts = data.Contacts,
                },
                c.Cancel,
                c.Progress
            );
            var worst = report.Contacts.Select(x => x.SlideMillimetres).DefaultIfEmpty(0).Max();
            return new OperationResult(
                data with
                {
                    Character = motion,
                    CharacterName = name,
                },
                $"{name}, feet slide {worst:0.0} mm",
                RetargetJson(report)
            );
        });

    /// <summary>This take's clip and another's with an overlap; parameters: clips [{take, start, end}], overlap (frames).</summary>
    public static Operation Assemble { get; } = new("assemble", 1, "Assemble", "Bake", (data, p, c) =>
        {
            var own = data.Final ?? throw new ArgumentException("the take has no motion yet");
            var overlap = p.Whole("overlap", 36);
            var clips = new List<Motion>();
            foreach (var item in p["clips"] as JsonArray ?? [])
            {
                var o = item as JsonObject ?? throw new ArgumentException("each clip must be an object");
                var take = o.Text("take");
                var motion = string.IsNullOrEmpty(take) ? own : c.Resources.Clip(take, data.CharacterName ?? string.Empty);
                var start = Math.Clamp(o.Whole("start", 0), 0, motion.FrameCount - 2);
                var end = Math.Clamp(o.Whole("end", motion.FrameCount), start + 2, motion.FrameCount);
                clips.Add(MotionEdits.Range(motion, start, end));
            }

            if (clips.Count < 2)
            {
                throw new ArgumentException("at least two clips are needed");
            }

            var result = ClipBlender.Join(clips, overlap);
            var report = new JsonObject
            {
                ["frames"] = result.Motion.FrameCount,
                ["overlaps"] = new JsonArray([
                    .. result.Overlaps.Select(o =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["start"] = o.Start,
                                ["end"] = o.End,
                                ["slideMillimetres"] = Math.Round(o.SlideMillimetres, 3),
                                ["movedMetres"] = Math.Round(o.MovedMetres, 3),
                                ["turnedDegrees"] = Math.Round(o.TurnedDegrees, 1),
                            }
                    ),
                ]),
            };
            var baked = data.Character is not null ? data with { Character = result.Motion } : data with { Performer = result.Motion };
            return new OperationResult(baked, $"{result.Motion.FrameCount} frames", report);
        });

    /// <summary>One additive layer of keys on a joint; parameters: joint, weight (0 to 1), keys [{frame, x, y, z (degrees), release}].</summary>
    public static Operation Layer { get; } = new("layer", 1, "Polish", "Layer", (data, p, _) =>
        {
            var motion = data.Final ?? throw new ArgumentException("the take has no motion yet");
            var keys = (p["keys"] as JsonArray ?? [])
                .Select(k => k as JsonObject ?? throw new ArgumentException("each key must be an object"))
                .Select(k => new LayerKey(
                    k.Whole("frame", 0),
                    new((float)k.Number("x", 0), (float)k.Number("y", 0), (float)k.Number("z", 0)),
                    k["release"]?.GetValue<bool>() ?? false
                ))
                .ToList();
            var layer = new PoseLayer(p.Needed("joint"), (float)p.Number("weight", 1), keys);
            var result = layer.Apply(motion);
            var joint = motion.Skeleton[layer.JointIn(motion.Skeleton)].Role?.ToString() ?? layer.Joint;
            var edited = data.Character is not null ? data with { Character = result } : data with { Performer = result };
            return new OperationResult(
                edited,
                $"{joint}, {keys.Count} key{(keys.Count == 1 ? string.Empty : "s")}",
                new JsonObject { ["keys"] = keys.Count }
            );
        });

    /// <summary>A retarget setup from parameters (also the command line's SETUP.json).</summary>
    public static RetargetSetup SetupFrom(JsonObject p)
    {
        var places = new Dictionary<BodyRole, float>(new RetargetSetup().Place);
        foreach (var (key, value) in p["place"] as JsonObject ?? [])
        {
            if (
                !Enum.TryParse<BodyRole>(key, ignoreCase: true, out var role)
                || value is not JsonValue v
                || !v.TryGetValue<double>(out var percent)
                || percent is < 0 or > 100
            )
            {
                throw new ArgumentException($"'place.{key}' must be a role with 0 to 100");
            }

            places[role] = (float)(percent / 100);
        }

        var travel = p.Text("travel") ?? "scaled";
        return travel is "scaled" or "footprints"
            ? new RetargetSetup
            {
                ScaleTravel = travel == "scaled",
                Place = places,
                FloorHeight = (float)p.Number("floor", 0),
            }
            : throw new ArgumentException("'travel' must be scaled or footprints");
    }

    /// <summary>A retarget report in the command line's keys.</summary>
    public static JsonObject RetargetJson(RetargetReport report) =>
        new()
        {
            ["scale"] = Math.Round(report.Scale, 6),
            ["contacts"] = new JsonArray([
                .. report.Contacts.Select(c =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["joint"] = c.Joint,
                            ["role"] = c.Role.ToString(),
                            ["start"] = c.Start,
                            ["end"] = c.End,
                            ["slideMillimetres"] = Math.Round(c.SlideMillimetres, 4),
                        }
                ),
            ]),
            ["holdErrorMillimetres"] = new JsonObject(
                report.HoldErrors.Select(h => KeyValuePair.Create(h.Key.ToString(), (JsonNode?)Math.Round(h.Value, 4)))
            ),
            ["driftMillimetres"] = new JsonObject(
                report.Drift.Select(d => KeyValuePair.Create(d.Key.ToString(), (JsonNode?)Math.Round(d.Value.DefaultIfEmpty(0).Max(), 2)))
            ),
            ["clipping"] = new JsonArray([
                .. report.Clipping.Select(c =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["frame"] = c.Frame,
                            ["parts"] = new JsonArray(c.PartA, c.PartB),
                            ["depthMillimetres"] = Math.Round(c.DepthMillimetres, 2),
                        }
                ),
            ]),
            ["warnings"] = new JsonArray([.. report.Warnings.Select(w => (JsonNode)w)]),
        };
}
