using System.Text.Json.Nodes;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;
using Eidolon.Core.Optical;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Operations;

/// <summary>Operations from markers to markers.</summary>
public static class MarkerOperations
{
    /// <summary>Makes the points anew from the raw 2D; parameters: tolerance and gate (px), rays, shortest (frames). Labels given before are gone with the old points.</summary>
    public static Operation Reconstruct { get; } = new("reconstruct", 1, "Label", "Reconstruct", (_, p, c) =>
    {
        var (seen, ring) = c.Resources.Pictures();
        var usual = new ReconstructOptions();
        var (take, report) = TakeReconstructor.Reconstruct(seen, ring, usual with { TolerancePixels = p.Number("tolerance", usual.TolerancePixels), GatePixels = p.Number("gate", usual.GatePixels), MinimumRays = p.Whole("rays", usual.MinimumRays), MinimumFrames = p.Whole("shortest", usual.MinimumFrames) }, c.Cancel, c.Progress);
        var json = new JsonObject
        {
            ["trajectories"] = report.Trajectories, ["dropped"] = report.Dropped, ["meanRays"] = Math.Round(report.MeanRays, 2), ["warnings"] = new JsonArray([.. report.Warnings.Select(w => (JsonNode)w)]),
            ["cameras"] = new JsonArray([.. report.Cameras.Select(x => (JsonNode)new JsonObject { ["name"] = x.Name, ["residualPixels"] = Math.Round(x.ResidualPixels, 3), ["used"] = Math.Round(x.Used, 3) })]),
        };
        return new OperationResult(new TakeData(take), $"{report.Trajectories} dots, {report.MeanRays:0.0} rays each", json);
    });

    /// <summary>
    /// Fills gaps; parameters: method (auto, spline, rigid, correlation, cycle, skeleton), longest (frames), worst (expected error, millimetres,
    /// no limit when it is not given), marker, frame. The skeleton is asked only where the performer is calibrated.
    /// </summary>
    public static Operation Fill { get; } = new("fill", 2, "Clean", "Fill gaps", (data, p, c) =>
    {
        var method = Enum.TryParse<FillMethod>(p.Text("method") ?? "auto", ignoreCase: true, out var m) ? m : throw new ArgumentException($"the fill method must be one of {string.Join(", ", Enum.GetNames<FillMethod>()).ToLowerInvariant()}");
        var take = Markers(data);
        var options = new FillOptions(method, p.Whole("longest", 60), p["worst"] is null ? double.PositiveInfinity : p.Number("worst", 0) / 1000, p.Text("marker"), p["frame"] is null ? null : p.Whole("frame", 0), method == FillMethod.Skeleton ? CarriedMarkers.Of(c.Resources.Performer(), take, c.Cancel) : null);
        var (filled, list) = GapFiller.Fill(take, c.Resources.MarkerSet(), options, c.Cancel, c.Progress);
        var known = list.Where(f => !double.IsNaN(f.ExpectedError)).Select(f => f.ExpectedError * 1000).ToArray();
        var report = new JsonObject
        {
            ["filled"] = new JsonArray([.. list.Select(f => (JsonNode)new JsonObject
            {
                ["marker"] = take.Names[f.Marker], ["start"] = f.Gap.Start, ["end"] = f.Gap.End, ["method"] = f.Method.ToString().ToLowerInvariant(),
                ["expectedMillimetres"] = double.IsNaN(f.ExpectedError) ? null : Math.Round(f.ExpectedError * 1000, 2),
            })]),
        };
        var worst = known.Length == 0 ? string.Empty : $", {known.Max():0.0} mm";
        return new OperationResult(new TakeData(filled), $"{list.Count} gap{(list.Count == 1 ? string.Empty : "s")}{worst}", report);
    });

    /// <summary>Takes spikes out.</summary>
    public static Operation Despike { get; } = new("despike", 1, "Clean", "Spikes out", (data, _, _) =>
    {
        var take = Markers(data);
        var (result, removed) = Spikes.Remove(take);
        var report = new JsonObject { ["spikes"] = new JsonArray([.. removed.Select(s => (JsonNode)new JsonObject { ["marker"] = take.Names[s.Marker], ["frame"] = s.Frame, ["millimetres"] = Math.Round(s.SizeMetres * 1000, 1) })]) };
        return new OperationResult(new TakeData(result), $"{removed.Count} sample{(removed.Count == 1 ? string.Empty : "s")}", report);
    });

    /// <summary>Low-pass that spares impacts; parameter: cutoff (Hz).</summary>
    public static Operation Smooth { get; } = new("smooth", 2, "Clean", "Smooth", (data, p, _) =>
    {
        var cutoff = p.Number("cutoff", 12);
        var take = Markers(data);
        if (!(cutoff > 0) || cutoff >= take.FrameRate / 2)
        {
            throw new ArgumentException($"the cut-off must lie between 0 and {take.FrameRate / 2:0} Hz");
        }

        var (result, kept, spared) = MarkerSmoother.Smooth(take, cutoff);
        var report = new JsonObject { ["energyKept"] = kept, ["spared"] = new JsonObject(spared.Select((n, m) => (n, m)).Where(x => x.n > 0).Select(x => KeyValuePair.Create(take.Names[x.m], (JsonNode?)x.n))) };
        return new OperationResult(new TakeData(result), $"{cutoff:0.#} Hz, energy kept {kept * 100:0.0} %", report);
    });

    internal static MarkerTake Markers(TakeData data) => data.Markers ?? throw new ArgumentException("the take has no markers");
}
