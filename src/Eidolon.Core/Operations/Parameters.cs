using System.Text.Json.Nodes;

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

    private static RefusedException Bad(string name, string what) => new($"the parameter '{name}' must be {what}");
}
