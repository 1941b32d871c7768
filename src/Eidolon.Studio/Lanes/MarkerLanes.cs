using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Studio.Services;
using static Eidolon.Studio.Lanes.LaneParts;

namespace Eidolon.Studio.Lanes;

/// <summary>Lanes of the markers: names, links, gaps.</summary>
internal static class MarkerLanes
{
    public static JsonArray Label(OpenTake open, IReadOnlyList<Gap>[] gaps)
    {
        var lanes = new JsonArray();
        var take = open.Marked;
        var set = StateNotes.SetOf(open);
        var loose = Enumerable.Range(0, take.MarkerCount).Where(m => MarkerNames.IsUnnamed(take.Names[m])).ToArray();
        var seen = gaps.Select(g => take.FrameCount - g.Sum(x => x.Length)).ToArray();
        lanes.Add((JsonNode)Lane("Link length, worst link", 'C', "curve", "mm", ("values", WorstLink(set, take)), ("unit", "mm")));
        lanes.Add(
            (JsonNode)Lane(
                "No name",
                'N',
                "thread",
                $"{100.0 * loose.Sum(m => seen[m]) / Math.Max(1, seen.Sum()):0.0} %",
                ("present", Present(loose.Select(m => gaps[m]), take.FrameCount))
            )
        );
        foreach (
            var (name, m) in take.Names.Select((n, m) => (n, m)).Where(x => !MarkerNames.IsUnnamed(x.n)).OrderBy(x => seen[x.m]).Take(6)
        )
        {
            lanes.Add(
                (JsonNode)Lane(
                    name,
                    SideOf(set, name),
                    "thread",
                    $"{100.0 * seen[m] / take.FrameCount:0.0} %",
                    ("present", Present([gaps[m]], take.FrameCount)),
                    ("marker", m)
                )
            );
        }

        return lanes;
    }

    public static JsonArray Clean(OpenTake open, IReadOnlyList<Gap>[] table)
    {
        var lanes = new JsonArray();
        var take = open.Marked;
        var set = StateNotes.SetOf(open);
        var clear = new List<string>();
        foreach (var part in set.Markers.GroupBy(m => BodyRoles.Part(m.Segment)).OrderBy(g => Order(g.Key)))
        {
            var own = part.Select(m => m.Name).ToHashSet(StringComparer.Ordinal);
            var markers = Enumerable.Range(0, take.MarkerCount).Where(i => own.Contains(MarkerNames.Split(take.Names[i]).Marker)).ToArray();
            var gaps = markers
                .SelectMany(m => table[m].Select(g => (Marker: m, Gap: g)))
                .Where(x => x.Gap.Length < take.FrameCount)
                .OrderByDescending(x => x.Gap.Length)
                .ToArray();
            if (markers.Length > 0 && gaps.Length == 0)
            {
                clear.Add(part.Key);
            }

            if (gaps.Length > 0)
            {
                lanes.Add(
                    (JsonNode)Lane(
                        PartName(part.Key),
                        SideOfPart(part.Key),
                        "gaps",
                        $"{gaps.Sum(g => g.Gap.Length)}",
                        (
                            "gaps",
                            new JsonArray([
                                .. gaps.Take(40)
                                    .Select(g =>
                                        (JsonNode)
                                            new JsonArray(
                                                g.Gap.Start,
                                                g.Gap.End,
                                                g.Marker,
                                                g.Gap.Length / take.FrameRate > 0.5 ? 2
                                                    : g.Gap.Length / take.FrameRate > 0.08 ? 1
                                                    : 0
                                            )
                                    ),
                            ])
                        )
                    )
                );
            }
        }

        // Parts without a gap share one lane: the room is for what is open and for the curves.
        if (clear.Count > 0)
        {
            lanes.Add((JsonNode)Lane(string.Join(", ", clear), 'C', "gaps", "clear", ("gaps", new JsonArray())));
        }

        MotionLanes.AddContacts(lanes, open.Solved);

        return lanes;
    }

    private static JsonArray WorstLink(MarkerSet set, MarkerTake take)
    {
        var links = TakeLinks.Of(take, set).ToArray();
        var usual = new float[links.Length];
        for (var i = 0; i < links.Length; i++)
        {
            var lengths = Enumerable
                .Range(0, 40)
                .Select(k => k * (take.FrameCount - 1) / 39)
                .Where(f => MarkerTake.Seen(take[f, links[i].A]) && MarkerTake.Seen(take[f, links[i].B]))
                .Select(f => (take[f, links[i].A] - take[f, links[i].B]).Length())
                .Order()
                .ToArray();
            usual[i] = lengths.Length == 0 ? float.NaN : lengths[lengths.Length / 2];
        }

        var values = new double?[Math.Min(Bars, take.FrameCount)];
        for (var k = 0; k < values.Length; k++)
        {
            var f = (int)((long)k * take.FrameCount / values.Length);
            for (var i = 0; i < links.Length; i++)
            {
                var off = MathF.Abs((take[f, links[i].A] - take[f, links[i].B]).Length() - usual[i]) * 1000;
                if (!float.IsNaN(off))
                {
                    values[k] = Math.Max(values[k] ?? 0, off);
                }
            }
        }

        return Json(values);
    }
}
