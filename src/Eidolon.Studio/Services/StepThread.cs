using Eidolon.Storage.Model;

namespace Eidolon.Studio.Services;

/// <summary>The eight Steps and how far a take has come.</summary>
public static class StepThread
{
    public static IReadOnlyList<string> Names { get; } = ["Record", "Label", "Clean", "Solve", "Retarget", "Assemble", "Polish", "Export"];

    /// <summary>Which Steps a take is through.</summary>
    public static bool[] Through(Take take)
    {
        bool Has(params string[] operations) => take.Ledger.Any(l => l.On && operations.Contains(l.Operation));
        var labelled = Has("label") || !take.Channels.Contains("Dot_", StringComparison.Ordinal);
        return
        [
            take.State == TakeState.Kept,
            labelled,
            Has("fill", "despike", "smooth"),
            Has("solve"),
            Has("retarget"),
            Has("assemble"),
            Has("layer"),
            take.HandOffs.Count > 0,
        ];
    }

    /// <summary>The next Step to do.</summary>
    public static int Next(Take take)
    {
        var through = Through(take);
        var last = Array.FindLastIndex(through, t => t);
        return Math.Min(last + 1, Names.Count - 1);
    }
}
