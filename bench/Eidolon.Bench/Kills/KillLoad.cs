using System.Diagnostics;
using System.Globalization;

namespace Eidolon.Bench.Kills;

/// <summary>
/// Kills the studio (SIGKILL) at random moments of everything it does, and looks after each kill whether every take opens, nothing was done twice,
/// nothing older than half a second is lost and the databases are sound.
/// </summary>
internal static class KillLoad
{
    private sealed record Tally(int Kills, int Closed, int Twice, int Lost, int Unsound)
    {
        public Tally With(KillCheck.Found f) =>
            new(Kills + 1, Closed + f.Closed, Twice + f.Twice, Lost + f.Lost, Unsound + (f.Sound ? 0 : 1));
    }

    /// <param name="demo">A folder with the demo production; a copy of it is worked on.</param>
    /// <param name="only">One kind alone; all in turn when null.</param>
    public static async Task Run(string demo, int kills, string? only = null)
    {
        var data = Path.Combine(Path.GetTempPath(), $"eidolon-kills-{Environment.ProcessId}");
        var first = data + "-first";
        Copy(new DirectoryInfo(demo), data);
        var random = new Random(41);
        var kinds = KillKinds.All(data, first, random).Where(k => only is null || k.Name == only).ToList();
        var tallies = kinds.ToDictionary(k => k.Name, _ => new Tally(0, 0, 0, 0, 0));
        var clock = Stopwatch.StartNew();
        for (var k = 0; k < kills; k++)
        {
            var kind = kinds[k % kinds.Count];
            var (folder, expected) = await kind.Kill(k);
            var found = await KillCheck.Look(folder, expected, isDemo: folder == first);
            tallies[kind.Name] = tallies[kind.Name].With(found);
            if (found is not { Closed: 0, Twice: 0, Lost: 0, Sound: true })
            {
                Console.WriteLine($"  kill {k + 1}, {kind.Name}: {found.Words}");
            }
        }

        Console.WriteLine($"{"kind", -12}{"kills", 7}{"do not open", 13}{"twice", 8}{"lost", 7}{"unsound", 9}");
        foreach (var (name, t) in tallies)
        {
            Console.WriteLine($"{name, -12}{t.Kills, 7}{t.Closed, 13}{t.Twice, 8}{t.Lost, 7}{t.Unsound, 9}");
        }

        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{kills} kills in {clock.Elapsed.TotalMinutes:0.0} minutes"));
        Directory.Delete(data, recursive: true);
        if (Directory.Exists(first))
        {
            Directory.Delete(first, recursive: true);
        }
    }

    private static void Copy(DirectoryInfo from, string to)
    {
        Directory.CreateDirectory(to);
        foreach (var file in from.GetFiles().Where(f => f.Name != "lock"))
        {
            file.CopyTo(Path.Combine(to, file.Name), overwrite: true);
        }

        foreach (var folder in from.GetDirectories().Where(d => d.Name != "log"))
        {
            Copy(folder, Path.Combine(to, folder.Name));
        }
    }
}
