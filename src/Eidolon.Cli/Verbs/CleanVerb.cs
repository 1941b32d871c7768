using System.CommandLine;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.C3d;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;

namespace Eidolon.Cli.Verbs;

/// <summary>Spikes out, gaps filled, smoothed: the same Ledger entries the studio keeps.</summary>
internal static class CleanVerb
{
    private const double LongestSeconds = 2;

    public static Command Create()
    {
        var input = new Argument<string>("IN");
        var output = Options.Out();
        var set = new Option<string?>("--marker-set");
        var fill = new Option<string>("--fill") { DefaultValueFactory = _ => "auto", Description = "auto, spline, rigid or none." };
        var gap = new Option<int?>("--max-gap") { Description = "Longest gap to fill, frames (2 s when not given)." };
        var despike = new Option<string>("--despike") { DefaultValueFactory = _ => "on" };
        var smooth = new Option<double?>("--smooth") { Description = "Cut-off, Hz." };
        var json = Options.Json();
        var command = new Command("clean", "Spikes out, gaps filled, smoothed.") { input, output, set, fill, gap, despike, smooth, json };
        command.SetAction(p =>
        {
            var method = p.GetValue(fill)!;
            var spikes = p.GetValue(despike)!;
            if (method is not ("auto" or "spline" or "rigid" or "none") || spikes is not ("on" or "off") || p.GetValue(gap) < 0)
            {
                throw new UsageException("--fill auto|spline|rigid|none, --despike on|off, --max-gap 0 or more");
            }

            return Run(
                p.GetRequiredValue(input),
                p.GetRequiredValue(output),
                p.GetValue(set),
                method,
                p.GetValue(gap),
                spikes == "on",
                p.GetValue(smooth),
                p.GetValue(json)
            );
        });
        return command;
    }

    private static int Run(
        string input,
        string output,
        string? setPath,
        string method,
        int? longest,
        bool despike,
        double? smooth,
        string? json
    )
    {
        var document = MotionFiles.ReadMarkers(input);
        var take = document.Take;
        var set = setPath is null ? null : MarkerSetJson.Read(InputFile.Read(setPath), setPath);
        var warnings = new List<string>(take.Warnings);
        if (set is not null)
        {
            var present = take.Names.Select(n => MarkerNames.Split(n).Marker).ToHashSet(StringComparer.Ordinal);
            var missing = set.Markers.Where(m => !present.Contains(m.Name)).ToList();
            if (missing.Count == set.Markers.Count)
            {
                throw new InvalidInputException(
                    setPath!,
                    "markers",
                    $"marker '{missing[0].Name}', and every other one of the set, is not in {input}, which has {string.Join(", ", take.Names.Take(5))}…"
                );
            }

            warnings.AddRange(missing.Select(m => $"{setPath}: marker '{m.Name}' is not in the take"));
        }

        if (smooth is { } hz && !(hz > 0 && hz < take.FrameRate / 2))
        {
            throw new UsageException($"--smooth {hz}: between 0 and {take.FrameRate / 2:0} Hz for this take");
        }

        var entries = new List<Entry>();
        if (despike)
        {
            entries.Add(MarkerOperations.Despike.Entry());
        }

        if (method != "none")
        {
            entries.Add(
                MarkerOperations.Fill.Entry(
                    new JsonObject { ["method"] = method, ["longest"] = longest ?? (int)(LongestSeconds * take.FrameRate) }
                )
            );
        }

        if (smooth is { } cutoff)
        {
            entries.Add(MarkerOperations.Smooth.Entry(new JsonObject { ["cutoff"] = cutoff }));
        }

        var (value, results) = EntryRunner.Run(
            new MarkerValue(take),
            entries,
            new OperationContext(new FileResources { Set = set }, Progress: new ConsoleProgress("clean"))
        );
        var cleaned = ((MarkerValue)value).Take;
        AtomicFile.Write(output, s => C3dWriter.Write(s, document with { Take = cleaned }));
        var report = Summarise(
            warnings,
            cleaned,
            results.SelectMany(r => r?.Report["filled"] as JsonArray ?? []),
            results.SelectMany(r => r?.Report["spikes"] as JsonArray ?? [])
        );
        Report.Write(json, report, $"{output}: {string.Join("; ", results.Select(r => r!.Summary))}");
        return ExitCodes.Done;
    }

    private static JsonObject Summarise(
        IReadOnlyList<string> warnings,
        MarkerTake after,
        IEnumerable<JsonNode?> filled,
        IEnumerable<JsonNode?> spikes
    )
    {
        var fills = filled.ToLookup(f => (string)f!["marker"]!);
        var counts = spikes.ToLookup(s => (string)s!["marker"]!);
        var markers = new JsonArray([
            .. after.Names.Select(
                (name, m) =>
                {
                    var own = fills[name].ToArray();
                    return (JsonNode)
                        new JsonObject
                        {
                            ["name"] = name,
                            ["filledFrames"] = own.Sum(f => (int)f!["end"]! - (int)f["start"]! + 1),
                            ["spikesRemoved"] = counts[name].Count(),
                            ["method"] = own.Length == 0 ? "none" : string.Join("+", own.Select(f => (string)f!["method"]!).Distinct()),
                            ["gapsLeft"] = after.Gaps(m).Count,
                            ["fills"] = new JsonArray([.. own.Select(f => f!.DeepClone())]),
                        };
                }
            ),
        ]);
        return new JsonObject { ["markers"] = markers, ["warnings"] = Report.Array(warnings) };
    }
}
