namespace Eidolon.Bench.Truth;

/// <summary>Accuracy, part by part: what a claim in docs/algorithms.md rests on.</summary>
internal static class TruthRun
{
    private static readonly Dictionary<string, Action> Parts = new(StringComparer.OrdinalIgnoreCase)
    {
        ["contacts"] = ContactTruth.Run,
        ["d1"] = () => ContactTruth.Debug("rom", 120),
        ["d2"] = () => ContactTruth.Debug("gangplank-hop", 120),
    };

    /// <param name="part">One part; all of them when null.</param>
    /// <returns>0, or 2 when there is no such part.</returns>
    public static int Run(string? part)
    {
        if (part is not null && !Parts.ContainsKey(part))
        {
            Console.Error.WriteLine($"truth: there is no part '{part}' (there are {string.Join(", ", Parts.Keys)})");
            return 2;
        }

        foreach (var (_, run) in Parts.Where(p => part is null || p.Key.Equals(part, StringComparison.OrdinalIgnoreCase)))
        {
            run();
        }

        return 0;
    }
}
