using System.Text.Json.Nodes;
using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Operations;

/// <summary>Operations on the names of trajectories: by itself, and by hand.</summary>
public static class LabelOperations
{
    /// <summary>
    /// Automatic labels from the performers' known shapes; parameters: from and to (frames; the whole take when they are not given). Names that an
    /// earlier pass gave are given anew, pinned ones and those that came with the take stay.
    /// </summary>
    public static Operation Label { get; } = new("label", 6, NodeKind.Markers, "Label", "Label", (input, p, c) =>
        {
            var data = input.Markers;
            var all = data.Take;
            var (from, to) = (
                Math.Clamp(p.Whole("from", 0), 0, all.FrameCount - 1),
                Math.Clamp(p.Whole("to", all.FrameCount - 1), 0, all.FrameCount - 1)
            );
            if (to - from < ShortestRange && to - from < all.FrameCount - 1)
            {
                throw new RefusedException(
                    $"a range of at least {ShortestRange} frames is needed to know a body by its movement; {from} to {to} were asked for"
                );
            }

            var automatic = data.Automatic.ToHashSet(StringComparer.Ordinal);
            var pinned = data.Pinned.ToLookup(x => x.Name);
            var (take, _) = TrajectoryEdits.Unname(all, automatic.Contains, from, to, (name, f) =>
                pinned[name].Any(x => x.Start <= f && f <= x.End)
            );
            var whole = from == 0 && to == all.FrameCount - 1;
            var result = TakeLabeller.Label(
                whole ? take : take.Range(from, to + 1),
                c.Resources.MarkerSet(),
                c.Resources.References(c.Cancel),
                c.Cancel,
                c.Progress
            );
            // What a prop carries is nobody's: a take whose every other dot has a name is named.
            var named = WithoutProps(result, c.Resources.Props(), c.Cancel);
            var report = new JsonObject
            {
                ["labelledFraction"] = Math.Round(named, 5),
                ["frames"] = new JsonArray([
                    .. result.Doubts.Select(d =>
                        (JsonNode)
                            new JsonObject
                            {
                                ["frame"] = d.Frame + from,
                                ["marker"] = d.Marker,
                                ["reason"] = d.Reason,
                            }
                    ),
                ]),
                ["unnamed"] = result.Pieces.Count(x => x.Name is null),
            };
            automatic.UnionWith(result.Pieces.Where(x => !x.Pinned).Select(x => x.Name).OfType<string>());
            var labelled = data with
            {
                Take = whole ? result.Take : TrajectoryEdits.Splice(take, result.Take, from),
                Automatic = [.. automatic.Order(StringComparer.Ordinal)],
            };
            return new OperationResult(labelled, $"{named * 100:0.0} % named{(whole ? string.Empty : $", {from} to {to}")}", report);
        }) { Reads = (_, _) => [new(ResourceKind.MarkerSet), new(ResourceKind.References), new(ResourceKind.Props)] };

    /// <summary>The share of the samples seen that have a name, those of props left out.</summary>
    private static double WithoutProps(LabelResult result, IReadOnlyList<RigidBody> props, CancellationToken cancel)
    {
        if (props.Count == 0)
        {
            return result.LabelledFraction;
        }

        var take = result.Take;
        var named = take.Names.Where(n => !MarkerNames.IsUnnamed(n)).ToHashSet(StringComparer.Ordinal);
        long seen = 0,
            with = 0;
        for (var m = 0; m < take.MarkerCount; m++)
        {
            var frames = take.VisibleFrames(m);
            seen += frames;
            with += named.Contains(take.Names[m]) ? frames : 0;
        }

        var carried = props.Sum(p => PropFinder.Samples(take, p, named, cancel));
        return seen == 0 ? 0 : Math.Min(1, (double)with / Math.Max(1, seen - carried));
    }

    /// <summary>Fewer frames than this say nothing about how a body moves.</summary>
    private const int ShortestRange = 10;

    /// <summary>Names one trajectory by hand; parameters: dot (column), name (empty takes the label off).</summary>
    public static Operation SetLabel { get; } = new("set-label", 1, NodeKind.Markers, "Label", "Pinned label", (input, p, _) =>
        {
            var data = input.Markers;
            var take = data.Take;
            var dot = p.Needed("dot");
            var name = p.Text("name") ?? string.Empty;
            var column = take.IndexOf(dot);
            if (column < 0)
            {
                throw new RefusedException($"there is no trajectory '{dot}' in the take");
            }

            var (start, end) = SeenRange(take, column);
            MarkerValue Pinned(MarkerTake now) =>
                data with
                {
                    Take = now,
                    Pinned =
                        name.Length == 0 ? [.. data.Pinned.Where(x => x.Name != dot)] : [.. data.Pinned, new PinnedLabel(name, start, end)],
                };
            if (name == dot)
            {
                return new OperationResult(Pinned(take), $"{name} pinned", []);
            }

            if (name.Length > 0 && take.IndexOf(name) >= 0)
            {
                return new OperationResult(Pinned(TrajectoryEdits.Join(take, dot, name)), $"{dot} is {name}", []);
            }

            var names = take.Names.ToArray();
            names[column] = name.Length > 0 ? name : TrajectoryEdits.FreeDot(names);
            return new OperationResult(Pinned(take.Renamed(names)), name.Length > 0 ? $"{dot} is {name}" : $"{dot} has no name", []);
        }) { Quick = true, FitsRecipe = _ => false };

    private static (int Start, int End) SeenRange(MarkerTake take, int column)
    {
        var (start, end) = (0, take.FrameCount - 1);
        while (start < end && !MarkerTake.Seen(take[start, column]))
        {
            start++;
        }

        while (end > start && !MarkerTake.Seen(take[end, column]))
        {
            end--;
        }

        return (start, end);
    }

    /// <summary>Two names trade places; parameters: a, b, from and to (frames; the whole take when they are not given).</summary>
    public static Operation Exchange { get; } = new("exchange", 1, NodeKind.Markers, "Label", "Exchange", (input, p, _) =>
        {
            var data = input.Markers;
            var take = data.Take;
            var (a, b, from, to) = (p.Needed("a"), p.Needed("b"), p.Whole("from", 0), p.Whole("to", take.FrameCount - 1));
            return new OperationResult(
                data with
                {
                    Take = TrajectoryEdits.Exchange(take, a, b, from, to),
                },
                $"{a} and {b}, {from} to {to}",
                []
            );
        }) { Quick = true, FitsRecipe = _ => false };

    /// <summary>
    /// Takes labels back; parameters: part (of the body; all when it is not given), marker, performer, from and to (frames), pinned (keep: what
    /// was given by hand stays; else it goes too).
    /// </summary>
    public static Operation Unlabel { get; } =
        new("unlabel", 1, NodeKind.Markers, "Label", "Labels off", (input, p, c) =>
        {
            var data = input.Markers;
            var take = data.Take;
            var (part, performer, from, to) = (
                p.Text("part") ?? string.Empty,
                p.Text("performer") ?? string.Empty,
                p.Whole("from", 0),
                p.Whole("to", take.FrameCount - 1)
            );
            var (set, only) = (c.Resources.MarkerSet(), p.Text("marker") ?? string.Empty);
            var kept = p.Text("pinned") == "keep" ? data.Pinned.ToLookup(x => x.Name) : Array.Empty<PinnedLabel>().ToLookup(x => x.Name);
            bool Which(string name)
            {
                var (who, marker) = MarkerNames.Split(name);
                return (only.Length == 0 || name == only)
                    && (performer.Length == 0 || who == performer)
                    && (part.Length == 0 || (set.Find(marker) is { } m && PartOf(m.Segment) == part));
            }

            var (result, changed) = TrajectoryEdits.Unname(take, Which, from, to, (name, f) =>
                kept[name].Any(x => x.Start <= f && f <= x.End)
            );
            return new OperationResult(
                data with
                {
                    Take = result,
                },
                $"{changed} name{(changed == 1 ? string.Empty : "s")} off, {from} to {to}",
                []
            );
        })
        {
            Quick = true,
            FitsRecipe = _ => false,
            Reads = (_, _) => [new(ResourceKind.MarkerSet)],
        };

    /// <summary>Cuts a trajectory in two; parameters: name, frame.</summary>
    public static Operation Split { get; } = new("split", 1, NodeKind.Markers, "Label", "Split", (input, p, _) =>
        {
            var data = input.Markers;
            var (name, frame) = (p.Needed("name"), p.Whole("frame", 0));
            return new OperationResult(data with { Take = TrajectoryEdits.Split(data.Take, name, frame) }, $"{name} at {frame}", []);
        }) { Quick = true, FitsRecipe = _ => false };

    /// <summary>Two trajectories become one; parameters: name (it goes), into (it stays). Where both are seen the first one's samples win.</summary>
    public static Operation Join { get; } = new("join", 1, NodeKind.Markers, "Label", "Join", (input, p, _) =>
        {
            var data = input.Markers;
            var (name, into) = (p.Needed("name"), p.Needed("into"));
            if (name == into)
            {
                throw new RefusedException("two different trajectories can be joined");
            }

            return new OperationResult(data with { Take = TrajectoryEdits.Join(data.Take, name, into) }, $"{name} to {into}", []);
        }) { Quick = true, FitsRecipe = _ => false };

    /// <summary>Throws one nameless trajectory away; parameter: name.</summary>
    public static Operation Discard { get; } = new("discard", 1, NodeKind.Markers, "Label", "Discard", (input, p, _) =>
        {
            var data = input.Markers;
            var (take, name) = (data.Take, p.Needed("name"));
            if (take.IndexOf(name) < 0 || !MarkerNames.IsUnnamed(name))
            {
                throw new RefusedException(
                    take.IndexOf(name) < 0 ? $"there is no trajectory '{name}' in the take" : $"{name} has a name: take the label off first"
                );
            }

            return new OperationResult(data with { Take = take.Only([.. take.Names.Where(n => n != name)]) }, name, []);
        }) { Quick = true, FitsRecipe = _ => false };

    /// <summary>Throws nameless scraps away; parameter: longest (frames seen).</summary>
    public static Operation Tidy { get; } = new("tidy", 1, NodeKind.Markers, "Label", "Tidy", (input, p, _) =>
        {
            var data = input.Markers;
            var longest = p.Whole("longest", 12);
            var (result, removed) = TrajectoryEdits.DropScraps(data.Take, longest);
            return new OperationResult(
                data with
                {
                    Take = result,
                },
                $"{removed} scrap{(removed == 1 ? string.Empty : "s")} to {longest} frames",
                []
            );
        }) { Quick = true };

    /// <summary>Parts of the body that labels can be taken off by.</summary>
    public static IReadOnlyList<string> Parts { get; } = ["Head", "Trunk", "Left arm", "Right arm", "Left leg", "Right leg"];

    /// <summary>Which of <see cref="Parts"/> a segment belongs to.</summary>
    public static string PartOf(BodyRole segment) =>
        BodyRoles.Section(segment) switch
        {
            BodySection.Head => "Head",
            BodySection.Trunk => "Trunk",
            var section => (BodyRoles.Side(segment) == 'L' ? "Left " : "Right ") + (section == BodySection.Leg ? "leg" : "arm"),
        };
}
