using System.CommandLine;
using System.Text.Json.Nodes;
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
        var references = new Option<string[]>("--reference") { Required = true, AllowMultipleArgumentsPerToken = false, Description = "A labelled take of the same performer; repeat for several." };
        var output = Options.Out();
        var json = Options.Json();
        var command = new Command("label", "Names the unnamed trajectories.") { input, set, references, output, json };
        command.SetAction(p => Run(p.GetRequiredValue(input), p.GetRequiredValue(set), p.GetRequiredValue(references), p.GetRequiredValue(output), p.GetValue(json)));
        return command;
    }

    private static int Run(string input, string setPath, string[] references, string output, string? json)
    {
        var document = MotionFiles.ReadMarkers(input);
        var set = MarkerSetJson.Read(InputFile.Read(setPath), setPath);
        var progress = new ConsoleProgress("label");
        var names = Prefixes(references);
        var warnings = new List<string>(document.Take.Warnings);
        var subjects = references.SelectMany((r, i) => Learn(r, set, names[i], warnings, progress)).ToList();
        var context = new OperationContext(new FileResources { Set = set, Known = subjects }, progress);
        var result = LabelOperations.Label.Run(new TakeData(document.Take), [], context);
        AtomicFile.Write(output, s => C3dWriter.Write(s, document with { Take = result.Data.Markers! }));
        var report = result.Report;
        report["warnings"] = Report.Array(warnings);
        Report.Write(json, report, $"{output}: {result.Summary}, {((JsonArray)report["frames"]!).Count} need a look");
        return ExitCodes.Done;
    }

    /// <summary>What stands before the names of a reference that names nobody: nothing with one reference, else its file's name, or its folder's where files are called alike.</summary>
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

    /// <summary>One subject for each performer in a reference; the prefix stands for the one that names nobody.</summary>
    private static IEnumerable<LabelSubject> Learn(string path, MarkerSet set, string? unnamed, List<string> warnings, IProgress<double> progress)
    {
        var take = MotionFiles.ReadMarkers(path).Take;
        var names = set.Markers.Select(m => m.Name).ToHashSet(StringComparer.Ordinal);
        var who = take.Names.Select(MarkerNames.Split).Where(n => names.Contains(n.Marker)).Select(n => n.Performer).Distinct().ToArray();
        if (who.Length == 0)
        {
            throw new Core.InvalidInputException(path, "labels", $"marker '{set.Markers[0].Name}', and every other one of the set '{set.Name}', is missing: this reference has {string.Join(", ", take.Names.Take(5))}…");
        }

        foreach (var performer in who)
        {
            var own = MarkerNames.Subject(take, performer);
            var prefix = performer ?? unnamed;
            warnings.AddRange(MarkerSetCheck.Against(set, own).Select(m => $"{path}: {m}"));
            LabelSubject subject;
            try
            {
                subject = LabelSubject.Learn(prefix, own, set, default, progress);
            }
            catch (ArgumentException e)
            {
                throw new Core.InvalidInputException(path, "markers", e.Message, e);
            }

            yield return subject;
        }
    }
}
