using System.Text;
using System.Text.Json.Nodes;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Geometry;
using Eidolon.Core.Optical;
using SharpGLTF.Schema2;

namespace Eidolon.Core.Tests.Formats;

/// <summary>Word for word what is said of JSON files that are wrong, and where.</summary>
public sealed class JsonWordsTests
{
    private static byte[] B(string text) => Encoding.UTF8.GetBytes(text.Replace('\'', '"'));

    private static void Says(string said, Action read) => Assert.Equal("x: " + said, Assert.Throws<InvalidInputException>(read).Message);

    private const string Body =
        "{'name':'A','stature':1.7,'joints':[{'name':'hips','role':'Pelvis','offset':[0,1,0]},{'name':'head','role':'Head','parent':'hips','offset':[0,0.5,0]}],"
        + "'markers':[{'name':'M','joint':'hips','offset':[0,0,0.1]}]}";

    [Theory]
    [InlineData("'offset':[0,0.5,0]", "'offset':[0,0.5]", "joints[1]: three numbers [x, y, z] are expected")]
    [InlineData("'offset':[0,0.5,0]", "'offset':[0,'up',0]", "joints[1]: a coordinate is not a number")]
    [InlineData("'offset':[0,0,0.1]", "'offset':[0,0]", "markers[0]: three numbers [x, y, z] are expected")]
    [InlineData("'role':'Pelvis',", "'role':'Chest',", "joints: the first joint must play Pelvis and be the only root")]
    [InlineData("'parent':'hips',", "", "joints: the first joint must play Pelvis and be the only root")]
    [InlineData("'markers'", "'dots'", "markers: 'markers' is missing or not a list")]
    [InlineData("'joint':'hips'", "'joint':'tail'", "markers[0]: there is no joint 'tail'")]
    [InlineData("'joint':'hips'", "'joint':3", "markers[0]: 'joint' is missing or not a text")]
    public void Of_a_performer(string old, string now, string said) =>
        Says(said, () => PerformerJson.Read(B(Body.Replace(old, now, StringComparison.Ordinal)), "x"));

    [Fact]
    public void A_performer_is_read_with_the_weights_of_its_markers()
    {
        var performer = PerformerJson.Read(B(Body.Replace("'name':'M'", "'name':'M','weight':0.25", StringComparison.Ordinal)), "x");
        Assert.Equal((1, 0.25f), (performer.Markers.Count, performer.Markers[0].Weight));
        Assert.Equal(
            1,
            PerformerJson.Read(B(Body.Replace("'name':'M'", "'name':'M','weight':0", StringComparison.Ordinal)), "x").Markers[0].Weight
        );
        Assert.Equal(1, PerformerJson.Read(B(Body), "x").Markers[0].Weight);
    }

    private const string Camera =
        "{'name':'quay','width':1920,'height':1080,'focal':1500,'centre':[960,540],'distortion':[0.1,0.01],"
        + "'rotation':[1,0,0,0,1,0,0,0,1],'translation':[0,0,5]}";

    [Theory]
    [InlineData(
        "'width':1920",
        "'width':10",
        "cameras[1]: camera 'quay': a picture of 16 to 65536 pixels and a focal length above 1 pixel are expected"
    )]
    [InlineData(
        "'height':1080",
        "'height':70000",
        "cameras[1]: camera 'quay': a picture of 16 to 65536 pixels and a focal length above 1 pixel are expected"
    )]
    [InlineData(
        "'focal':1500",
        "'focal':1",
        "cameras[1]: camera 'quay': a picture of 16 to 65536 pixels and a focal length above 1 pixel are expected"
    )]
    [InlineData("'focal':1500", "'focal':'long'", "cameras[1]: 'focal' is missing or not a number")]
    [InlineData("'centre':[960,540]", "'centre':[960]", "cameras[1].centre: 2 numbers are expected")]
    [InlineData("'distortion':[0.1,0.01]", "'distortion':5", "cameras[1].distortion: 2 numbers are expected")]
    [InlineData("[1,0,0,0,1,0,0,0,1]", "[1,0,0,0,1,0,0,0,-1]", "cameras[1].rotation: camera 'quay': the nine numbers are not a rotation")]
    [InlineData("[1,0,0,0,1,0,0,0,1]", "[2,0,0,0,1,0,0,0,1]", "cameras[1].rotation: camera 'quay': the nine numbers are not a rotation")]
    [InlineData("[1,0,0,0,1,0,0,0,1]", "[1,0,0,0,2,0,0,0,1]", "cameras[1].rotation: camera 'quay': the nine numbers are not a rotation")]
    [InlineData("[1,0,0,0,1,0,0,0,1]", "[1,0,0,0,1,0]", "cameras[1].rotation: 9 numbers are expected")]
    [InlineData(",'translation':[0,0,5]", "", "cameras[1]: camera 'quay' has a rotation but no translation")]
    public void Of_cameras(string old, string now, string said) =>
        Says(said, () => CameraRingJson.Read(B($"{{'cameras':[{Camera},{Camera.Replace(old, now, StringComparison.Ordinal)}]}}"), "x"));

    [Fact]
    public void A_ring_needs_two_cameras_films_one_and_what_is_not_said_is_the_makers()
    {
        Says("cameras: at least two cameras are needed, the file has 1", () => CameraRingJson.Read(B($"{{'cameras':[{Camera}]}}"), "x"));
        Says("cameras: at least one camera is needed", () => CameraRingJson.ReadCameras(B("{'cameras':[]}"), "x"));
        Says("cameras: 'cameras' is missing or not a list", () => CameraRingJson.ReadCameras(B("{}"), "x"));
        var bare = Assert.Single(CameraRingJson.ReadCameras(B("{'cameras':[{'name':'k','width':640,'height':480,'focal':700}]}"), "x"));
        Assert.Equal(CameraModel.Nominal("k", 640, 480, 700), bare);
        Assert.False(bare.IsPlaced);
        var placed = Assert.Single(CameraRingJson.ReadCameras(B($"{{'cameras':[{Camera}]}}"), "x"));
        Assert.Equal((960, 540, 0.1, 0.01), (placed.CentreX, placed.CentreY, placed.K1, placed.K2));
        Assert.Equal(new Vector3d(0, 0, 5), placed.Translation);
        var again = CameraRingJson.ReadCamera(CameraRingJson.Write(placed).ToJsonString(), "x");
        Assert.Equal(placed, again);
        var ring = new CameraRing([placed, bare with { Name = "l" }], 0.21, new DateTime(2026, 5, 4, 10, 0, 0, DateTimeKind.Utc));
        var back = CameraRingJson.Read(Encoding.UTF8.GetBytes(CameraRingJson.Write(ring)), "x");
        Assert.Equal((0.21, ring.CalibratedUtc), (back.ReprojectionPixels, back.CalibratedUtc));
    }

    [Theory]
    [InlineData("{'cameras':[\n,]}", "line 2: the JSON cannot be read: ")]
    [InlineData("{'a':1}\n\n{", "line 3: the JSON cannot be read: ")]
    public void Of_json_that_breaks_off_the_line(string text, string said) =>
        Assert.StartsWith(
            "x: " + said,
            Assert.Throws<InvalidInputException>(() => CameraRingJson.ReadCameras(B(text), "x")).Message,
            StringComparison.Ordinal
        );

    [Theory]
    [InlineData(25)]
    [InlineData(60)]
    [InlineData(120)]
    public void A_scene_that_names_no_rate_has_the_one_of_its_times(double rate)
    {
        var motion = Samples.Random(7, 5, 40);
        using var stream = new MemoryStream();
        GltfWriter.WriteSkeleton(stream, new Core.Skeletons.Motion(motion.Skeleton, rate, 40, motion.Rotations, motion.Translations));
        stream.Position = 0;
        var model = ModelRoot.ReadGLB(stream);
        foreach (var animation in model.LogicalAnimations)
        {
            animation.Extras = null;
        }

        using var bare = new MemoryStream();
        model.WriteGLB(bare);
        var back = GltfReader.Read(bare.ToArray(), "x");
        Assert.Equal((rate, 40), (back.FrameRate, back.FrameCount));
    }

    private const string Plan = "{'clips':[{'file':'a.bvh'}]}";

    [Theory]
    [InlineData("{'clips':[]}", "clips: there is no clip in it")]
    [InlineData("{'frameRate':0,'clips':[{'file':'a.bvh'}]}", "frameRate: 0 is no frame rate")]
    [InlineData("{'inPlace':'yes','clips':[{'file':'a.bvh'}]}", "inPlace: true or false is expected")]
    [InlineData("{'loop':3,'clips':[{'file':'a.bvh'}]}", "loop: an object is expected")]
    [InlineData("{'layers':3,'clips':[{'file':'a.bvh'}]}", "layers: a list is expected")]
    [InlineData("{'clips':[5]}", "clips[0]: an object is expected")]
    [InlineData("{'clips':[{'file':7}]}", "clips[0].file: a text is expected")]
    [InlineData("{'clips':[{}]}", "clips[0].file: it is missing")]
    [InlineData("{'clips':[{'file':'a.bvh','speed':0}]}", "clips[0].speed: 0 is no speed; 0.01 to 100 are")]
    [InlineData("{'clips':[{'file':'a.bvh','repeat':0}]}", "clips[0].repeat: 0 is too small: at least 1")]
    [InlineData("{'clips':[{'file':'a.bvh','repeat':1.5}]}", "clips[0].repeat: 1.5 is no whole number")]
    [InlineData("{'clips':[{'file':'a.bvh','repeat':'twice'}]}", "clips[0].repeat: a number is expected")]
    public void Of_a_plan(string text, string said) => Says(said, () => AssemblyPlanJson.Read(B(text), "x"));

    [Fact]
    public void A_plan_says_what_it_says()
    {
        var plain = AssemblyPlanJson.Read(B(Plan), "x");
        Assert.Equal((null, false, 1), (plain.FrameRate, plain.InPlace, plain.Clips.Count));
        Assert.True(
            AssemblyPlanJson.Read(B(Plan.Replace("{'clips'", "{'inPlace':true,'frameRate':60,'clips'", StringComparison.Ordinal)), "x")
                is { InPlace: true, FrameRate: 60 }
        );
        Assert.False(AssemblyPlanJson.Read(B(Plan.Replace("{'clips'", "{'inPlace':false,'clips'", StringComparison.Ordinal)), "x").InPlace);
    }
}
