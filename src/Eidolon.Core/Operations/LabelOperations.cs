using System.Text.Json.Nodes;
using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Operations;

/// <summary>Operations on the names of trajectories: by itself, and by hand.</summary>
public static class LabelOperations
{
    /// <summary>Automatic labels from the performers' known shapes.</summary>
    public static Operation Label { get; } = new("label", 2, "Label", "Label", (data, _, c) =>
    {
        var result = TakeLabeller.Label(MarkerOperations.Markers(data), c.Resources.MarkerSet(), c.Resources.Subjects(c.Cancel), c.Cancel, c.Progress);
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
        var take = MarkerOperations.Markers(data);
        var dot = p.Needed("dot");
        var name = p.Text("name") ?? string.Empty;
        var column = take.IndexOf(dot);
        if (column < 0)
        {
            throw new ArgumentException($"there is no trajectory '{dot}' in the take");
        }

        if (name == dot)
        {
            return new OperationResult(data, $"{name} pinned", []);
        }

        if (name.Length > 0 && take.IndexOf(name) >= 0)
        {
            return new OperationResult(new TakeData(TrajectoryEdits.Join(take, dot, name)), $"{dot} is {name}", []);
        }

        var names = take.Names.ToArray();
        names[column] = name.Length > 0 ? name : TrajectoryEdits.FreeDot(names);
        return new OperationResult(new TakeData(take.Renamed(names)), name.Length > 0 ? $"{dot} is {name}" : $"{dot} has no name", []);
    });

    /// <summary>Two names trade places; parameters: a, b, from and to (frames; the whole take when they are not given).</summary>
    public static Operation Exchange { get; } = new("exchange", 1, "Label", "Exchange", (data, p, _) =>
    {
        var take = MarkerOperations.Markers(data);
        var (a, b, from, to) = (p.Needed("a"), p.Needed("b"), p.Whole("from", 0), p.Whole("to", take.FrameCount - 1));
        return new OperationResult(new TakeData(TrajectoryEdits.Exchange(take, a, b, from, to)), $"{a} and {b}, {from} to {to}", []);
    });

    /// <summary>Takes labels back; parameters: part (a body segment; all when it is not given), performer, from and to (frames). What was pinned by hand goes too: take those entries back one by one to keep them.</summary>
    public static Operation Unlabel { get; } = new("unlabel", 1, "Label", "Labels off", (data, p, c) =>
    {
        var take = MarkerOperations.Markers(data);
        var (part, performer, from, to) = (p.Text("part") ?? string.Empty, p.Text("performer") ?? string.Empty, p.Whole("from", 0), p.Whole("to", take.FrameCount - 1));
        var set = c.Resources.MarkerSet();
        bool Which(string name)
        {
            var (who, marker) = MarkerNames.Split(name);
            return (performer.Length == 0 || who == performer) && (part.Length == 0 || (set.Find(marker) is { } m && PartOf(m.Segment) == part));
        }

        var (result, changed) = TrajectoryEdits.Unname(take, Which, from, to);
        return new OperationResult(new TakeData(result), $"{changed} name{(changed == 1 ? string.Empty : "s")} off, {from} to {to}", []);
    });

    /// <summary>Cuts a trajectory in two; parameters: name, frame.</summary>
    public static Operation Split { get; } = new("split", 1, "Label", "Split", (data, p, _) =>
    {
        var (name, frame) = (p.Needed("name"), p.Whole("frame", 0));
        return new OperationResult(new TakeData(TrajectoryEdits.Split(MarkerOperations.Markers(data), name, frame)), $"{name} at {frame}", []);
    });

    /// <summary>Throws nameless scraps away; parameter: longest (frames seen).</summary>
    public static Operation Tidy { get; } = new("tidy", 1, "Label", "Tidy", (data, p, _) =>
    {
        var longest = p.Whole("longest", 12);
        var (result, removed) = TrajectoryEdits.DropScraps(MarkerOperations.Markers(data), longest);
        return new OperationResult(new TakeData(result), $"{removed} scrap{(removed == 1 ? string.Empty : "s")} to {longest} frames", []);
    });

    /// <summary>Parts of the body that labels can be taken off by.</summary>
    public static IReadOnlyList<string> Parts { get; } = ["Head", "Trunk", "Left arm", "Right arm", "Left leg", "Right leg"];

    /// <summary>Which of <see cref="Parts"/> a segment belongs to.</summary>
    public static string PartOf(BodyRole segment) => BodyRoles.Side(segment) switch
    {
        'C' => segment is BodyRole.Head or BodyRole.Neck ? "Head" : "Trunk",
        var side => (side == 'L' ? "Left " : "Right ") + (BodyRoles.Stem(segment) is "Thigh" or "Shin" or "Foot" or "Toes" ? "leg" : "arm"),
    };
}
