using System.Text;
using System.Text.Json.Nodes;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;

namespace Eidolon.Core.Tests.Formats;

public sealed class GltfTests
{
    private static byte[] Write(Motion motion)
    {
        using var stream = new MemoryStream();
        GltfWriter.WriteSkeleton(stream, motion);
        return stream.ToArray();
    }

    [Fact]
    public void Round_trip_moves_no_joint_by_a_hundredth_of_a_millimetre()
    {
        for (var seed = 0; seed < 10; seed++)
        {
            var motion = Samples.Random(seed, 12, 25);
            var back = GltfReader.Read(Write(motion), "x.glb");
            Assert.Equal(120, back.FrameRate);
            Assert.True(Samples.Worst(motion, back) < 0.01);
        }
    }

    [Theory]
    [InlineData("Stevedore")]
    [InlineData("Lamplighter")]
    public void A_character_keeps_its_skin_and_takes_a_motion(string name)
    {
        var glb = HarbourCharacters.Build(name);
        var rest = GltfReader.Read(glb, name + ".glb");
        var motion = new Motion(rest.Skeleton, 60, 30);
        var random = new Random(4);
        for (var k = 0; k < motion.Rotations.Length; k++)
        {
            var j = k % rest.Skeleton.Count;
            motion.Rotations[k] =
                rest.Skeleton[j].RestRotation * Core.Geometry.Rotations.Exp(new System.Numerics.Vector3(random.NextSingle() * 0.4f));
            motion.Translations[k] = rest.Skeleton[j].Offset;
        }

        using var stream = new MemoryStream();
        GltfWriter.WriteCharacter(stream, glb, name, motion);
        var model = GltfReader.Open(stream.ToArray(), "out.glb");
        Assert.Equal([$"{name}_body", $"{name}_face"], model.LogicalMeshes.Select(m => m.Name));
        Assert.Single(model.LogicalSkins);
        Assert.Single(model.LogicalAnimations);
        Assert.True(Samples.Worst(motion, GltfReader.Read(stream.ToArray(), "out.glb")) < 0.01);
        // A second motion takes the first one's place.
        using var again = new MemoryStream();
        GltfWriter.WriteCharacter(again, stream.ToArray(), name, motion);
        Assert.Single(GltfReader.Open(again.ToArray(), "again.glb").LogicalAnimations);
    }

    [Fact]
    public void A_scaled_and_turned_parent_is_folded_in_and_led_back_out()
    {
        var motion = Samples.Random(7, 6, 8, moving: false);
        var json = Json(Write(motion), out var rest);
        // The habit of some tools: a node above the skeleton in centimetres, lying on its back.
        var nodes = json["nodes"]!.AsArray();
        nodes.Add(
            new JsonObject
            {
                ["name"] = "rig",
                ["scale"] = new JsonArray(0.01, 0.01, 0.01),
                ["rotation"] = new JsonArray(-0.70710678, 0, 0, 0.70710678),
                ["children"] = new JsonArray(0),
            }
        );
        json["scenes"]![0]!["nodes"] = new JsonArray(nodes.Count - 1);
        var folded = Pack(json, rest);
        var back = GltfReader.Read(folded, "folded.glb");
        Assert.Equal(motion.Skeleton.Count, back.Skeleton.Count);
        var turned = MotionEdits.Turn(MotionEdits.Scale(motion, 0.01f), Core.Geometry.Rotations.AboutAxis(0, -Math.PI / 2));
        Assert.True(Samples.Worst(turned, back) < 0.01);
        using var stream = new MemoryStream();
        GltfWriter.WriteCharacter(stream, folded, "folded.glb", back);
        Assert.True(Samples.Worst(back, GltfReader.Read(stream.ToArray(), "again.glb")) < 0.01);
    }

    [Fact]
    public void A_gigabyte_claimed_in_a_small_file_is_refused()
    {
        var json = Json(Write(Samples.Random(1)), out var rest);
        json["accessors"]![0]!["count"] = 1_000_000_000;
        json["accessors"]![0]!.AsObject().Remove("bufferView");
        var bytes = Pack(json, rest);
        var before = GC.GetAllocatedBytesForCurrentThread();
        Assert.Throws<InvalidInputException>(() => GltfReader.Read(bytes, "huge.glb"));
        Assert.True(GC.GetAllocatedBytesForCurrentThread() - before < 4 << 20);
    }

    [Fact]
    public void Noise_is_refused_with_one_kind_of_error_or_read()
    {
        foreach (var bytes in Samples.Broken(Write(Samples.Random(5, 8, 20)), 400, 3))
        {
            try
            {
                GltfReader.Read(bytes, "noise.glb");
            }
            catch (InvalidInputException e)
            {
                Assert.DoesNotContain('\n', e.Message);
            }
        }
    }

    private static JsonObject Json(byte[] glb, out byte[] rest)
    {
        var length = BitConverter.ToInt32(glb, 12);
        rest = glb[(20 + length)..];
        return JsonNode.Parse(glb.AsSpan(20, length))!.AsObject();
    }

    private static byte[] Pack(JsonObject json, byte[] rest)
    {
        var text = Encoding.UTF8.GetBytes(json.ToJsonString()).ToList();
        while (text.Count % 4 != 0)
        {
            text.Add((byte)' ');
        }

        return
        [
            .. "glTF"u8,
            .. BitConverter.GetBytes(2),
            .. BitConverter.GetBytes(20 + text.Count + rest.Length),
            .. BitConverter.GetBytes(text.Count),
            .. "JSON"u8,
            .. text,
            .. rest,
        ];
    }
}
