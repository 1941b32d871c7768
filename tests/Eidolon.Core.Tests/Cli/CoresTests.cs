using System.Diagnostics;
using Eidolon.Cli;
using Eidolon.StandIns.Characters;
using Eidolon.Testing;

namespace Eidolon.Core.Tests.Cli;

/// <summary>What comes out does not depend on how many cores there are: each verb writes the same bytes on one and on four.</summary>
public sealed class CoresTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("eidolon-cores").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private string P(string name) => Path.Combine(_folder, name);

    [Fact]
    public async Task Every_verb_writes_the_same_bytes_on_one_and_on_four_cores()
    {
        Simulated.Into(P("rom"), "rom", "--take", "2");
        Simulated.Into(P("hop"), "gangplank-hop", "--performer", "Ines");
        Assert.Equal(0, Runner.Run(Commands.Root(), ["convert", P("hop/raw.c3d"), P("raw.c3d"), "--frames", LongRun.Or("120:480", "120:200")]));
        // The part of the range of motion in which arms and legs bend; the pose at its beginning with it.
        Assert.Equal(0, Runner.Run(Commands.Root(), ["convert", P("rom/labelled.c3d"), P("rom.c3d"), "--fps", LongRun.Or("120", "60")]));
        var centroids = File.ReadLines(P("hop/centroids.csv"));
        await File.WriteAllLinesAsync(P("centroids.csv"), LongRun.On ? centroids : centroids.Take(60_000));
        await File.WriteAllBytesAsync(P("stevedore.glb"), HarbourCharacters.Build("Stevedore"));
        var made = new Dictionary<string, byte[]>();
        foreach (var cores in new[] { 1, 4 })
        {
            var set = P("hop/marker-set.json");
            await Run(cores, "reconstruct", P("centroids.csv"), "--cameras", P("hop/cameras-truth.json"), "--out", P("dots.c3d"));
            await Run(cores, "label", P("raw.c3d"), "--marker-set", set, "--reference", P("rom.c3d"), "--out", P("named.c3d"));
            await Run(cores, "clean", P("named.c3d"), "--marker-set", set, "--out", P("clean.c3d"));
            await Run(cores, "solve", P("clean.c3d"), "--marker-set", set, "--calibrate", P("rom.c3d"), "--out", P("hop.bvh"));
            await Run(cores, "retarget", P("hop.bvh"), "--character", P("stevedore.glb"), "--out", P("out.glb"));
            foreach (var name in new[] { "dots.c3d", "named.c3d", "clean.c3d", "hop.bvh", "out.glb" })
            {
                var bytes = await File.ReadAllBytesAsync(P(name));
                Assert.True(bytes.Length > 1000, name);
                Assert.True(!made.TryGetValue(name, out var before) || before.AsSpan().SequenceEqual(bytes), $"{name} on {cores} cores");
                made[name] = bytes;
                File.Delete(P(name));
            }
        }
    }

    private static async Task Run(int cores, params string[] args)
    {
        var start = new ProcessStartInfo("dotnet", [Path.Combine(AppContext.BaseDirectory, "eidolon-cli.dll"), .. args])
        {
            RedirectStandardError = true,
            RedirectStandardOutput = true,
        };
        start.Environment["DOTNET_PROCESSOR_COUNT"] = cores.ToString(System.Globalization.CultureInfo.InvariantCulture);
        using var process = Process.Start(start)!;
        var said = process.StandardError.ReadToEndAsync();
        _ = process.StandardOutput.ReadToEndAsync();
        await process.WaitForExitAsync();
        Assert.True(process.ExitCode == 0, $"{args[0]} on {cores}: {await said}");
    }
}
