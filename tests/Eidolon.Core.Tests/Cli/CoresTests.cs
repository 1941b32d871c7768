using System.Diagnostics;
using Eidolon.Cli;
using Eidolon.StandIns.Characters;
using Eidolon.Testing;

namespace Eidolon.Core.Tests.Cli;

/// <summary>What comes out does not depend on how many cores there are: each verb writes the same bytes on one and on four.</summary>
[Trait(LongRun.Run, LongRun.Whole)]
public sealed class CoresTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("eidolon-cores").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private string P(string name) => Path.Combine(_folder, name);

    [Fact]
    public async Task Every_verb_writes_the_same_bytes_on_one_core_and_on_several()
    {
        Simulated.Into(P("rom"), "rom", "--take", "2");
        Simulated.Into(P("hop"), "gangplank-hop", "--performer", "Ines");
        Simulated.Thin(P("rom/labelled.c3d"), LongRun.Or(1, 4));
        Here("convert", P("hop/raw.c3d"), P("raw.c3d"), "--frames", LongRun.Or("120:480", "120:200"));
        var centroids = File.ReadLines(P("hop/centroids.csv"));
        await File.WriteAllLinesAsync(P("centroids.csv"), LongRun.On ? centroids : centroids.Take(30_000));
        await File.WriteAllBytesAsync(P("stevedore.glb"), HarbourCharacters.Build("Stevedore"));
        var set = P("hop/marker-set.json");
        Here(
            "solve",
            P("rom/labelled.c3d"),
            "--marker-set",
            set,
            "--calibrate",
            P("rom/labelled.c3d"),
            "--performer-out",
            P("ines.json"),
            "--out",
            P("rom.bvh")
        );
        // Each verb works on what the one before it wrote here, on the cores there are; once more in a process that has one.
        string[][] verbs =
        [
            ["reconstruct", P("centroids.csv"), "--cameras", P("hop/cameras-truth.json"), "--out", P("dots.c3d")],
            ["label", P("raw.c3d"), "--marker-set", set, "--reference", P("rom/labelled.c3d"), "--out", P("named.c3d")],
            ["clean", P("named.c3d"), "--marker-set", set, "--out", P("clean.c3d")],
            .. LongRun.Or<string[][]>(
                [
                    ["solve", P("clean.c3d"), "--marker-set", set, "--calibrate", P("rom/labelled.c3d"), "--out", P("hop.bvh")],
                ],
                [
                    ["solve", P("clean.c3d"), "--marker-set", set, "--performer", P("ines.json"), "--out", P("hop.bvh")],
                ]
            ),
            ["retarget", P("hop.bvh"), "--character", P("stevedore.glb"), "--out", P("out.glb")],
        ];
        Assert.True(Environment.ProcessorCount > 1, "this machine has one core: nothing is told");
        foreach (var verb in verbs)
        {
            Here(verb);
        }

        foreach (var verb in verbs)
        {
            var name = Path.GetFileName(verb[^1]);
            await Alone([.. verb[..^1], P("one-" + name)]);
            var (several, one) = (await File.ReadAllBytesAsync(P(name)), await File.ReadAllBytesAsync(P("one-" + name)));
            Assert.True(several.Length > 1000, name);
            Assert.True(several.AsSpan().SequenceEqual(one), $"{name} is another on one core");
        }
    }

    private static void Here(params string[] args) => Assert.Equal(0, Runner.Run(Commands.Root(), args));

    private static async Task Alone(string[] args)
    {
        var start = new ProcessStartInfo("dotnet", [Path.Combine(AppContext.BaseDirectory, "eidolon-cli.dll"), .. args])
        {
            RedirectStandardError = true,
            RedirectStandardOutput = true,
        };
        start.Environment["DOTNET_PROCESSOR_COUNT"] = "1";
        using var process = Process.Start(start)!;
        var said = process.StandardError.ReadToEndAsync();
        _ = process.StandardOutput.ReadToEndAsync();
        await process.WaitForExitAsync();
        Assert.True(process.ExitCode == 0, $"{args[0]} on one core: {await said}");
    }
}
