using System.Collections.Concurrent;
using Eidolon.Cli;

namespace Eidolon.Core.Tests.Cli;

/// <summary>What <c>simulate</c> writes, written once a run of the tests and linked into the folder of each that asks for it.</summary>
internal static class Simulated
{
    private static readonly DirectoryInfo All = Directory.CreateTempSubdirectory("eidolon-simulated");
    private static readonly ConcurrentDictionary<string, Lazy<string>> Known = new(StringComparer.Ordinal);

    static Simulated() => AppDomain.CurrentDomain.ProcessExit += (_, _) => All.Delete(recursive: true);

    /// <param name="folder">Where its files are to be; made when it is missing.</param>
    /// <param name="scenario">As the verb takes it, with options.</param>
    public static void Into(string folder, params string[] scenario)
    {
        var made = Known.GetOrAdd(string.Join(' ', scenario), _ => new Lazy<string>(() => Make(scenario))).Value;
        Directory.CreateDirectory(folder);
        foreach (var file in Directory.GetFiles(made))
        {
            File.CreateSymbolicLink(Path.Combine(folder, Path.GetFileName(file)), file);
        }
    }

    /// <summary>The first frames of a table that was linked into a folder, in its place.</summary>
    public static void Head(string file, int frames)
    {
        var kept = File.ReadLines(file)
            .Where(l =>
                !char.IsDigit(l[0])
                || int.Parse(l.AsSpan(0, l.IndexOf(',', StringComparison.Ordinal)), System.Globalization.CultureInfo.InvariantCulture)
                    < frames
            )
            .ToArray();
        File.Delete(file);
        File.WriteAllLines(file, kept);
    }

    /// <summary>Every so manieth frame of a take that was linked into a folder, in its place.</summary>
    public static void Thin(string file, int step) => Convert(file, "--frames", $"0:100000:{step}", step == 1);

    /// <summary>A range of it.</summary>
    public static void Cut(string file, string frames) => Convert(file, "--frames", frames, false);

    private static void Convert(string file, string option, string value, bool same)
    {
        if (same)
        {
            return;
        }

        var cut = Path.ChangeExtension(file, ".cut.c3d");
        Assert.Equal(0, Runner.Run(Commands.Root(), ["convert", file, cut, option, value]));
        File.Delete(file);
        File.Move(cut, file);
    }

    private static string Make(string[] scenario)
    {
        var folder = Path.Combine(All.FullName, Guid.NewGuid().ToString("N"));
        Assert.Equal(0, Runner.Run(Commands.Root(), ["simulate", .. scenario, "--out", folder]));
        return folder;
    }
}
