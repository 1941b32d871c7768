using System.Globalization;

namespace Eidolon.StandIns.Devices;

/// <summary>Something that goes wrong on request, some seconds after the start.</summary>
public sealed record StandInFault(string Name, double AtSeconds)
{
    /// <summary>What can go wrong.</summary>
    public static IReadOnlyList<string> Names { get; } =
    ["camera-knocked", "camera-lost", "marker-off", "sensor-slipped", "battery-empty", "network-loss"];

    /// <summary>Reads NAME@SECONDS.</summary>
    /// <exception cref="ArgumentException">An unknown fault or no time; names those there are.</exception>
    public static StandInFault Parse(string text)
    {
        var at = text.IndexOf('@', StringComparison.Ordinal);
        var name = at < 0 ? text : text[..at];
        if (!Names.Contains(name, StringComparer.Ordinal))
        {
            throw new ArgumentException($"there is no fault '{name}' (there are {string.Join(", ", Names)})");
        }

        double seconds = 0;
        if (at >= 0 && !(double.TryParse(text[(at + 1)..], NumberStyles.Float, CultureInfo.InvariantCulture, out seconds) && seconds >= 0))
        {
            throw new ArgumentException($"'{text[(at + 1)..]}' is no time in seconds; write {name}@10");
        }

        return new StandInFault(name, seconds);
    }
}
