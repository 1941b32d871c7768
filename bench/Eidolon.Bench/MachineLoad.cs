using System.Globalization;

namespace Eidolon.Bench;

/// <summary>How much of the processors the machine's other guests took; nobody's work can be on time in it.</summary>
/// <param name="Stolen">Ticks in which a processor was wanted and not given.</param>
/// <param name="All">Ticks of all kinds.</param>
internal readonly record struct MachineLoad(long Stolen, long All)
{
    /// <summary>From the first line of /proc/stat: user, nice, system, idle, waiting, interrupts (two), stolen.</summary>
    public static MachineLoad Now()
    {
        const string file = "/proc/stat";
        if (!File.Exists(file))
        {
            return default;
        }

        var ticks = File.ReadLines(file)
            .First()
            .Split(' ', StringSplitOptions.RemoveEmptyEntries)[1..9]
            .Select(t => long.Parse(t, CultureInfo.InvariantCulture))
            .ToArray();
        return new MachineLoad(ticks[7], ticks.Sum());
    }

    /// <summary>Share taken away since an earlier moment, 0 to 1.</summary>
    public double TakenSince(MachineLoad earlier) => All == earlier.All ? 0 : (Stolen - earlier.Stolen) / (double)(All - earlier.All);
}
