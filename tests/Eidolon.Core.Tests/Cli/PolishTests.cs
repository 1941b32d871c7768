using System.Text.Json.Nodes;
using Eidolon.Cli;
using Eidolon.StandIns.Characters;
using Eidolon.Testing;

namespace Eidolon.Core.Tests.Cli;

[Trait(LongRun.Run, LongRun.Whole)]
public sealed class PolishTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("eidolon-polish").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private string P(string name) => Path.Combine(_folder, name);

    private static int Run(params string[] args) => Runner.Run(Commands.Root(), args);

    [Fact]
    public async Task Push_out_frees_the_arms_of_a_retargeted_motion()
    {
        Simulated.Into(P("carry"), "crate-carry");
        await File.WriteAllBytesAsync(P("s.glb"), HarbourCharacters.Build("Stevedore"));
        await File.WriteAllBytesAsync(P("l.glb"), HarbourCharacters.Build("Lamplighter"));
        var performer = Directory.GetFiles(P("carry"), "truth-*.bvh")[0];
        Assert.Equal(0, Run("retarget", performer, "--character", P("s.glb"), "--out", P("played.glb"), "--json", P("r.json")));
        var clipping = JsonNode.Parse(await File.ReadAllTextAsync(P("r.json")))!["clipping"]!.AsArray();
        Assert.True(clipping.Max(c => (double)c!["depthMillimetres"]!) > 30);
        Assert.Equal(
            0,
            Run("polish", "push-out", P("played.glb"), "--character", P("s.glb"), "--out", P("out.glb"), "--json", P("p.json"))
        );
        var told = JsonNode.Parse(await File.ReadAllTextAsync(P("p.json")))!;
        Assert.Equal(clipping.Count, (int)told["framesBefore"]!);
        Assert.True((double)told["depthAfterMillimetres"]! < 15);
        Assert.True((double)told["handMovedMillimetres"]! > 10);
        // Done once, it is done.
        Assert.Equal(0, Run("polish", "push-out", P("out.glb"), "--character", P("s.glb"), "--out", P("again.glb"), "--json", P("q.json")));
        var again = JsonNode.Parse(await File.ReadAllTextAsync(P("q.json")))!;
        Assert.True(Math.Abs((int)again["framesBefore"]! - (int)told["framesAfter"]!) < 10);
        // A motion of somebody else is refused, and nothing is written.
        Assert.Equal(3, Run("polish", "push-out", P("played.glb"), "--character", P("l.glb"), "--out", P("no.glb")));
        Assert.False(File.Exists(P("no.glb")));
    }
}
