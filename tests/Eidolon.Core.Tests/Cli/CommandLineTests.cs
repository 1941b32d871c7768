using System.Text.Json.Nodes;
using Eidolon.Cli;
using Eidolon.StandIns.Characters;
using Eidolon.Testing;

namespace Eidolon.Core.Tests.Cli;

/// <summary>The contract: verbs, keys and exit codes, on files made by the stand-ins.</summary>
[Trait(LongRun.Run, LongRun.Whole)]
public sealed class CommandLineTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("eidolon-cli").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private string P(string name) => Path.Combine(_folder, name);

    private static int Run(params string[] args) => Runner.Run(Commands.Root(), args);

    private JsonNode Json(params string[] args)
    {
        Assert.Equal(0, Run([.. args, "--json", P("report.json")]));
        return JsonNode.Parse(File.ReadAllText(P("report.json")))!;
    }

    [Fact]
    public void The_characters_of_the_production_are_written_and_can_be_read()
    {
        Assert.Equal(0, Run("simulate", "characters", "--out", P("characters")));
        foreach (var name in new[] { "stevedore", "lamplighter" })
        {
            var said = Json("inspect", P($"characters/{name}.glb"));
            Assert.Equal("glb", (string)said["format"]!);
            Assert.True(((JsonArray)said["joints"]!).Count > 20);
        }
    }

    [Fact]
    public void A_day_at_the_shell()
    {
        Simulated.Into(P("rom"), "rom", "--take", "2");
        Simulated.Into(P("haul"), "haul-rope", "--performer", "Ines");
        Simulated.Thin(P("rom/labelled.c3d"), LongRun.Or(1, 3));
        Simulated.Cut(P("haul/raw.c3d"), LongRun.Or("0:9999", "0:700"));
        var labelled = Json(
            "label",
            P("haul/raw.c3d"),
            "--marker-set",
            P("haul/marker-set.json"),
            "--reference",
            P("rom/labelled.c3d"),
            "--out",
            P("named.c3d")
        );
        Assert.True((double)labelled["labelledFraction"]! > 0.97);
        var cleaned = Json("clean", P("named.c3d"), "--marker-set", P("haul/marker-set.json"), "--out", P("clean.c3d"));
        Assert.True(cleaned["markers"]!.AsArray().Sum(m => (int)m!["filledFrames"]!) > 20);
        var solved = Json(
            "solve",
            P("clean.c3d"),
            "--marker-set",
            P("haul/marker-set.json"),
            "--calibrate",
            P("rom/labelled.c3d"),
            "--performer-out",
            P("ines.json"),
            "--out",
            P("haul.bvh")
        );
        Assert.True((double)solved["residualMillimetres"]!["mean"]! < 4);
        Assert.Equal((int)Json("inspect", P("clean.c3d"))["frameCount"]!, (int)Json("inspect", P("haul.bvh"))["frameCount"]!);
        File.WriteAllBytes(P("stevedore.glb"), HarbourCharacters.Build("Stevedore"));
        var retargeted = Json("retarget", P("haul.bvh"), "--character", P("stevedore.glb"), "--out", P("out.glb"));
        Assert.All(retargeted["contacts"]!.AsArray(), c => Assert.True((double)c!["slideMillimetres"]! <= 1));
        // Body and face.
        Assert.Equal(2, (int)Json("inspect", P("out.glb"))["meshes"]!);
        var check = Json("check", P("out.glb"));
        Assert.True((double)check["footSlide"]!["meanMillimetresPerFrame"]! < 0.1);
        // The same performer file gives the same solve.
        Assert.Equal(
            0,
            Run("solve", P("clean.c3d"), "--marker-set", P("haul/marker-set.json"), "--performer", P("ines.json"), "--out", P("again.glb"))
        );
        var converted = Json("convert", P("out.glb"), P("thirty.bvh"), "--fps", "30", "--frames", "0:481");
        Assert.Equal(121, (int)converted["frames"]!);
        File.WriteAllText(
            P("plan.json"),
            """
            { "overlap": 30, "clips": [{ "file": "haul.bvh", "end": 200 }, { "file": "haul.bvh", "start": 300 }],
              "layers": [{ "joint": "Head", "keys": [{ "frame": 10, "x": 5 }] }] }
            """
        );
        Assert.Equal(0, Run("assemble", P("plan.json"), "--out", P("scene.bvh")));
    }

    [Fact]
    public void Suit_and_films_of_one_performance_are_solved_and_compared()
    {
        Simulated.Into(P("patrol"), "suit-patrol");
        // The poses and the first part of the walk; the long run has all of it.
        var seconds = LongRun.Or(60, 15);
        Simulated.Head(P("patrol/suit.csv"), seconds * 100);
        Simulated.Head(P("patrol/witness-1.csv"), LongRun.Or(60, 9) * 30);
        Simulated.Head(P("patrol/witness-2.csv"), LongRun.Or(60, 9) * 30);
        var suit = Json("solve-suit", P("patrol/suit.csv"), "--height", "1.71", "--out", P("suit.bvh"));
        Assert.Equal(LongRun.Or(2621, 1500), (int)suit["frames"]!);
        Assert.True((double)suit["travelMetres"]! > LongRun.Or(10, 3));
        Assert.True(suit["contacts"]!.AsArray().Count > LongRun.Or(20, 6));
        Assert.Equal(17, suit["gyroscopeBias"]!.AsObject().Count);
        Assert.All(suit["disturbed"]!.AsArray(), d => Assert.True((int)d!["end"]! >= (int)d["start"]!));
        var poses = suit["poses"]!.ToJsonString();
        File.WriteAllText(P("poses.json"), poses);
        var again = Json("solve-suit", P("patrol/suit.csv"), "--height", "1.71", "--poses", P("poses.json"), "--out", P("again.glb"));
        Assert.Equal((double)suit["travelMetres"]!, (double)again["travelMetres"]!, 0.05);
        // Pelvis over the origin at first, feet on the floor.
        var first = Json("sample", P("suit.bvh"), "--frames", "0:1")["frames"]![0]!["positions"]![0]!;
        Assert.Equal(0, (double)first[0]!, 0.001);
        Assert.Equal(0, (double)first[2]!, 0.001);
        var film = Json(
            "solve-video",
            P("patrol/witness-1.csv"),
            P("patrol/witness-2.csv"),
            "--cameras",
            P("patrol/witness-cameras.json"),
            "--height",
            "1.71",
            "--fps",
            "60",
            "--out",
            P("film.bvh")
        );
        Assert.Equal(2, film["offsetsSeconds"]!.AsArray().Count);
        Assert.Equal(60, (double)film["frameRate"]!);
        Assert.Equal((int)film["frames"]!, (int)Json("inspect", P("film.bvh"))["frameCount"]!);
        Assert.True((double)film["worst"]![0]!["pixels"]! >= (double)film["worst"]![1]!["pixels"]!);
        var compared = Json("compare", P("suit.bvh"), P("film.bvh"), "--align", "floor");
        Assert.True((double)compared["meanMillimetres"]! < 130);
        Assert.Contains(compared["joints"]!.AsArray(), j => (string)j!["role"]! == "HandL");
        Assert.NotNull(compared["measuresA"]!["footSlide"]);
        Assert.Equal(0, (int)Json("compare", P("suit.bvh"), P("suit.bvh"))["offsetFrames"]!);
    }

    [Theory]
    [InlineData("solve-suit", "gone.csv", "--height", "1.7", "--out", "x.bvh", 3)]
    [InlineData("solve-suit", "bad.csv", "--height", "1.7", "--out", "x.bvh", 3)]
    [InlineData("solve-suit", "bad.csv", "--height", "17", "--out", "x.bvh", 2)]
    [InlineData("solve-suit", "bad.csv", "--height", "1.7", "--out", "x.fbx", 2)]
    public void What_cannot_be_solved_leaves_nothing_behind(params object[] line)
    {
        File.WriteAllText(P("bad.csv"), "# samples, frameRate=100, units=rad/s m/s2 uT\nframe,Pelvis.gx\n0,1\n");
        string[] args =
        [
            .. line[..^1].Select(a => (string)a).Select(a => a.Contains('.', StringComparison.Ordinal) && !char.IsDigit(a[0]) ? P(a) : a),
        ];
        Assert.Equal((int)line[^1], Run(args));
        Assert.False(File.Exists(P("x.bvh")));
    }

    [Fact]
    public void Two_references_of_one_performer_are_one_performer()
    {
        Simulated.Into(P("rom"), "haul-rope", "--performer", "Ines");
        Simulated.Into(P("walk"), "rom", "--take", "2");
        Simulated.Into(P("hop"), "gangplank-hop", "--performer", "Ines");
        Assert.Equal(0, Run("convert", P("hop/raw.c3d"), P("raw.c3d"), "--frames", LongRun.Or("0:900", "60:240")));
        Json(
            "label",
            P("raw.c3d"),
            "--marker-set",
            P("hop/marker-set.json"),
            "--out",
            P("named.c3d"),
            "--reference",
            P("rom/labelled.c3d"),
            "--reference",
            P("walk/labelled.c3d")
        );
        var take = Core.Formats.MotionFiles.ReadMarkers(P("named.c3d")).Take;
        Assert.True(take.VisibleFrames(take.IndexOf("Crown")) > take.FrameCount / 2);
        Assert.DoesNotContain(take.Names, n => n.Contains(':', StringComparison.Ordinal));
    }

    [Fact]
    public void Samples_of_a_converted_file_agree()
    {
        Simulated.Into(P("hop"), "gangplank-hop", "--performer", "Ines");
        foreach (var (file, extra) in new[] { ("a.glb", Array.Empty<string>()), ("b.bvh", ["--units", "m"]), ("c.csv", []) })
        {
            Assert.Equal(0, Run(["convert", P("hop/truth.bvh"), P(file), .. extra]));
        }

        var truth = Json("sample", P("hop/truth.bvh"), "--frames", "100:900:200");
        foreach (var (file, extra) in new[] { ("a.glb", Array.Empty<string>()), ("b.bvh", ["--unit-scale", "1"]), ("c.csv", []) })
        {
            var sample = Json(["sample", P(file), "--frames", "100:900:200", .. extra]);
            Assert.Equal(4, sample["frames"]!.AsArray().Count);
            for (var f = 0; f < 4; f++)
            {
                Assert.Equal((int)truth["frames"]![f]!["frame"]!, (int)sample["frames"]![f]!["frame"]!);
                foreach (var (a, b) in truth["frames"]![f]!["positions"]!.AsArray().Zip(sample["frames"]![f]!["positions"]!.AsArray()))
                {
                    Assert.All(Enumerable.Range(0, 3), k => Assert.Equal((double)a![k]!, (double)b![k]!, 1e-5));
                }
            }
        }
    }

    [Theory]
    [InlineData(2, "inspect")]
    [InlineData(2, "frobnicate", "x")]
    [InlineData(2, "sample", "truth.bvh", "--frames", "a:b")]
    [InlineData(2, "solve", "labelled.c3d", "--marker-set", "marker-set.json", "--out", "x.bvh")]
    [InlineData(2, "convert", "labelled.c3d", "x.bvh")]
    [InlineData(2, "convert", "truth.bvh", "x.xyz")]
    [InlineData(2, "simulate", "tea-party", "--out", "x")]
    [InlineData(3, "inspect", "missing.bvh")]
    [InlineData(3, "inspect", "short.c3d")]
    [InlineData(3, "inspect", "noise.glb")]
    [InlineData(3, "solve", "labelled.c3d", "--marker-set", "truth.json", "--calibrate", "labelled.c3d", "--out", "x.bvh")]
    [InlineData(3, "retarget", "truth.bvh", "--character", "labelled.c3d", "--out", "x.bvh")]
    [InlineData(3, "label", "raw.c3d", "--marker-set", "other-set.json", "--reference", "labelled.c3d", "--out", "x.c3d")]
    public void Exit_codes_tell_wrong_arguments_from_broken_input(int expected, params string[] args)
    {
        Simulated.Into(_folder, "gangplank-hop", "--performer", "Ines");
        File.WriteAllBytes(P("short.c3d"), File.ReadAllBytes(P("labelled.c3d"))[..3000]);
        File.WriteAllText(P("noise.glb"), "this is no model");
        File.WriteAllText(P("other-set.json"), """{ "name": "other", "markers": [{ "name": "Nose", "segment": "Head" }] }""");
        var before = Directory.GetFiles(_folder).Length;
        Assert.Equal(expected, Run([.. args.Select(a => a.Contains('.', StringComparison.Ordinal) ? P(a) : a)]));
        Assert.Equal(before, Directory.GetFiles(_folder).Length);
    }

    [Fact]
    public void Jitter_that_a_rate_cannot_tell_is_said_so()
    {
        Simulated.Into(P("slow"), "haul-rope", "--performer", "Ines");
        var motion = Directory.GetFiles(P("slow"), "*.bvh", SearchOption.AllDirectories)[0];
        Assert.Equal(0, Run("convert", motion, P("slow24.bvh"), "--fps", "24"));
        var check = Json("check", P("slow24.bvh"));
        Assert.Null(check["jitter"]);
        Assert.Equal("not measurable at this rate", (string?)check["jitterNote"]);
    }

    [Fact]
    public void A_strict_check_that_fails_exits_with_four()
    {
        Simulated.Into(P("h"), "haul-rope", "--performer", "Ines");
        Assert.Equal(4, Run("check", P("h/labelled.c3d"), "--strict"));
    }
}
