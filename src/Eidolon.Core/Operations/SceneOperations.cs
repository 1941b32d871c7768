using System.Text.Json.Nodes;
using Eidolon.Core.Assembly;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Markers;
using Eidolon.Core.Polish;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Operations;

/// <summary>What is done in a scene.</summary>
public static class SceneOperations
{
    /// <summary>
    /// The clips of a track, one after the other, each overlapping the one before it; parameters: clips [{node, start, end, and how it is played as in
    /// an assembly plan: overlap, meet, speed, repeat, mirror, reverse, shape, parts, smooth, moved}] (node: the cast, or the prop of a take, that the
    /// clip is cut from; frames, end
    /// exclusive), overlap (frames, where a clip says nothing), inPlace (without the way over the floor). The node's inputs are those casts, in order.
    /// </summary>
    public static Operation Clips { get; } = new("clips", 6, NodeKind.Track, "Assemble", "Clips", (input, p, c) =>
        {
            var clips = ClipsOf(p);
            if (clips.Count == 0)
            {
                throw new RefusedException("the track has no clip yet");
            }

            if (clips.Count != input.Inputs.Count)
            {
                throw new RefusedException("a clip's take is gone");
            }

            return input.Inputs.All(i => i is PlacesValue)
                ? Laid([.. input.Inputs.Cast<PlacesValue>().Select((v, i) => Cut(v.Places, clips[i]))])
                : Joined(Planned(input.Inputs, p), p.Flag("inPlace", false), c);
        }) { SetUp = true, FitsRecipe = _ => false };

    /// <summary>
    /// The best cycle of what the clips make, closed; parameters: cycles (how often, from 1), inPlace, bend (degrees to the left in a cycle, 0 for
    /// straight; left out: as it goes).</summary>
    public static Operation Loop { get; } = new("loop", 3, NodeKind.Track, "Assemble", "Loop", (input, p, c) =>
        {
            var below = input.Moving("there is no motion to loop yet");
            var cycles = p.Whole("cycles", 1);
            if (cycles is < 1 or > MostCycles)
            {
                throw new RefusedException($"a loop is written 1 to {MostCycles} times, not {cycles}");
            }

            var (start, end, apart) = LoopFinder.Find(below.Motion);
            c.Cancel.ThrowIfCancellationRequested();
            var (motion, report) = LoopMaker.Make(
                below.Motion,
                start,
                end,
                apart,
                cycles,
                p.Flag("inPlace", false),
                c.Cancel,
                bend: p["bend"] is null ? null
                    : p.Number("bend", 0) is >= -MostBend and <= MostBend and var bend ? bend
                    : throw new RefusedException($"a cycle is bent by {MostBend}° at most")
            );
            return new OperationResult(
                below with
                {
                    Motion = motion,
                    Contacts = [],
                },
                $"frames {report.Start} to {report.End}, {cycles} time{(cycles == 1 ? string.Empty : "s")}",
                new JsonObject
                {
                    ["start"] = report.Start,
                    ["end"] = report.End,
                    ["cycleFrames"] = report.End - report.Start,
                    ["closingMillimetres"] = Math.Round(report.ClosingMillimetres, 3),
                    ["closingDegrees"] = Math.Round(report.ClosingDegrees, 3),
                    ["closingSpeed"] = Math.Round(report.ClosingSpeed, 1),
                    ["strideMetres"] = Math.Round(report.StrideMetres, 3),
                    ["bentDegrees"] = Math.Round(report.BentDegrees, 1),
                    ["joints"] = new JsonArray([
                        .. report.Poses.Roles.Select(
                            (role, k) =>
                                (JsonNode)
                                    new JsonObject
                                    {
                                        ["role"] = role.ToString(),
                                        ["first"] = Place(report.Poses.First[k]),
                                        ["last"] = Place(report.Poses.Last[k]),
                                        ["millimetres"] = Math.Round(report.Poses.Millimetres(k), 1),
                                        ["degrees"] = Math.Round(report.Poses.Degrees[k], 1),
                                    }
                        ),
                    ]),
                    ["warnings"] = new JsonArray([.. report.Warnings.Select(w => (JsonNode)w)]),
                }
            );
        }) { Once = true, FitsRecipe = _ => false };

    private const int MostCycles = 200,
        MostBend = 180;

    private static JsonArray Place(System.Numerics.Vector3 p) => new(Math.Round(p.X, 4), Math.Round(p.Y, 4), Math.Round(p.Z, 4));

    /// <summary>One additive layer of keys on a joint; parameters: joint, weight (0 to 1), keys [{frame, x, y, z (degrees), release}].</summary>
    public static Operation Layer { get; } =
        new("layer", 1, NodeKind.Layers, "Polish", "Layer", (input, p, _) =>
        {
            var below = input.Moving("there is no motion to lay it on yet");
            var keys = (p["keys"] as JsonArray ?? [])
                .Select(k => k as JsonObject ?? throw new RefusedException("each key must be an object"))
                .Select(k => new LayerKey(
                    k.Whole("frame", 0),
                    new((float)k.Number("x", 0), (float)k.Number("y", 0), (float)k.Number("z", 0)),
                    k.Flag("release", false)
                ))
                .ToList();
            var layer = new PoseLayer(p.Needed("joint"), (float)p.Number("weight", 1), keys);
            var result = layer.Apply(below.Motion);
            var joint = result.Skeleton[layer.JointIn(result.Skeleton)].Role?.ToString() ?? layer.Joint;
            return new OperationResult(
                below with
                {
                    Motion = result,
                },
                $"{joint}, {keys.Count} key{(keys.Count == 1 ? string.Empty : "s")}",
                new JsonObject { ["keys"] = keys.Count }
            );
        })
        {
            Quick = true,
            OrderGroup = "layers",
            FitsRecipe = _ => false,
        };

    /// <summary>One clip as the parameters name it.</summary>
    /// <param name="Node">The cast or places it is cut from.</param>
    /// <param name="End">Exclusive; null for the end of what it is cut from.</param>
    public sealed record Clip(int Node, int Start, int? End);

    /// <summary>The clips that parameters name, in order.</summary>
    /// <exception cref="RefusedException">They are no list of clips.</exception>
    public static IReadOnlyList<Clip> ClipsOf(JsonObject parameters) =>
        [
            .. (parameters["clips"] as JsonArray ?? [])
                .Select(c => c as JsonObject ?? throw new RefusedException("each clip must be an object"))
                .Select(c => new Clip(c.Whole("node", 0), c.Whole("start", 0), c["end"] is null ? null : c.Whole("end", 0))),
        ];

    /// <summary>Clips as the parameters have them played; the usual overlap is cut to what short clips have.</summary>
    /// <param name="inputs">What each clip is cut from, in order.</param>
    /// <exception cref="RefusedException">A clip cannot be played so, or is no motion; says which and why.</exception>
    public static PlannedClip[] Planned(IReadOnlyList<NodeValue> inputs, JsonObject p)
    {
        var cuts = ClipsOf(p);
        return [.. inputs.Select((_, i) => Planned(inputs, cuts, p, i))];
    }

    /// <summary>One of them: the others are not cut.</summary>
    /// <param name="cuts">Of the parameters.</param>
    /// <exception cref="RefusedException">It cannot be played so, or is no motion; says which and why.</exception>
    public static PlannedClip Planned(IReadOnlyList<NodeValue> inputs, IReadOnlyList<Clip> cuts, JsonObject p, int place)
    {
        int Length(int i) =>
            inputs[i] is MotionValue m && RangeOf(cuts[i], m.FrameCount) is var (start, end)
                ? end - start
                : throw new RefusedException("characters and props cannot share a track");
        var usual = Math.Max(0, p.Whole("overlap", AssemblyPlanJson.UsualOverlap));
        usual = place == 0 ? 0 : Math.Min(usual, Math.Min(Length(place - 1), Length(place)));
        try
        {
            return new PlannedClip(
                Cut(inputs[place], cuts[place]),
                AssemblyPlanJson.PlayOf((JsonObject)p["clips"]![place]!, $"clips[{place}]", "clips", usual)
            );
        }
        catch (InvalidInputException e)
        {
            throw new RefusedException($"{e.Place}: {e.Reason}");
        }
    }

    private static ClipMotion Cut(NodeValue value, Clip clip)
    {
        var moving = value as MotionValue ?? throw new RefusedException("characters and props cannot share a track");
        var (start, end) = RangeOf(clip, moving.FrameCount);
        return new ClipMotion(moving.Motion, moving.Contacts).Range(start, end);
    }

    private static PropPlaces Cut(PropPlaces places, Clip clip)
    {
        var (start, end) = RangeOf(clip, places.FrameCount);
        return places.Range(start, end);
    }

    private static (int Start, int End) RangeOf(Clip clip, int frames)
    {
        var start = Math.Clamp(clip.Start, 0, Math.Max(0, frames - 2));
        return (start, Math.Clamp(clip.End ?? frames, start + 1, frames));
    }

    private static OperationResult Joined(PlannedClip[] clips, bool inPlace, OperationContext context)
    {
        var result = ClipJoiner.Join(clips, context.Progress, context.Cancel);
        if (inPlace)
        {
            result = result with { Motion = MotionEdits.InPlace(result.Motion) };
        }

        var report = new JsonObject { ["frames"] = result.Motion.FrameCount };
        if (clips.Length > 1)
        {
            report["cuts"] = new JsonArray([.. result.Cuts.Select(c => (JsonNode)new JsonArray(c.Start, c.End))]);
            report["overlaps"] = new JsonArray([
                .. result.Overlaps.Select(o =>
                    (JsonNode)
                        new JsonObject
                        {
                            ["clip"] = o.Clip,
                            ["start"] = o.Start,
                            ["end"] = o.End,
                            ["slideMillimetres"] = double.IsFinite(o.SlideMillimetres) ? Math.Round(o.SlideMillimetres, 3) : null,
                            ["accelerationPeakRatio"] = Math.Round(o.AccelerationPeakRatio, 3),
                            ["movedMetres"] = Math.Round(o.MovedMetres, 3),
                            ["turnedDegrees"] = Math.Round(o.TurnedDegrees, 1),
                            ["before"] = double.IsFinite(o.AccelerationPeakRatioBefore)
                                ? Math.Round(o.AccelerationPeakRatioBefore, 3)
                                : null,
                            ["smoothed"] = o.Smoothed is { } s ? new JsonArray(s.Start, s.End) : null,
                            ["warnings"] = new JsonArray([.. o.Warnings().Select(w => (JsonNode)w)]),
                        }
                ),
            ]);
        }

        var frames = $"{result.Motion.FrameCount} frames";
        return new OperationResult(
            new MotionValue(result.Motion) { Contacts = result.Contacts },
            clips.Length == 1 ? frames : $"{clips.Length} clips, {frames}",
            report
        );
    }

    /// <summary>A prop is laid down where it was: its clips follow one another without an overlap.</summary>
    private static OperationResult Laid(PropPlaces[] clips)
    {
        if (clips.Any(c => Math.Abs(c.FrameRate - clips[0].FrameRate) > 1e-6))
        {
            throw new RefusedException("clips must be at the same frame rate");
        }

        var all = new PropPlaces(clips[0].FrameRate, [.. clips.SelectMany(c => c.Positions)], [.. clips.SelectMany(c => c.Turns)]);
        return new OperationResult(new PlacesValue(all), $"{all.FrameCount} frames", new JsonObject { ["frames"] = all.FrameCount });
    }
}
