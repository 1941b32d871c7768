using System.CommandLine;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.C3d;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;

namespace Eidolon.Cli.Verbs;

/// <summary>Names the unnamed trajectories of a take.</summary>
internal static class LabelVerb
{
    public static Command Create()
    {
        var input = new Argument<string>("IN");
        var set = new Option<string>("--marker-set") { Required = true };
        var references = new Option<string[]>("--reference")
        {
            Required = true,
            AllowMultipleArgumentsPerToken = false,
            Description = "A labelled take of the same performer; repeat for several.",
        };
        var output = Options.Out();
        var json = Options.Json();
        var command = new Command("label", "Names the unnamed trajectories.") { input, set, references, output, json };
        command.SetAction(p =>
            Run(
                p.GetRequiredValue(input),
                p.GetRequiredValue(set),
                p.GetRequiredValue(references),
                p.GetRequiredValue(output),
                p.GetValue(json)
            )
        );
        return command;
    }

    private static int Run(string input, string setPath, string[] references, string output, string? json)
    {
        var document = MotionFiles.ReadMarkers(input);
        var set = MarkerSetJson.Read(InputFile.Read(setPath), setPath);
        var progress = new ConsoleProgress("label");
        var names = Prefixes(references);
        var warnings = new List<string>(document.Take.Warnings);
        var subjects = Learn([.. references.SelectMany((r, i) => Read(r, set, names[i], warnings))], set, progress);
        var context = new OperationContext(new FileResources { Set = set, Known = subjects }, Progress: progress);
        var result = LabelOperations.Label.Run(new OperationInput(new MarkerValue(document.Take)), [], context);
        AtomicFile.Write(output, s => C3dWriter.Write(s, document with { Take = ((MarkerValue)result.Value).Take }));
        var report = result.Report;
        report["warnings"] = Report.Array(warnings);
        Report.Write(json, report, $"{output}: {result.Summary}, {((JsonArray)report["frames"]!).Count} need a look");
        return ExitCodes.Done;
    }

    /// <summary>
    /// What stands before the names of a reference that names nobody: its file's name, or its folder's where files are called alike; nothing
    /// with one reference.
    /// </summary>
    private static string?[] Prefixes(string[] references)
    {
        if (references.Length == 1)
        {
            return [null];
        }

        string[] files = [.. references.Select(r => Path.GetFileNameWithoutExtension(r))];
        string[] folders = [.. references.Select(r => Path.GetFileName(Path.GetDirectoryName(Path.GetFullPath(r))) ?? string.Empty)];
        var chosen = files.Distinct(StringComparer.Ordinal).Count() == files.Length ? files : folders;
        return [.. chosen.Select((name, i) => chosen.Count(n => n == name) == 1 && name.Length > 0 ? name : $"{files[i]}_{i + 1}")];
    }

    /// <summary>One performer in one reference.</summary>
    /// <param name="Named">The name stands in the take; otherwise it was made up from the file's.</param>
    private sealed record Taught(string Path, string? Performer, bool Named, MarkerTake Take);

    /// <summary>Every performer in a reference, names without prefix.</summary>
    private static IEnumerable<Taught> Read(string path, MarkerSet set, string? unnamed, List<string> warnings)
    {
        var take = MotionFiles.ReadMarkers(path).Take;
        var names = set.Markers.Select(m => m.Name).ToHashSet(StringComparer.Ordinal);
        var who = take.Names.Select(MarkerNames.Split).Where(n => names.Contains(n.Marker)).Select(n => n.Performer).Distinct().ToArray();
        if (who.Length == 0)
        {
            throw new Core.InvalidInputException(
                path,
                "labels",
                $"marker '{set.Markers[0].Name}', and every other one of the set '{set.Name}', is missing: this reference has {string.Join(", ", take.Names.Take(5))}…"
            );
        }

        foreach (var performer in who)
        {
            var own = MarkerNames.Subject(take, performer);
            warnings.AddRange(MarkerSetCheck.Against(set, own).Select(m => $"{path}: {m}"));
            yield return new Taught(path, performer ?? unnamed, performer is not null, own);
        }
    }

    /// <summary>A subject for each performer; several references of one performer, known by name or else by the body, teach one subject more poses.</summary>
    private static List<LabelSubject> Learn(List<Taught> references, MarkerSet set, IProgress<double> progress)
    {
        var groups = new List<List<Taught>>();
        foreach (var r in references)
        {
            var group = groups.Find(g =>
                r.Named && g[0].Named ? g[0].Performer == r.Performer : BodyLikeness.Difference(g[0].Take, r.Take, set) < BodyLikeness.Same
            );
            if (group is null)
            {
                groups.Add([r]);
            }
            else
            {
                group.Add(r);
            }
        }

        return groups.ConvertAll(group =>
        {
            // A name that a take gives is better than a file's; one performer alone needs none but what a take gives.
            var known = group.Find(g => g.Named);
            var prefix =
                known is not null ? known.Performer
                : groups.Count == 1 ? null
                : group[0].Performer;
            try
            {
                var first = LabelSubject.Learn(prefix, group[0].Take, set, default, progress);
                return first with
                {
                    Poses = [.. first.Poses, .. group.Skip(1).SelectMany(g => LabelSubject.From(prefix, first.Performer, g.Take).Poses)],
                };
            }
            catch (Exception e) when (e is ArgumentException or RefusedException)
            {
                throw new Core.InvalidInputException(group[0].Path, "markers", e.Message, e);
            }
        });
    }
}
