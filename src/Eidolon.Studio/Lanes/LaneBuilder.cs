using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Studio.Services;

namespace Eidolon.Studio.Lanes;

/// <summary>The strips under the Stage, by Step: threads with gaps, blocks, bars. Every lane ends in a number.</summary>
internal static class LaneBuilder
{
    private const int Bars = 300;

    /// <param name="gaps">The gaps of every marker of the state.</param>
    public static JsonArray Build(OpenTake open, IReadOnlyList<Gap>[] gaps, string step) =>
        step switch
        {
            "label" => Label(open, gaps),
            "clean" => Clean(open, gaps),
            "solve" => Solve(open, gaps),
            "retarget" => Retarget(open, gaps),
            "assemble" or "export" => Late(open),
            "polish" => Polish(open),
            _ => [],
        };

    private static JsonObject Lane(string name, char side, string kind, string tally, params (string Key, JsonNode? Value)[] more)
    {
        var lane = new JsonObject
        {
            ["name"] = name,
            ["side"] = side.ToString(),
            ["kind"] = kind,
            ["tally"] = tally,
        };
        foreach (var (key, value) in more)
        {
            lane[key] = value;
        }

        return lane;
    }

    private static JsonArray Label(OpenTake open, IReadOnlyList<Gap>[] gaps)
    {
        var lanes = new JsonArray();
        var take = open.Data.Markers!;
        var set = open.Resources.MarkerSet();
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

    private static JsonArray Clean(OpenTake open, IReadOnlyList<Gap>[] table)
    {
        var lanes = new JsonArray();
        var take = open.Data.Markers!;
        var set = open.Resources.MarkerSet();
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

        if (open.Data.Performer is { } motion)
        {
            AddContacts(lanes, motion, open.Data.Contacts);
        }

        return lanes;
    }

    private static JsonArray Solve(OpenTake open, IReadOnlyList<Gap>[] gaps)
    {
        var lanes = new JsonArray();
        if (open.Last("solve") is not { } solved || open.Data.Performer is null)
        {
            return Clean(open, gaps);
        }

        var residuals = (solved.Report["frameResiduals"] as JsonArray)!.Select(v => v is null ? (double?)null : (double)v).ToArray();
        var worst = residuals.Max() ?? 0;
        lanes.Add(
            (JsonNode)Lane(
                "Residual, all markers",
                'C',
                "bars",
                $"worst {worst:0.0} mm",
                ("values", Compress(residuals)),
                ("scale", Math.Max(6, worst))
            )
        );
        var means = (solved.Report["markers"] as JsonObject)!
            .Where(m => m.Value is not null)
            .Select(m => (m.Key, Mean: (double)m.Value!))
            .OrderByDescending(m => m.Mean);
        var set = open.Resources.MarkerSet();
        foreach (
            var part in means
                .GroupBy(m => set.Find(m.Key) is { } d ? BodyRoles.Part(d.Segment) : "Head and trunk")
                .OrderBy(g => Order(g.Key))
        )
        {
            var top = part.First();
            lanes.Add(
                (JsonNode)Lane(
                    $"{PartName(part.Key)}, worst {top.Key}",
                    SideOfPart(part.Key),
                    "value",
                    $"{top.Mean:0.0} mm",
                    ("value", top.Mean / 8)
                )
            );
        }

        AddContacts(lanes, open.Data.Performer, open.Data.Contacts);
        return lanes;
    }

    private static JsonArray Retarget(OpenTake open, IReadOnlyList<Gap>[] gaps)
    {
        var lanes = new JsonArray();
        if (open.Data.Character is null || open.Data.Performer is null || open.Last("retarget") is not { } result)
        {
            return open.Data.Performer is null ? Clean(open, gaps) : Solve(open, gaps);
        }

        var drift = Drift(open.Data.Performer, open.Data.Character, (double)result.Report["scale"]!);
        foreach (var role in new[] { BodyRole.HandL, BodyRole.HandR, BodyRole.FootL, BodyRole.FootR })
        {
            var values = drift[role];
            var held = role is BodyRole.FootL or BodyRole.FootR;
            lanes.Add(
                (JsonNode)Lane(
                    role.ToString()[..^1] + (held ? ", held" : ", free"),
                    BodyRoles.Side(role),
                    "area",
                    $"worst {values.Max():0} mm",
                    ("values", Compress([.. values.Select(v => (double?)v)])),
                    ("scale", Math.Max(60, values.Max()))
                )
            );
        }

        var clipping = (result.Report["clipping"] as JsonArray)!.ToDictionary(c => (int)c!["frame"]!, c => (double)c!["depthMillimetres"]!);
        var depth = Enumerable.Range(0, open.Data.Character.FrameCount).Select(f => (double?)clipping.GetValueOrDefault(f)).ToArray();
        lanes.Add(
            (JsonNode)Lane(
                "Clipping depth",
                'C',
                "bars",
                depth.Max() > 0 ? $"worst {depth.Max():0} mm" : "none",
                ("values", Compress(depth)),
                ("scale", Math.Max(30, depth.Max() ?? 0)),
                ("must", true)
            )
        );
        AddHeld(lanes, result.Report["contacts"] as JsonArray ?? []);
        return lanes;
    }

    private static JsonArray Late(OpenTake open)
    {
        var lanes = new JsonArray();
        if (open.Data.Final is { } motion)
        {
            AddContacts(lanes, motion, []);
        }

        foreach (var o in (open.Last("assemble")?.Report["overlaps"] as JsonArray) ?? [])
        {
            lanes.Insert(
                0,
                Lane(
                    "Overlap",
                    'C',
                    "blocks",
                    $"{(double?)o!["slideMillimetres"] ?? 0:0.0} mm slide",
                    ("blocks", new JsonArray(new JsonArray((int)o["start"]!, (int)o["end"]!, "blend")))
                )
            );
        }

        return lanes;
    }

    private static JsonArray Polish(OpenTake open)
    {
        var lanes = Late(open);
        foreach (var row in open.Take.Ledger.Where(l => l.Operation == "layer").OrderBy(l => l.Position))
        {
            var p = JsonNode.Parse(row.Parameters)!;
            var joint = (string)p["joint"]!;
            var keys = new JsonArray([
                .. (p["keys"] as JsonArray ?? []).Select(k => (JsonNode)new JsonArray((int)k!["frame"]!, (bool?)k["release"] == true)),
            ]);
            var side = Enum.TryParse<BodyRole>(joint, out var role) ? BodyRoles.Side(role) : 'C';
            lanes.Insert(
                0,
                Lane($"Layer on {joint}", side, "keys", row.On ? $"{(double?)p["weight"] * 100 ?? 100:0} %" : "off", ("keys", keys))
            );
        }

        return lanes;
    }

    /// <summary>Feet, hands and knees, and the seat, each with what a person has decided; blocks: first frame, last frame, point, by hand.</summary>
    private static void AddContacts(JsonArray lanes, Motion motion, IReadOnlyList<ContactEdit> edits)
    {
        var contacts = ContactEdits.Apply(PointContacts.Find(motion), edits);
        bool ByHand(PointContact c) =>
            edits.Any(e => e.Point == c.Point && e.Side == c.Side && e.Planted && e.Start <= c.End && c.Start <= e.End);
        void Add(string name, char side, PointContact[] own, string tally, string point)
        {
            var blocks = new JsonArray([.. own.Select(c => (JsonNode)new JsonArray(c.Start, c.End, WordOf(c.Point), ByHand(c)))]);
            lanes.Add(
                (JsonNode)Lane(
                    name,
                    side,
                    "blocks",
                    edits.Any(e => e.Side == side && own.Any(c => c.Point == e.Point)) ? "by hand" : tally,
                    ("blocks", blocks),
                    ("contact", new JsonObject { ["point"] = point })
                )
            );
        }

        foreach (var side in "LR")
        {
            var own = contacts.Where(c => c.Side == side).ToArray();
            var feet = own.Where(c => c.Point is ContactPoint.Heel or ContactPoint.Toe).ToArray();
            Add("Foot planted", side, feet, $"{feet.Count(c => c.Point == ContactPoint.Heel)} plants", "heel");
            var floor = own.Except(feet).ToArray();
            if (floor.Length > 0)
            {
                Add("Hand, knee down", side, floor, $"{floor.Length} times", "knee");
            }
        }

        var seat = contacts.Where(c => c.Point == ContactPoint.Seat).ToArray();
        if (seat.Length > 0)
        {
            Add("Seated", 'C', seat, $"{seat.Length} times", "seat");
        }
    }

    private static string WordOf(ContactPoint point) => point == ContactPoint.Toe ? "toes" : point.ToString().ToLowerInvariant();

    private static void AddHeld(JsonArray lanes, JsonArray contacts)
    {
        foreach (var side in "LR")
        {
            var own = contacts.Where(c => ((string)c!["role"]!)[^1] == side).ToArray();
            var worst = own.Select(c => (double)c!["slideMillimetres"]!).DefaultIfEmpty(0).Max();
            lanes.Add(
                (JsonNode)Lane(
                    "Foot planted",
                    side,
                    "blocks",
                    $"worst {worst:0.0} mm",
                    (
                        "blocks",
                        new JsonArray([
                            .. own.Select(c =>
                                (JsonNode)
                                    new JsonArray(
                                        (int)c!["start"]!,
                                        (int)c["end"]!,
                                        ((string)c["role"]!).StartsWith("Foot", StringComparison.Ordinal) ? "heel" : "toes"
                                    )
                            ),
                        ])
                    )
                )
            );
        }
    }

    /// <summary>Distance of the character's hands and feet from the performer's scaled places, hips to hips, millimetres.</summary>
    private static Dictionary<BodyRole, float[]> Drift(Motion source, Motion target, double scale)
    {
        var a = ForwardKinematics.WorldPositions(source);
        var b = ForwardKinematics.WorldPositions(target);
        int n = source.Skeleton.Count,
            m = target.Skeleton.Count;
        var frames = Math.Min(source.FrameCount, target.FrameCount);
        return new[] { BodyRole.HandL, BodyRole.HandR, BodyRole.FootL, BodyRole.FootR }.ToDictionary(
            r => r,
            r =>
            {
                int i = source.Skeleton.IndexOf(r),
                    j = target.Skeleton.IndexOf(r),
                    hipA = source.Skeleton.IndexOf(BodyRole.ThighL),
                    hipB = target.Skeleton.IndexOf(BodyRole.ThighL);
                return Enumerable
                    .Range(0, frames)
                    .Select(f =>
                        ((b[(f * m) + j] - b[(f * m) + hipB]) - ((a[(f * n) + i] - a[(f * n) + hipA]) * (float)scale)).Length() * 1000
                    )
                    .ToArray();
            }
        );
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

    /// <summary>At most a few hundred bars, each the largest of its frames.</summary>
    private static JsonArray Compress(double?[] values)
    {
        var n = Math.Min(Bars, values.Length);
        var result = new double?[n];
        for (var k = 0; k < n; k++)
        {
            int a = (int)((long)k * values.Length / n),
                b = Math.Max(a + 1, (int)((long)(k + 1) * values.Length / n));
            result[k] = values[a..b].Max();
        }

        return Json(result);
    }

    private static JsonArray Json(double?[] values) => new([.. values.Select(v => v is null ? null : (JsonNode?)Math.Round(v.Value, 2))]);

    /// <summary>Runs of frames in which any of some trajectories is seen, from their gaps.</summary>
    private static JsonArray Present(IEnumerable<IReadOnlyList<Gap>> trajectories, int frames)
    {
        var runs = new List<(int Start, int End)>();
        foreach (var gaps in trajectories)
        {
            var start = 0;
            foreach (var g in gaps.Append(new Gap(frames, frames)))
            {
                if (g.Start > start)
                {
                    runs.Add((start, g.Start - 1));
                }

                start = g.End + 1;
            }
        }

        var joined = new JsonArray();
        var (from, to) = (-1, -2);
        foreach (var (start, end) in runs.OrderBy(r => r.Start).Append((int.MaxValue, int.MaxValue)))
        {
            if (start > to + 1)
            {
                if (from >= 0)
                {
                    joined.Add((JsonNode)new JsonArray(from, to));
                }

                from = start;
            }

            to = Math.Max(to, end);
        }

        return joined;
    }

    private static char SideOf(MarkerSet set, string name) =>
        set.Find(MarkerNames.Split(name).Marker) is null ? 'N'
        : name[^1] is 'L' or 'R' ? name[^1]
        : 'C';

    private static string PartName(string part) => part.Contains(' ', StringComparison.Ordinal) && part[^2] == ' ' ? part[..^2] : part;

    private static char SideOfPart(string part) => part[^2] == ' ' ? part[^1] : 'C';

    private static int Order(string part) =>
        Array.IndexOf(["Head and trunk", "Arm L", "Arm R", "Hand L", "Hand R", "Leg L", "Leg R"], part);
}
