using System.Text.Json.Nodes;
using Eidolon.Core.Operations;

namespace Eidolon.Core.Quality;

/// <summary>
/// What can be done about a Finding of one marker: operations to try before one of them is kept, the likeliest first. Gaps and swaps have
/// panels of their own.
/// </summary>
public static class Remedies
{
    /// <summary>A remedy in words and as the Ledger entry it would become.</summary>
    public sealed record Remedy(string Words, Entry Entry);

    /// <summary>What can be done about a Finding, the best first.</summary>
    public static IReadOnlyList<Remedy> For(string kind, string subject, string other, int start, int end)
    {
        Remedy Smooth(double hertz) =>
            new(
                $"Smooth this stretch, {hertz:0} Hz",
                MarkerOperations.Smooth.Entry(
                    new JsonObject
                    {
                        ["cutoff"] = hertz,
                        ["marker"] = subject,
                        ["from"] = start,
                        ["to"] = end,
                    }
                )
            );
        Remedy Out(string words) =>
            new(
                words,
                MarkerOperations.Hide.Entry(
                    new JsonObject
                    {
                        ["marker"] = subject,
                        ["from"] = start,
                        ["to"] = end,
                    }
                )
            );
        return kind switch
        {
            "spike" =>
            [
                new(
                    "The path around it instead",
                    MarkerOperations.Despike.Entry(new JsonObject { ["marker"] = subject, ["frame"] = start })
                ),
                new("Every spike of the take", MarkerOperations.Despike.Entry()),
            ],
            "slip" => [new("Measure it anew from here", SolveOperations.Solve.Entry(new JsonObject { ["slips"] = "follow" }))],
            "jitter" => [Smooth(8), Smooth(5), Out("Samples out")],
            "stillness" => [Out("Held samples out")],
            "link drift" when other.Length > 0 =>
            [
                Out("Samples out"),
                new(
                    $"Exchange with {other}",
                    LabelOperations.Exchange.Entry(
                        new JsonObject
                        {
                            ["a"] = subject,
                            ["b"] = other,
                            ["from"] = start,
                            ["to"] = end,
                        }
                    )
                ),
            ],
            _ => [],
        };
    }
}
