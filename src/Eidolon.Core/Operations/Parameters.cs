using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Operations;

/// <summary>Reads operation parameters with defaults and clear complaints.</summary>
internal static class Parameters
{
    public static double Number(this JsonObject p, string name, double fallback) =>
        p[name] is JsonValue v
            ? v.TryGetValue<double>(out var d)
                ? d
                : v.TryGetValue<int>(out var i)
                    ? i
                    : throw Bad(name, "a number")
            : fallback;

    public static int Whole(this JsonObject p, string name, int fallback) => (int)Math.Round(p.Number(name, fallback));

    public static bool Flag(this JsonObject p, string name, bool fallback) =>
        p[name] is JsonValue v
            ? v.TryGetValue<bool>(out var b)
                ? b
                : throw Bad(name, "true or false")
            : fallback;

    public static string? Text(this JsonObject p, string name) =>
        p[name] is JsonValue v
            ? v.TryGetValue<string>(out var s)
                ? s
                : throw Bad(name, "a text")
            : null;

    public static string Needed(this JsonObject p, string name) => p.Text(name) ?? throw Bad(name, "given");

    /// <summary>Which hand is meant: HandL or HandR.</summary>
    public static BodyRole Hand(this JsonObject p, string name = "hand") =>
        p.Needed(name) switch
        {
            "HandL" => BodyRole.HandL,
            "HandR" => BodyRole.HandR,
            var other => throw new RefusedException($"'{other}' is no hand: HandL and HandR are"),
        };

    /// <summary>Three numbers, none farther from 0 than the most; null where it is anything else.</summary>
    public static Vector3? Three(JsonNode? node, float most)
    {
        var numbers = (node as JsonArray)?.Select(n => n is JsonValue v && v.TryGetValue<double>(out var x) ? x : double.NaN).ToArray();
        return numbers is { Length: 3 } && numbers.All(x => Math.Abs(x) <= most)
            ? new Vector3((float)numbers[0], (float)numbers[1], (float)numbers[2])
            : null;
    }

    private static RefusedException Bad(string name, string what) => new($"the parameter '{name}' must be {what}");
}
