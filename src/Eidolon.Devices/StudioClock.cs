using System.Diagnostics;

namespace Eidolon.Devices;

/// <summary>The one clock of the studio: seconds since 1970, never going back.</summary>
public static class StudioClock
{
    private static readonly double Start = (DateTime.UtcNow - DateTime.UnixEpoch).TotalSeconds;
    private static readonly long Ticks = Stopwatch.GetTimestamp();

    public static double Now => Start + Stopwatch.GetElapsedTime(Ticks).TotalSeconds;
}
