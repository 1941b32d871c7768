using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Operations;

/// <summary>What a character's hands, feet, elbows, knees and head are held to, from parameters.</summary>
internal static class HoldParameters
{
    /// <summary>Of <c>place</c>, <c>turn</c>, <c>offset</c> and <c>keys</c>, each by role.</summary>
    /// <exception cref="RefusedException">Says which of them, and what it must be.</exception>
    public static IReadOnlyDictionary<BodyRole, Holding> Read(JsonObject p)
    {
        var holds = new Dictionary<BodyRole, Holding>();
        var usual = new RetargetSetup();
        void Set(string group, Func<Holding, JsonNode?, string, Holding> change)
        {
            if (p[group] is { } node && node is not JsonObject)
            {
                throw new RefusedException($"'{group}' must name roles");
            }

            foreach (var (key, value) in p[group] as JsonObject ?? [])
            {
                var role =
                    Enum.TryParse<BodyRole>(key, ignoreCase: true, out var r) && RetargetSetup.Held.Contains(r)
                        ? r
                        : throw new RefusedException($"'{group}.{key}' is none of {string.Join(", ", RetargetSetup.Held)}");
                holds[role] = change(holds.GetValueOrDefault(role) ?? usual.Hold(role), value, $"{group}.{key}");
            }
        }

        Set("place", (h, v, at) => h with { Place = Share(v, at) });
        Set("turn", (h, v, at) => h with { Turn = Share(v, at) });
        Set("offset", (h, v, at) => h with { Offset = Millimetres(v, at) / 1000 });
        Set("keys", (h, v, at) => h with { Keys = Keys(h, v, at) });
        return holds;
    }

    /// <summary>Keys by role, in the parameters' own words.</summary>
    public static JsonObject WriteKeys(IReadOnlyDictionary<BodyRole, Holding> holds) =>
        new(
            holds
                .Where(h => h.Value.Keys.Count > 0)
                .Select(h =>
                    KeyValuePair.Create(
                        h.Key.ToString(),
                        (JsonNode?)
                            new JsonArray([
                                .. h.Value.Keys.Select(k =>
                                    (JsonNode)
                                        new JsonObject
                                        {
                                            ["frame"] = k.Frame,
                                            ["place"] = Math.Round(k.Place * 100.0, 2),
                                            ["turn"] = Math.Round(k.Turn * 100.0, 2),
                                        }
                                ),
                            ])
                    )
                )
        );

    private static float Share(JsonNode? node, string at) =>
        node is JsonValue v && v.TryGetValue<double>(out var percent) && percent is >= 0 and <= 100
            ? (float)(percent / 100)
            : throw new RefusedException($"'{at}' must be 0 to 100");

    private static Vector3 Millimetres(JsonNode? node, string at) =>
        Parameters.Three(node, 1000)
        ?? throw new RefusedException($"'{at}' must be three numbers of millimetres, up to 1000: to the left, up, ahead");

    private static HoldKey[] Keys(Holding holding, JsonNode? node, string at)
    {
        var keys = new List<HoldKey>();
        foreach (var item in node as JsonArray ?? throw new RefusedException($"'{at}' must be a row of keys"))
        {
            var key = item as JsonObject ?? throw new RefusedException($"'{at}' must hold keys, each with a frame");
            var frame =
                key["frame"] is JsonValue v && v.TryGetValue<int>(out var f) && f >= 0
                    ? f
                    : throw new RefusedException($"'{at}': a key needs a frame, 0 or later");
            if (keys.Count > 0 && keys[^1].Frame >= frame)
            {
                throw new RefusedException($"'{at}': keys must be in order of frames ({frame} comes after {keys[^1].Frame})");
            }

            keys.Add(
                new HoldKey(
                    frame,
                    key.ContainsKey("place") ? Share(key["place"], at + ".place") : holding.Place,
                    key.ContainsKey("turn") ? Share(key["turn"], at + ".turn") : holding.Turn
                )
            );
        }

        return [.. keys];
    }
}
