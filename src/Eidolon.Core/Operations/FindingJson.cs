using System.Text.Json.Nodes;
using Eidolon.Core.Quality;

namespace Eidolon.Core.Operations;

/// <summary>Findings in the command line's keys, and back.</summary>
public static class FindingJson
{
    /// <summary>What a person should look at.</summary>
    public static JsonArray Write(IEnumerable<Finding> findings) =>
        new([
            .. findings.Select(f =>
                (JsonNode)
                    new JsonObject
                    {
                        ["kind"] = f.Kind,
                        ["start"] = f.Start,
                        ["end"] = f.End,
                        ["severity"] = f.Severity switch
                        {
                            Severity.MustFix => "must fix",
                            Severity.Look => "look",
                            _ => "note",
                        },
                        ["subject"] = f.Subject,
                        ["message"] = f.Message,
                    }
            ),
        ]);

    /// <summary>Findings of a kept report; none where it has none.</summary>
    public static IEnumerable<Finding> Read(JsonNode? findings) =>
        (findings as JsonArray ?? []).Select(f => new Finding(
            (string)f!["kind"]!,
            (int)f["start"]!,
            (int)f["end"]!,
            (string)f["severity"]! switch
            {
                "must fix" => Severity.MustFix,
                "look" => Severity.Look,
                _ => Severity.Note,
            },
            (string)f["subject"]!,
            (string)f["message"]!,
            0
        ));
}
