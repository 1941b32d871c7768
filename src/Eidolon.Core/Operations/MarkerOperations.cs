using System.Text.Json.Nodes;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;
using Eidolon.Core.Optical;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Operations;

/// <summary>Operations from markers to markers.</summary>
public static class MarkerOperations
{
    /// <summary>Cleaning works on what is left by cleaning: its entries may change their order.</summary>
    internal const string Cleaning = "cleaning";

    /// <summary>The skeleton is asked by its own method, and by auto where nothing else comes near.</summary>
    private static IEnumerable<ResourceKey> FillReads(NodeScope scope, JsonObject p) =>
        Enum.TryParse<FillMethod>(p.Text("method") ?? "auto", ignoreCase: true, out var m)
        && (m is FillMethod.Skeleton or FillMethod.Auto || Ends(p))
            ? [new(ResourceKind.MarkerSet), new(ResourceKind.Performers)]
            : [new(ResourceKind.MarkerSet)];

    private static bool Ends(JsonObject p) => p.Text("ends") == "skeleton";

    private static FillMethod Method(JsonObject p) =>
        Enum.TryParse<FillMethod>(p.Text("method") ?? "auto", ignoreCase: true, out var m)
            ? m
            : throw new RefusedException(
                $"the fill method must be one of {string.Join(", ", Enum.GetNames<FillMethod>()).ToLowerInvariant()}"
            );

    private static Lazy<SkeletonCarrier>? Skeleton(OperationContext c, MarkerTake take, FillMethod method)
    {
        var measured = c.Resources.Performers();
        return measured.Count > 0 ? new(() => new SkeletonCarrier(measured, take, c.Cancel))
            : method == FillMethod.Auto ? null
            : throw new RefusedException("the skeleton of no performer of this take is known");
    }

    /// <summary>
    /// Makes the points anew from the raw 2D; parameters: tolerance and gate (px), rays, shortest (frames). Labels given before are gone with
    /// the old points.
    /// </summary>
    public static Operation Reconstruct { get; } = new("reconstruct", 1, NodeKind.Markers, "Label", "Reconstruct", (input, p, c) =>
        {
            var data = input.Markers;
            var (seen, ring) = c.Resources.Pictures();
            var usual = new ReconstructOptions();
            var (take, report) = TakeReconstructor.Reconstruct(
                seen,
                ring,
                usual with
                {
                    TolerancePixels = p.Number("tolerance", usual.TolerancePixels),
                    GatePixels = p.Number("gate", usual.GatePixels),
                    MinimumRays = p.Whole("rays", usual.MinimumRays),
                    MinimumFrames = p.Whole("shortest", usual.MinimumFrames),
                },
                c.Cancel,
                c.Progress
            );
            var json = new JsonObject
            {
                ["trajectories"] = report.Trajectories,
                ["dropped"] = report.Dropped,
                ["meanRays"] = Math.Round(report.MeanRays, 2),
                ["warnings"] = new JsonArray([.. report.Warnings.Select(w => (JsonNode)w)]),
                ["cameras"] = new JsonArray([
                    .. report.Cameras.Select(x =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["name"] = x.Name,
                                ["residualPixels"] = Math.Round(x.ResidualPixels, 3),
                                ["used"] = Math.Round(x.Used, 3),
                            }
                    ),
                ]),
            };
            return new OperationResult(data with { Take = take }, $"{report.Trajectories} dots, {report.MeanRays:0.0} rays each", json);
        }) { Reads = (_, _) => [new(ResourceKind.Pictures)] };

    /// <summary>
    /// Fills gaps; parameters: method (auto, spline, rigid, correlation, cycle, skeleton), longest (frames), worst (expected error, millimetres,
    /// no limit when it is not given), marker, frame, ends ("skeleton": ends of the take and markers never seen are carried by it). The skeleton is asked only where the performer is calibrated.
    /// </summary>
    public static Operation Fill { get; } = new("fill", 2, NodeKind.Markers, "Clean", "Fill gaps", (input, p, c) =>
        {
            var data = input.Markers;
            var method = Method(p);
            var ends = Ends(p);
            var take = data.Take;
            var options = new FillOptions(
                method,
                p.Whole("longest", 60),
                p["worst"] is null ? double.PositiveInfinity : p.Number("worst", 0) / 1000,
                p.Text("marker"),
                p["frame"] is null ? null : p.Whole("frame", 0),
                ends || method is FillMethod.Skeleton or FillMethod.Auto ? Skeleton(c, take, ends ? FillMethod.Skeleton : method) : null,
                ends
            );
            var (filled, list) = GapFiller.Fill(take, c.Resources.MarkerSet(), options, c.Cancel, c.Progress);
            var known = list.Where(f => !double.IsNaN(f.ExpectedError)).Select(f => f.ExpectedError * 1000).ToArray();
            var report = new JsonObject
            {
                ["filled"] = new JsonArray([
                    .. list.Select(f =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["marker"] = take.Names[f.Marker],
                                ["start"] = f.Gap.Start,
                                ["end"] = f.Gap.End,
                                ["method"] = f.Method.ToString().ToLowerInvariant(),
                                ["expectedMillimetres"] = double.IsNaN(f.ExpectedError) ? null : Math.Round(f.ExpectedError * 1000, 2),
                            }
                    ),
                ]),
            };
            var worst = known.Length == 0 ? string.Empty : $", {known.Max():0.0} mm";
            return new OperationResult(
                data with
                {
                    Take = filled,
                },
                $"{list.Count} gap{(list.Count == 1 ? string.Empty : "s")}{worst}",
                report
            );
        }) { OrderGroup = Cleaning, Reads = FillReads };

    /// <summary>Takes spikes out; parameters: marker, frame (all of the take when they are not given).</summary>
    public static Operation Despike { get; } = new("despike", 2, NodeKind.Markers, "Clean", "Spikes out", (input, p, _) =>
        {
            var data = input.Markers;
            var take = data.Take;
            var (only, at) = (p.Text("marker"), p["frame"] is null ? (int?)null : p.Whole("frame", 0));
            var (result, removed) = Spikes.Remove(take, s =>
                (only is null || take.Names[s.Marker] == only) && (at is not { } f || Math.Abs(s.Frame - f) < 3)
            );
            var report = new JsonObject
            {
                ["spikes"] = new JsonArray([
                    .. removed.Select(s =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["marker"] = take.Names[s.Marker],
                                ["frame"] = s.Frame,
                                ["millimetres"] = Math.Round(s.SizeMetres * 1000, 1),
                            }
                    ),
                ]),
            };
            return new OperationResult(
                data with
                {
                    Take = result,
                },
                $"{removed.Count} sample{(removed.Count == 1 ? string.Empty : "s")}",
                report
            );
        }) { OrderGroup = Cleaning };

    /// <summary>Hides the samples of a marker within a range: they are wrong and cannot be mended; parameters: marker, from, to.</summary>
    public static Operation Hide { get; } =
        new("hide", 1, NodeKind.Markers, "Clean", "Samples out", (input, p, _) =>
        {
            var data = input.Markers;
            var take = data.Take;
            var (name, from, to) = (
                p.Needed("marker"),
                Math.Max(0, p.Whole("from", 0)),
                Math.Min(take.FrameCount - 1, p.Whole("to", take.FrameCount - 1))
            );
            var m = take.IndexOf(name) is >= 0 and var i ? i : throw new RefusedException($"there is no trajectory '{name}' in the take");
            var result = take.Copy();
            var hidden = 0;
            for (var f = from; f <= to; f++)
            {
                hidden += MarkerTake.Seen(result[f, m]) ? 1 : 0;
                result[f, m] = MarkerTake.Hidden;
            }

            return new OperationResult(data with { Take = result }, $"{name}, {hidden} samples", []);
        })
        {
            Quick = true,
            OrderGroup = Cleaning,
            FitsRecipe = _ => false,
        };

    /// <summary>Low-pass that spares impacts; parameters: cutoff (Hz), marker, from and to (frames; the whole take when they are not given).</summary>
    public static Operation Smooth { get; } = new("smooth", 3, NodeKind.Markers, "Clean", "Smooth", (input, p, _) =>
        {
            var data = input.Markers;
            var cutoff = p.Number("cutoff", 12);
            var take = data.Take;
            if (!(cutoff > 0) || cutoff >= take.FrameRate / 2)
            {
                throw new RefusedException($"the cut-off must lie between 0 and {take.FrameRate / 2:0} Hz");
            }

            // A stretch that was chosen trembles: what stands out of it is no impact.
            var (result, kept, spared) = MarkerSmoother.Smooth(take, cutoff, spareImpacts: p["marker"] is null);
            if (p.Text("marker") is { } only)
            {
                var m = take.IndexOf(only) is >= 0 and var i
                    ? i
                    : throw new RefusedException($"there is no trajectory '{only}' in the take");
                result = MarkerSmoother.Within(take, result, m, p.Whole("from", 0), p.Whole("to", take.FrameCount - 1));
                return new OperationResult(data with { Take = result }, $"{only}, {cutoff:0.#} Hz", []);
            }

            var report = new JsonObject
            {
                ["energyKept"] = kept,
                ["spared"] = new JsonObject(
                    spared.Select((n, m) => (n, m)).Where(x => x.n > 0).Select(x => KeyValuePair.Create(take.Names[x.m], (JsonNode?)x.n))
                ),
            };
            return new OperationResult(data with { Take = result }, $"{cutoff:0.#} Hz, energy kept {kept * 100:0.0} %", report);
        }) { OrderGroup = Cleaning };
}
