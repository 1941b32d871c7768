using System.Text.Json.Nodes;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Optical;

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

    /// <summary>Automatic labels from the performers' known shapes.</summary>
    public static Operation Label { get; } = new("label", 1, "Label", "Label", (data, _, c) =>
    {
        var result = TakeLabeller.Label(Markers(data), c.Resources.MarkerSet(), c.Resources.Subjects(c.Cancel), c.Cancel, c.Progress);
        var report = new JsonObject
        {
            ["labelledFraction"] = Math.Round(result.LabelledFraction, 5),
            ["frames"] = new JsonArray([.. result.Doubts.Select(d => (JsonNode)new JsonObject { ["frame"] = d.Frame, ["marker"] = d.Marker, ["reason"] = d.Reason })]),
            ["unnamed"] = result.Pieces.Count(p => p.Name is null),
        };
        return new OperationResult(new TakeData(result.Take), $"{result.LabelledFraction * 100:0.0} % named", report);
    });

    /// <summary>Names one trajectory by hand; parameters: dot (column), name (empty takes the label off).</summary>
    public static Operation SetLabel { get; } = new("set-label", 1, "Label", "Pinned label", (data, p, _) =>
    {
        var take = Markers(data);
        var dot = p.Needed("dot");
        var name = p.Text("name") ?? string.Empty;
        var column = take.IndexOf(dot);
        if (column < 0)
        {
            throw new ArgumentException($"there is no trajectory '{dot}' in the take");
        }

        var names = take.Names.ToArray();
        var other = name.Length == 0 ? -1 : take.IndexOf(name);
        if (other == column)
        {
            return new OperationResult(data, $"{name} pinned", []);
        }

        if (name.Length == 0)
        {
            var free = 1;
            while (names.Contains($"Dot_{free:000}"))
            {
                free++;
            }

            names[column] = $"Dot_{free:000}";
            return new OperationResult(new TakeData(take.Renamed(names)), $"{dot} has no name", []);
        }

        if (other < 0)
        {
            names[column] = name;
            return new OperationResult(new TakeData(take.Renamed(names)), $"{dot} is {name}", []);
        }

        return new OperationResult(new TakeData(Join(take, column, other)), $"{dot} is {name}", []);
    });

    /// <summary>Fills gaps; parameters: method (auto, spline, rigid), longest (frames), marker, frame.</summary>
    public static Operation Fill { get; } = new("fill", 1, "Clean", "Fill gaps", (data, p, c) =>
    {
        var method = Enum.TryParse<FillMethod>(p.Text("method") ?? "auto", ignoreCase: true, out var m) ? m : throw new ArgumentException("the fill method must be auto, spline or rigid");
        var at = p["frame"] is null ? (int?)null : p.Whole("frame", 0);
        var take = Markers(data);
        var (filled, list) = GapFiller.Fill(take, c.Resources.MarkerSet(), method, p.Whole("longest", 60), p.Text("marker"), at, c.Cancel, c.Progress);
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

    /// <summary>Low-pass; parameter: cutoff (Hz).</summary>
    public static Operation Smooth { get; } = new("smooth", 1, "Clean", "Smooth", (data, p, _) =>
    {
        var cutoff = p.Number("cutoff", 12);
        var take = Markers(data);
        if (!(cutoff > 0) || cutoff >= take.FrameRate / 2)
        {
            throw new ArgumentException($"the cut-off must lie between 0 and {take.FrameRate / 2:0} Hz");
        }

        var (result, kept) = MarkerSmoother.Smooth(take, cutoff);
        return new OperationResult(new TakeData(result), $"{cutoff:0.#} Hz, energy kept {kept * 100:0.0} %", new JsonObject { ["energyKept"] = kept });
    });

    internal static MarkerTake Markers(TakeData data) => data.Markers ?? throw new ArgumentException("the take has no markers");

    /// <summary>Puts a column's samples into another name's column; where both are seen the hand-made label wins and the old samples keep the dot's name.</summary>
    private static MarkerTake Join(MarkerTake take, int column, int into)
    {
        var result = take.Copy();
        var left = false;
        for (var f = 0; f < take.FrameCount; f++)
        {
            if (!MarkerTake.Seen(take[f, column]))
            {
                continue;
            }

            result[f, column] = take[f, into];
            left |= MarkerTake.Seen(take[f, into]);
            result[f, into] = take[f, column];
        }

        return left ? result : result.Only([.. take.Names.Where((_, i) => i != column)]);
    }
}
