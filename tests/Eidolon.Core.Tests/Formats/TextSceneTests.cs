using System.Globalization;
using System.Numerics;
using System.Text;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Eidolon.Cli;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Usd;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Formats;

/// <summary>Scenes as text: glTF with its buffers embedded, USD.</summary>
public sealed class TextSceneTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("eidolon-text").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private string P(string name) => Path.Combine(_folder, name);

    private static int Run(params string[] args) => Runner.Run(Commands.Root(), args);

    private Motion Written()
    {
        var motion = Samples.Random(5, joints: 7, frames: 9);
        MotionFiles.WriteMotion(P("in.glb"), motion);
        return motion;
    }

    [Fact]
    public void A_motion_is_the_same_after_text_gltf()
    {
        var motion = Written();
        Assert.Equal(0, Run("convert", P("in.glb"), P("out.gltf")));
        var root = JsonNode.Parse(File.ReadAllText(P("out.gltf")))!;
        Assert.StartsWith("data:application/octet-stream;base64,", (string)root["buffers"]![0]!["uri"]!, StringComparison.Ordinal);
        Assert.Single(Directory.GetFiles(_folder, "out*"));
        Assert.InRange(Samples.Worst(motion, MotionFiles.ReadMotion(P("out.gltf"))), 0, 0.01);
        Assert.Equal(0, Run("convert", P("out.gltf"), P("back.glb")));
        Assert.InRange(Samples.Worst(motion, MotionFiles.ReadMotion(P("back.glb"))), 0, 0.01);
    }

    [Fact]
    public void A_character_keeps_its_mesh_in_text_gltf()
    {
        File.WriteAllBytes(P("who.glb"), HarbourCharacters.Build("Lamplighter"));
        Assert.Equal(0, Run("convert", P("who.glb"), P("who.gltf")));
        JsonNode Of(string file)
        {
            Assert.Equal(0, Run("inspect", file, "--json", P("report.json")));
            return JsonNode.Parse(File.ReadAllText(P("report.json")))!;
        }

        var (glb, gltf) = (Of(P("who.glb")), Of(P("who.gltf")));
        Assert.Equal(("glb", "gltf"), ((string)glb["format"]!, (string)gltf["format"]!));
        Assert.True((int)gltf["meshes"]! > 0);
        foreach (var key in new[] { "meshes", "morphTargets", "joints" })
        {
            Assert.Equal(glb[key]!.ToJsonString(), gltf[key]!.ToJsonString());
        }
    }

    [Fact]
    public void A_character_that_came_as_text_keeps_its_mesh_wherever_it_goes()
    {
        File.WriteAllBytes(P("who.glb"), HarbourCharacters.Build("Stevedore"));
        Assert.Equal(0, Run("convert", P("who.glb"), P("who.gltf")));
        MotionFiles.WriteMotion(P("walk.bvh"), Acts.Perform("lamp-walk", HarbourCast.Ines, 1, 30).Actors[0].Motion);
        int Meshes(string file)
        {
            Assert.Equal(0, Run("inspect", file, "--json", P("report.json")));
            return (int)JsonNode.Parse(File.ReadAllText(P("report.json")))!["meshes"]!;
        }

        var own = Meshes(P("who.glb"));
        Assert.True(own > 0);
        Assert.Equal(0, Run("convert", P("who.gltf"), P("back.glb")));
        Assert.Equal(0, Run("retarget", P("walk.bvh"), "--character", P("who.gltf"), "--out", P("walks.glb")));
        Assert.Equal(0, Run("rig", P("who.gltf"), "--straighten", "--out", P("straight.glb")));
        Assert.Equal([own, own, own], new[] { "back.glb", "walks.glb", "straight.glb" }.Select(f => Meshes(P(f))));
        Assert.True(MotionFiles.ReadMotion(P("walks.glb")).FrameCount > 100);
    }

    private static string Usda(Motion motion, double metres = 1, char up = 'Y')
    {
        using var stream = new MemoryStream();
        UsdaWriter.Write(stream, motion, metres, up);
        return Encoding.UTF8.GetString(stream.ToArray());
    }

    /// <summary>The numbers of one frame of an attribute.</summary>
    private static float[] Sample(string text, string attribute, int time)
    {
        var block = text[text.IndexOf(attribute + ".timeSamples", StringComparison.Ordinal)..];
        block = block[..block.IndexOf("\n            }", StringComparison.Ordinal)];
        var line = block.Split('\n').Single(l => l.TrimStart().StartsWith($"{time}: ", StringComparison.Ordinal));
        return
        [
            .. Regex
                .Matches(line[(line.IndexOf(':', StringComparison.Ordinal) + 1)..], @"-?\d+(\.\d+)?(E-?\d+)?")
                .Select(m => float.Parse(m.Value, CultureInfo.InvariantCulture)),
        ];
    }

    [Fact]
    public void Usd_holds_every_turn_and_place_with_its_units()
    {
        var motion = Samples.Random(8, joints: 4, frames: 3);
        motion = new Motion(motion.Skeleton, motion.FrameRate, motion.FrameCount, motion.Rotations, motion.Translations)
        {
            FirstFrame = 100,
            Morphs = new Dictionary<string, float[]> { ["AU26"] = [0, 0.5f, 1], ["AU 12L"] = [0.25f, 0, 0] },
        };
        var text = Usda(motion, 0.01);
        Assert.StartsWith("#usda 1.0\n", text, StringComparison.Ordinal);
        foreach (
            var said in new[]
            {
                "metersPerUnit = 0.01",
                "upAxis = \"Y\"",
                "startTimeCode = 100",
                "endTimeCode = 102",
                "timeCodesPerSecond = 120",
                "defaultPrim = \"Root\"",
                "rel skel:animationSource = </Root/Skeleton/Animation>",
                "uniform token[] blendShapes = [\"AU26\", \"AU_12L\"]",
            }
        )
        {
            Assert.Contains(said, text, StringComparison.Ordinal);
        }

        for (var f = 0; f < 3; f++)
        {
            var (turns, places) = (Sample(text, "rotations", 100 + f), Sample(text, "translations", 100 + f));
            for (var j = 0; j < 4; j++)
            {
                var q = motion.RotationsAt(f)[j];
                Assert.Equal([q.W, q.X, q.Y, q.Z], turns.AsSpan(j * 4, 4).ToArray());
                var p = motion.TranslationsAt(f)[j] * 100;
                Assert.Equal([p.X, p.Y, p.Z], places.AsSpan(j * 3, 3).ToArray());
            }
        }

        Assert.Equal([1, 0], Sample(text, "blendShapeWeights", 102));
        Assert.Equal(text.Count(c => c == '{'), text.Count(c => c == '}'));
        Assert.Equal(text.Count(c => c == '('), text.Count(c => c == ')'));
    }

    [Fact]
    public void Joints_of_usd_have_names_the_format_allows_and_no_two_alike()
    {
        var s = new Skeleton([
            new Joint("hips:main", -1, Vector3.UnitY),
            new Joint("1.spine", 0, Vector3.UnitY),
            new Joint("hips main", 0, Vector3.UnitX),
            new Joint("Hüfte", 2, Vector3.UnitX),
        ]);
        var text = Usda(new Motion(s, 30, 1, [.. Enumerable.Repeat(Quaternion.Identity, 4)], [.. s.Joints.Select(j => j.Offset)]));
        Assert.Contains(
            "uniform token[] joints = [\"hips_main\", \"hips_main/_1_spine\", \"hips_main/hips_main_2\", \"hips_main/hips_main_2/H_fte\"]",
            text,
            StringComparison.Ordinal
        );
        // Bound where it rests in the world, resting against its parent.
        Assert.Contains(
            "bindTransforms = [( (1, 0, 0, 0), (0, 1, 0, 0), (0, 0, 1, 0), (0, 1, 0, 1) ), ( (1, 0, 0, 0), (0, 1, 0, 0), (0, 0, 1, 0), (0, 2, 0, 1) )",
            text,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "restTransforms = [( (1, 0, 0, 0), (0, 1, 0, 0), (0, 0, 1, 0), (0, 1, 0, 1) ), ( (1, 0, 0, 0), (0, 1, 0, 0), (0, 0, 1, 0), (0, 1, 0, 1) )",
            text,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void Usd_is_written_with_another_axis_upright_and_other_units()
    {
        var motion = Written();
        Assert.Equal(0, Run("convert", P("in.glb"), P("out.usda"), "--units", "cm", "--up", "Z"));
        var text = File.ReadAllText(P("out.usda"));
        Assert.Contains("metersPerUnit = 0.01", text, StringComparison.Ordinal);
        Assert.Contains("upAxis = \"Z\"", text, StringComparison.Ordinal);
        var read = MotionFiles.ReadMotion(P("in.glb"));
        var root = Sample(text, "translations", read.FirstFrame)[..3];
        var p = read.TranslationsAt(0)[0] * 100;
        // Y up becomes Z up: what was ahead is now behind.
        Assert.Equal([p.X, -p.Z, p.Y], root, (a, b) => Math.Abs(a - b) < 1e-3f);
        Assert.Equal(
            motion.FrameCount,
            Regex
                .Matches(
                    text[
                        text.IndexOf("rotations.timeSamples", StringComparison.Ordinal)..text.IndexOf(
                            "translations.timeSamples",
                            StringComparison.Ordinal
                        )
                    ],
                    "\n +\\d+: "
                )
                .Count
        );
        Assert.Equal(2, Run("convert", P("in.glb"), P("out.obj")));
    }
}
