namespace Eidolon.Bench.Truth;

/// <summary>Accuracy, part by part: what a claim in docs/algorithms.md rests on.</summary>
internal static class TruthRun
{
    private static readonly Dictionary<string, Action> Parts = new(StringComparer.OrdinalIgnoreCase)
    {
        ["contacts"] = ContactTruth.Run,
        ["labels"] = LabelTruth.Run,
        ["suits"] = LabelTruth.Suits,
        ["sets"] = LabelTruth.OtherCrew,
        ["bodies"] = BodyTruth.Run,
        ["bodies-recording"] = BodyTruth.Recording,
        ["spikes"] = SpikeTruth.Run,
        ["films"] = FilmTruth.Run,
        ["hands"] = HandTruth.Run,
        ["inertial"] = InertialTruth.Run,
        ["inertial-recording"] = InertialTruth.Recording,
        ["gaps"] = GapTruth.Run,
        ["gaps-recording"] = GapTruth.Recording,
        ["assembly"] = AssemblyTruth.Run,
        ["assembly-recording"] = AssemblyTruth.Recording,
        ["retarget"] = RetargetTruth.Run,
        ["roles"] = RoleTruth.Run,
        ["carriers"] = RetargetTruth.Carriers,
        ["answers"] = RetargetAnswers.Run,
        ["retarget-recording"] = RetargetTruth.Recording,
    };

    /// <summary>The only rate to try, where one was asked for.</summary>
    public static double? Only { get; private set; }

    /// <summary>These rates, or the only one that was asked for.</summary>
    public static double[] Rates(params double[] rates) => Only is { } only ? [only] : rates;

    /// <param name="part">One part; all of them when null.</param>
    /// <returns>0, or 2 when there is no such part.</returns>
    /// <param name="rate">One rate only; those the part chooses when null.</param>
    public static int Run(string? part, double? rate)
    {
        if (part is not null && !Parts.ContainsKey(part))
        {
            Console.Error.WriteLine($"truth: there is no part '{part}' (there are {string.Join(", ", Parts.Keys)})");
            return 2;
        }

        Only = rate;
        foreach (var (_, run) in Parts.Where(p => part is null || p.Key.Equals(part, StringComparison.OrdinalIgnoreCase)))
        {
            run();
        }

        return 0;
    }
}
