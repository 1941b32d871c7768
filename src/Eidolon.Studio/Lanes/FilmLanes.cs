using System.Text.Json.Nodes;
using Eidolon.Studio.Services;
using static Eidolon.Studio.Lanes.LaneParts;

namespace Eidolon.Studio.Lanes;

/// <summary>Lanes of films: how far the tracker's points are from where the body has them, what was put right by hand, legs that were put back.</summary>
internal static class FilmLanes
{
    /// <summary>A lane is full at this many pixels: farther off is wrong, not noise.</summary>
    private const double Full = 40;

    public static void Add(JsonArray lanes, FilmView view)
    {
        var report = view.Role.Solved?.Report;
        for (var k = 0; k < view.Films.Count; k++)
        {
            var misses = view.Misses(k);
            lanes.Add(
                (JsonNode)Lane(
                    $"{k + 1} {view.Cameras[k].Name}",
                    'N',
                    "area",
                    double.IsNaN(view.Pixels[k]) ? "not solved" : $"misses by {view.Pixels[k]:0.0} px",
                    ("values", Compress(misses)),
                    ("scale", Math.Max(Full, misses.Max() ?? 0)),
                    ("film", k)
                )
            );
        }

        int OnTake(int film, int frame) =>
            (int)
                Math.Round(
                    ((frame / view.Films[film].FrameRate) + view.Offsets[film]) * (view.Role.Motion?.FrameRate ?? view.Films[0].FrameRate)
                ) - (view.Role.Motion?.FirstFrame ?? 0);
        if (view.Value.Fixes.Count > 0)
        {
            var frames = view.Value.Fixes.Select(x => OnTake(x.Film, x.Frame)).Distinct().Order().ToArray();
            lanes.Add(
                (JsonNode)Lane(
                    "Put right by hand",
                    'N',
                    "keys",
                    $"{view.Value.Fixes.Count} point{(view.Value.Fixes.Count == 1 ? string.Empty : "s")}",
                    ("keys", new JsonArray([.. frames.Select(f => (JsonNode)new JsonArray(f, false))]))
                )
            );
        }

        var exchanged = (report?["exchangedLegs"] as JsonArray ?? [])
            .Select(x => (Film: (int)x!["film"]!, Start: (int)x["start"]!, End: (int)x["end"]!))
            .ToArray();
        if (exchanged.Length > 0)
        {
            lanes.Add(
                (JsonNode)Lane(
                    "Legs put back",
                    'N',
                    "blocks",
                    $"{exchanged.Length} times",
                    (
                        "blocks",
                        new JsonArray([
                            .. exchanged.Select(x =>
                                (JsonNode)new JsonArray(OnTake(x.Film, x.Start), OnTake(x.Film, x.End), view.Cameras[x.Film].Name, false)
                            ),
                        ])
                    )
                )
            );
        }
    }
}
