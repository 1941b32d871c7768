using System.Text;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.C3d;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Tests.Formats;

/// <summary>Files made to do harm: each is refused with file, place and reason, in little time and memory. `./eidolon bench fuzz` looks for more.</summary>
public sealed class HostileFileTests
{
    /// <summary>Reads something that must be refused, within 20 × its size and 64 MB, and within ten seconds.</summary>
    private static InvalidInputException Refused(byte[] bytes, Action<byte[]> read)
    {
        var before = GC.GetAllocatedBytesForCurrentThread();
        var clock = System.Diagnostics.Stopwatch.StartNew();
        var e = Assert.Throws<InvalidInputException>(() => read(bytes));
        Assert.True(e.Place.Length > 0 && e.Reason.Length > 5, e.Message);
        Within(bytes, before, clock);
        return e;
    }

    private static void Within(byte[] bytes, long before, System.Diagnostics.Stopwatch clock)
    {
        var allocated = GC.GetAllocatedBytesForCurrentThread() - before;
        Assert.True(allocated < (20L * bytes.Length) + (64 << 20), $"{allocated >> 20} MB for {bytes.Length} bytes");
        Assert.True(clock.Elapsed.TotalSeconds < 10, $"{clock.Elapsed.TotalSeconds:0.0} s");
    }

    private static byte[] Text(string text) => Encoding.UTF8.GetBytes(text);

    [Fact]
    public void C3d_parameters_that_lie_over_each_other()
    {
        var bytes = new byte[248_000];
        (bytes[0], bytes[1], bytes[512 + 3]) = (2, 0x50, 84);
        // Twenty thousand parameters of a few bytes, each of which says that its values are the next sixty thousand.
        for (int i = 0, at = 516; i < 20_000 && at + 12 < bytes.Length; i++, at += 11)
        {
            byte[] one = [1, 1, (byte)'A', 8, 0, 4, 2, 120, 125, 0, 0];
            one.CopyTo(bytes, at);
        }

        Refused(bytes, b => C3dReader.Read(b, "x.c3d"));
    }

    [Fact]
    public void Gltf_that_claims_a_great_deal()
    {
        Refused(Glb("""{"asset":{"version":"2.0"},"accessors":[{"componentType":5126,"count":1000000,"type":"MAT4"}],"nodes":[{}]}"""), b =>
            GltfReader.Read(b, "x.glb")
        );
        // Two keys a thousand seconds apart, for many joints.
        var nodes = string.Join(',', Enumerable.Range(0, 1500).Select(i => $"{{\"name\":\"n{i}\"}}"));
        var channels = string.Join(
            ',',
            Enumerable.Range(0, 1500).Select(i => $"{{\"sampler\":0,\"target\":{{\"node\":{i},\"path\":\"translation\"}}}}")
        );
        var keys = Convert.ToBase64String([.. BitConverter.GetBytes(0f), .. BitConverter.GetBytes(1199f), .. new byte[24]]);
        Refused(
            Text(
                $$"""
                {"asset":{"version":"2.0"},"nodes":[{{nodes}}],"animations":[{"channels":[{{channels}}],"samplers":[{"input":0,"output":1}]}],
                "accessors":[{"bufferView":0,"componentType":5126,"count":2,"type":"SCALAR","min":[0],"max":[1199]},
                {"bufferView":1,"componentType":5126,"count":2,"type":"VEC3"}],
                "bufferViews":[{"buffer":0,"byteLength":8},{"buffer":0,"byteOffset":8,"byteLength":24}],
                "buffers":[{"byteLength":32,"uri":"data:application/octet-stream;base64,{{keys}}"}]}
                """
            ),
            b => GltfReader.Read(b, "x.gltf")
        );
    }

    [Theory]
    [InlineData(4000, false)]
    [InlineData(20_000, true)]
    public void Gltf_of_more_nodes_than_a_figure_has(int count, bool deep) =>
        Refused(Glb(Tree(count, deep)), b => GltfReader.Read(b, "x.glb"));

    [Fact]
    public void Gltf_of_as_many_nodes_as_are_read_is_read_in_time()
    {
        var bytes = Glb(Tree(2000, false));
        var (before, clock) = (GC.GetAllocatedBytesForCurrentThread(), System.Diagnostics.Stopwatch.StartNew());
        Assert.Equal(2000, GltfReader.Read(bytes, "x.glb").Skeleton.Count);
        Within(bytes, before, clock);
    }

    [Fact]
    public void Gltf_reads_nothing_but_itself_unless_a_folder_is_given()
    {
        var folder = Directory.CreateTempSubdirectory("eidolon-gltf").FullName;
        File.WriteAllBytes(Path.Combine(folder, "a.bin"), new byte[64]);
        var json = """
            {"asset":{"version":"2.0"},"buffers":[{"byteLength":64,"uri":"URI"}],
            "nodes":[{"name":"a","children":[1]},{"name":"b"}],"scenes":[{"nodes":[0]}]}
            """;
        Assert.Contains(
            "outside",
            Refused(Text(json.Replace("URI", "a.bin", StringComparison.Ordinal)), b => GltfReader.Read(b, "a.gltf")).Reason
        );
        Assert.Contains(
            "same folder",
            Refused(Text(json.Replace("URI", "../../etc/passwd", StringComparison.Ordinal)), b =>
                GltfReader.Read(b, Path.Combine(folder, "a.gltf"), folder)
            ).Reason
        );
        Assert.Equal(
            2,
            GltfReader
                .Read(Text(json.Replace("URI", "a.bin", StringComparison.Ordinal)), Path.Combine(folder, "a.gltf"), folder)
                .Skeleton.Count
        );
        Directory.Delete(folder, recursive: true);
    }

    [Theory]
    [InlineData("# centroids, frameRate=120, cameras=256, frames=9999999\nframe,camera,u,v\n0,0,1,1\n")]
    [InlineData("# centroids, frameRate=1e-300, cameras=2, frames=1\nframe,camera,u,v\n")]
    [InlineData("# centroids, frameRate=1e9, cameras=2, frames=1\nframe,camera,u,v\n")]
    public void Centroids_that_claim_what_no_recording_has(string text) => Refused(Text(text), b => CentroidCsv.Read(b, "x.csv"));

    [Theory]
    [InlineData("# points, frameRate=120\nframe,time,x,y,z\n0,0,1,2,3\n", "header")]
    [InlineData("# points, frameRate=120\nframe,time,a.x,a,b\n0,0,1,2,3\n", "header")]
    [InlineData("# points, frameRate=120\nframe,time,a.x,,\n0,0,1,2,3\n", "header")]
    [InlineData("# points, frameRate=120, frameRate=60\nframe,time,a.x,a.y,a.z\n0,0,1,2,3\n", "twice")]
    [InlineData("# points, frameRate=1e-300\nframe,time,a.x,a.y,a.z\n0,0,1,2,3\n", "rate")]
    [InlineData("frame,time,a.x,a.y,a.z\n0,0,1,2,3\n1,1e300,1,2,3\n", "rate")]
    [InlineData("# points, frameRate=120, upAxis=W\nframe,time,a.x,a.y,a.z\n0,0,1,2,3\n", "up axis")]
    public void Tables_of_points_that_cannot_be_meant(string text, string said) =>
        Assert.Contains(said, Refused(Text(text), b => CsvMarkers.Read(b, "x.csv")).Reason, StringComparison.Ordinal);

    [Fact]
    public void Json_that_is_no_text()
    {
        byte[] invalid = [.. Text("{\"name\":\""), 0xC3, 0x28, .. Text("\",\"markers\":[],\"cameras\":[],\"joints\":[],\"roles\":{}}")];
        var half = Text(
            "{\"name\":\"\\ud800\",\"markers\":[{\"name\":\"\\ud800\",\"segment\":\"Head\"}],"
                + "\"cameras\":[{\"name\":\"\\ud800\"}],\"joints\":[{\"name\":\"\\ud800\"}],\"roles\":{\"Pelvis\":\"\\ud800\"}}"
        );
        var skeleton = new Skeleton([new Joint("Hips", -1, default)]);
        foreach (var bytes in new[] { invalid, half, Text("7"), Text("null"), Text("[[1e999,0,0]]"), [] })
        {
            Refused(bytes, b => MarkerSetJson.Read(b, "x.json"));
            Refused(bytes, b => PerformerJson.Read(b, "x.json"));
            Refused(bytes, b => CameraRingJson.Read(b, "x.json"));
            Refused(bytes, b => RoleMapJson.Read(b, "x.json", skeleton));
        }
    }

    [Fact]
    public void Bvh_of_many_still_joints_and_many_frames()
    {
        var text = new StringBuilder("HIERARCHY\n");
        for (var j = 0; j < 300; j++)
        {
            text.Append(j == 0 ? "ROOT r" : $"JOINT j{j}")
                .Append(" {\nOFFSET 0 1 0\nCHANNELS ")
                .Append(j == 0 ? "1 Xposition" : "0")
                .Append('\n');
        }

        text.Append("End Site {\nOFFSET 0 1 0\n}\n")
            .Append(string.Concat(Enumerable.Repeat("}\n", 300)))
            .Append("MOTION\nFrames: 200000\nFrame Time: 0.01\n");
        text.Append(string.Concat(Enumerable.Repeat("0\n", 200_000)));
        Refused(Text(text.ToString()), b => Core.Formats.Bvh.BvhReader.Read(b, "x.bvh"));
    }

    [Theory]
    [InlineData("0")]
    [InlineData("1e-300")]
    [InlineData("60")]
    [InlineData("NaN")]
    public void Bvh_of_a_rate_that_no_recording_has(string time) =>
        Refused(
            Text(
                "HIERARCHY\nROOT r {\nOFFSET 0 0 0\nCHANNELS 3 Xposition Yposition Zposition\nEnd Site {\nOFFSET 0 1 0\n}\n}\n"
                    + $"MOTION\nFrames: 1\nFrame Time: {time}\n0 0 0\n"
            ),
            b => MotionFiles.ReadMotion(b, "x.bvh")
        );

    private static string Tree(int count, bool deep)
    {
        var nodes = Enumerable
            .Range(0, count)
            .Select(i =>
                deep ? $"{{\"name\":\"n{i}\"{(i + 1 < count ? $",\"children\":[{i + 1}]" : string.Empty)}}}"
                : i == 0 ? $"{{\"name\":\"n0\",\"children\":[{string.Join(',', Enumerable.Range(1, count - 1))}]}}"
                : $"{{\"name\":\"n{i}\"}}"
            );
        return $"{{\"asset\":{{\"version\":\"2.0\"}},\"nodes\":[{string.Join(',', nodes)}],\"scenes\":[{{\"nodes\":[0]}}]}}";
    }

    private static byte[] Glb(string json)
    {
        var text = Text(json.PadRight((json.Length + 3) / 4 * 4));
        return
        [
            .. "glTF"u8,
            .. BitConverter.GetBytes(2),
            .. BitConverter.GetBytes(20 + text.Length),
            .. BitConverter.GetBytes(text.Length),
            .. "JSON"u8,
            .. text,
        ];
    }
}
