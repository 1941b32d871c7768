using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Studio.Services;

namespace Eidolon.Studio.Lanes;

/// <summary>What lanes are made of. Every lane ends in a number.</summary>
internal static class LaneParts
{
    /// <summary>Bars of a lane at the most.</summary>
    public const int Bars = 300;

    public static JsonObject Lane(string name, char side, string kind, string tally, params (string Key, JsonNode? Value)[] more)
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

    /// <summary>At most a few hundred bars, each the largest of its frames.</summary>
    public static JsonArray Compress(double?[] values)
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

    public static JsonArray Json(double?[] values) => new([.. values.Select(v => v is null ? null : (JsonNode?)Math.Round(v.Value, 2))]);

    /// <summary>Runs of frames in which any of some trajectories is seen, from their gaps.</summary>
    public static JsonArray Present(IEnumerable<IReadOnlyList<Gap>> trajectories, int frames)
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

    public static char SideOf(MarkerSet set, string name) =>
        set.Find(MarkerNames.Split(name).Marker) is null ? 'N'
        : name[^1] is 'L' or 'R' ? name[^1]
        : 'C';

    public static string PartName(string part) => part.Contains(' ', StringComparison.Ordinal) && part[^2] == ' ' ? part[..^2] : part;

    public static char SideOfPart(string part) => part[^2] == ' ' ? part[^1] : 'C';

    public static int Order(string part) => Array.IndexOf(["Head and trunk", "Arm L", "Arm R", "Hand L", "Hand R", "Leg L", "Leg R"], part);
}
