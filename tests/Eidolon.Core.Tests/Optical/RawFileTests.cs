using System.Text;
using CsCheck;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Geometry;
using Eidolon.Core.Optical;
using Eidolon.StandIns.Optical;

namespace Eidolon.Core.Tests.Optical;

public sealed class RawFileTests
{
    private static byte[] Written(CentroidTake take)
    {
        using var s = new MemoryStream();
        CentroidCsv.Write(s, take);
        return s.ToArray();
    }

    [Fact]
    public void Centroids_come_back() =>
        Gen.Int[0, 1 << 20]
            .Sample(
                seed =>
                {
                    var random = new Random(seed);
                    var builder = new CentroidTakeBuilder(3, 120);
                    for (var i = 0; i < 3 * 20; i++)
                    {
                        var n = random.Next(3) == 0 ? 0 : random.Next(9);
                        builder.Add(
                            [.. Enumerable.Range(0, n).Select(_ => random.NextSingle() * 2000)],
                            [.. Enumerable.Range(0, n).Select(_ => random.NextSingle() * 1500)]
                        );
                    }

                    var take = builder.Build();
                    var back = CentroidCsv.Read(Written(take), "a.csv");
                    Assert.Equal((take.CameraCount, take.FrameCount, take.FrameRate), (back.CameraCount, back.FrameCount, back.FrameRate));
                    Assert.Equal(take.Offsets, back.Offsets);
                    Assert.All(take.U.Zip(back.U), p => Assert.True(MathF.Abs(p.First - p.Second) < 0.001f));
                },
                iter: 50
            );

    [Theory]
    [InlineData("frame,camera\n", "line 1")]
    [InlineData("# centroids, frameRate=120, cameras=999999, frames=1\nframe,camera,u,v\n", "line 1")]
    [InlineData("# centroids, frameRate=120, cameras=2, frames=1\nu,v\n", "line 2")]
    [InlineData("# centroids, frameRate=120, cameras=2, frames=1\nframe,camera,u,v\n0,2,1,1\n", "line 3")]
    [InlineData("# centroids, frameRate=120, cameras=2, frames=2\nframe,camera,u,v\n1,0,1,1\n0,0,1,1\n", "line 4")]
    [InlineData("# centroids, frameRate=120, cameras=2, frames=1\nframe,camera,u,v\n0,0,1\n", "no v")]
    [InlineData("# centroids, frameRate=120, cameras=2, frames=1\nframe,camera,u,v\n0,0,1,x\n", "not a number")]
    [InlineData("# centroids, frameRate=120, cameras=2, frames=1\nframe,camera,u,v\n0;0;1;1\n", "comma")]
    public void A_broken_table_names_the_line(string text, string expected) =>
        Assert.Contains(
            expected,
            Assert.Throws<InvalidInputException>(() => CentroidCsv.Read(Encoding.UTF8.GetBytes(text), "wand.csv")).Message,
            StringComparison.Ordinal
        );

    [Fact]
    public void Random_damage_is_read_or_refused()
    {
        var good = Written(PictureSimulator.See(WandWave.Wave(0.5), HarbourRing.True(), 1));
        Gen.Select(Gen.Int[0, good.Length - 1], Gen.Byte, Gen.Int[1, good.Length])
            .Sample(
                (at, value, length) =>
                {
                    var bytes = good.AsSpan(0, length).ToArray();
                    bytes[at % length] = value;
                    try
                    {
                        CentroidCsv.Read(bytes, "wand.csv");
                    }
                    catch (InvalidInputException e)
                    {
                        Assert.StartsWith("wand.csv", e.Message, StringComparison.Ordinal);
                    }
                },
                iter: 300
            );
    }

    [Fact]
    public void Cameras_come_back_exactly()
    {
        var ring = HarbourRing.True();
        var back = CameraRingJson.Read(Encoding.UTF8.GetBytes(CameraRingJson.Write(ring)), "ring.json");
        Assert.All(ring.Cameras.Zip(back.Cameras), p => Assert.Equal(p.First, p.Second));
    }

    [Theory]
    [InlineData("{\"cameras\":[]}", "at least two")]
    [InlineData("{\"cameras\":[{\"name\":\"1\",\"width\":0,\"height\":100,\"focal\":100}]}", "16 to 65536")]
    [InlineData(
        "{\"cameras\":[{\"name\":\"1\",\"width\":100,\"height\":100,\"focal\":100,\"rotation\":[1,0,0,0,1,0,0,0,2],\"translation\":[0,0,0]}]}",
        "not a rotation"
    )]
    [InlineData(
        "{\"cameras\":[{\"name\":\"1\",\"width\":100,\"height\":100,\"focal\":100,\"rotation\":[1,0,0,0,1,0,0,0,1]}]}",
        "no translation"
    )]
    [InlineData("{\"cameras\":7}", "'cameras' is missing")]
    public void A_broken_camera_file_says_why(string json, string expected) =>
        Assert.Contains(
            expected,
            Assert.Throws<InvalidInputException>(() => CameraRingJson.Read(Encoding.UTF8.GetBytes(json), "ring.json")).Message,
            StringComparison.Ordinal
        );

    [Fact]
    public void Lenses_bend_and_unbend_to_the_same_pixel() =>
        Gen.Select(Gen.Double[0, 2047], Gen.Double[0, 1535], Gen.Int[0, 11])
            .Sample(
                (u, v, c) =>
                {
                    var camera = HarbourRing.True().Cameras[c];
                    var (x, y) = camera.Undistort(u, v);
                    var (bu, bv) = camera.Distort(x, y);
                    Assert.True(Math.Abs(bu - u) < 1e-6 && Math.Abs(bv - v) < 1e-6);
                }
            );

    [Fact]
    public void A_moved_world_changes_no_picture() =>
        Gen.Select(Gen.Double[-2, 2], Gen.Double[0, 2], Gen.Double[-2, 2], Gen.Double[-3, 3])
            .Sample(
                (x, y, z, turn) =>
                {
                    var camera = HarbourRing.True().Cameras[4];
                    var r = Matrix3d.FromRotationVector(new Vector3d(0.3 * turn, turn, -0.2 * turn));
                    var move = new Vector3d(turn, 0.5, -turn);
                    var p = new Vector3d(x, y, z);
                    var a = camera.TryProject(p, out var u, out var v);
                    var b = camera.InMovedWorld(r, move).TryProject((r * p) + move, out var u2, out var v2);
                    Assert.Equal(a, b);
                    Assert.True(!a || (Math.Abs(u - u2) < 1e-6 && Math.Abs(v - v2) < 1e-6));
                }
            );
}
