using System.Text;
using Eidolon.Core.Formats.Bvh;
using Eidolon.Core.Formats.C3d;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Markers;
using Eidolon.Core.Optical;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.Devices;
using Eidolon.StandIns.Characters;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Bench.Fuzz;

/// <summary>A format that is read from outside: files to begin with, and what reads it.</summary>
/// <param name="Words">Pieces of the format that are put in and over.</param>
internal sealed record FuzzFormat(string Name, IReadOnlyList<byte[]> Seeds, IReadOnlyList<string> Words, Action<byte[]> Read)
{
    private static readonly string[] Numbers =
    [
        "0",
        "-1",
        "1e308",
        "-1e-300",
        "NaN",
        "2147483647",
        "4294967296",
        "0.0",
        "1e400",
        "99999999999999999999",
    ];

    public static IReadOnlyList<FuzzFormat> All()
    {
        var person = HarbourCast.Ines;
        var walk = MotionEdits.Range(SceneCatalog.Perform("lamp-walk", person, 1).Actors[0].Motion, 0, 12);
        var markers = MarkerSimulator.Labelled(SceneCatalog.Perform("lamp-walk", person, 1));
        markers = markers.Only(markers.Names.Take(6).ToArray()).Range(0, 8);
        var pictures = new CentroidTakeBuilder(3, 120);
        for (var i = 0; i < 12; i++)
        {
            pictures.Add([i, 100.5f], [20 + i, 30.25f]);
        }

        var set = HarbourMarkers.Set();
        var small = new Skeleton([
            new Joint("Hips", -1, default),
            new Joint("Spine", 0, new(0, 0.2f, 0)),
            new Joint("Head", 1, new(0, 0.3f, 0)),
        ]);
        var few = Still(small, 4);
        var gltf = Written(s => GltfWriter.WriteSkeleton(s, few));
        return
        [
            new("c3d", [Written(s => C3dWriter.Write(s, new C3dDocument(markers)))], ["POINT", "LABELS", "USED"], b =>
                C3dReader.Read(b, "x.c3d")
            ),
            new(
                "bvh",
                [Written(s => BvhWriter.Write(s, walk)), Written(s => BvhWriter.Write(s, few))],
                [
                    "HIERARCHY",
                    "ROOT a",
                    "JOINT b",
                    "OFFSET",
                    "CHANNELS 3",
                    "Xrotation",
                    "End Site",
                    "{",
                    "}",
                    "MOTION",
                    "Frames:",
                    "Frame Time:",
                    .. Numbers,
                ],
                b => BvhReader.Read(b, "x.bvh")
            ),
            new("glb", [gltf, Small(HarbourCharacters.Names[0])], [.. GltfWords, .. Numbers], b => GltfReader.Read(b, "x.glb")),
            new("gltf", [Embedded(gltf)], [.. GltfWords, "data:application/octet-stream;base64,", "\"uri\":\"a.bin\"", .. Numbers], b =>
                GltfReader.Read(b, "x.gltf")
            ),
            new(
                "points csv",
                [Written(s => CsvMarkers.Write(s, markers)), "a.x,a.y,a.z\n1,2,3\n4,5,6\n"u8.ToArray()],
                ["# points", "frameRate=", "units=", "upAxis=", "frame,time", ".x", ",", "\n", .. Numbers],
                b => CsvMarkers.Read(b, "x.csv")
            ),
            new(
                "centroids csv",
                [Written(s => CentroidCsv.Write(s, pictures.Build()))],
                ["# centroids", "frameRate=", "cameras=", "frames=", ",", "\n", .. Numbers],
                b => CentroidCsv.Read(b, "x.csv")
            ),
            new("marker set", [Text(MarkerSetJson.Write(set))], JsonWords, b => MarkerSetJson.Read(b, "x.json")),
            new("performer", [Text(PerformerJson.Write(Few(walk.Skeleton)))], JsonWords, b => PerformerJson.Read(b, "x.json")),
            new("prop", [Text("[[0,0.1,0],[0.2,0,0],[0,0,0.3],[0.1,0.1,0.1]]")], JsonWords, b =>
                RigidBodyJson.Read(Encoding.UTF8.GetString(b), "x")
            ),
            new("role map", [Text("{\"roles\":{\"Pelvis\":\"Hips\",\"Head\":\"Head\"}}")], JsonWords, b =>
                RoleMapJson.Read(b, "x.json", small)
            ),
            new("cameras", [Text(CameraRingJson.Write(HarbourRing.True()))], JsonWords, b => CameraRingJson.Read(b, "x.json")),
            new("packet", Packets(), [], b => DevicePacket.TryRead(b, out _, out _)),
        ];
    }

    private static readonly string[] GltfWords =
    [
        "\"nodes\":",
        "\"children\":[0]",
        "\"skins\":",
        "\"accessors\":",
        "\"count\":",
        "\"type\":\"MAT4\"",
        "\"sparse\":",
        "\"byteOffset\":",
        "\"animations\":",
        "\"interpolation\":\"CUBICSPLINE\"",
        "\"matrix\":",
        "[",
        "]",
        "{",
        "}",
        "null",
    ];

    private static readonly string[] JsonWords = ["\"", "{", "}", "[", "]", ",", ":", "null", "true", "\"\\ud800\"", "\\u0000", .. Numbers];

    private static byte[] Text(string text) => Encoding.UTF8.GetBytes(text);

    private static byte[] Written(Action<Stream> write)
    {
        using var stream = new MemoryStream();
        write(stream);
        return stream.ToArray();
    }

    /// <summary>A character's skeleton without its body: what is worked on is the tree.</summary>
    private static byte[] Small(string character)
    {
        var skeleton = GltfReader.GltfBindingOf(GltfReader.Open(HarbourCharacters.Build(character), character), character).Skeleton;
        return Written(s => GltfWriter.WriteSkeleton(s, Still(skeleton, 2)));
    }

    /// <summary>The same as text, with its buffer in it.</summary>
    private static byte[] Embedded(byte[] glb)
    {
        var length = BitConverter.ToInt32(glb, 12);
        var json = Encoding.UTF8.GetString(glb, 20, length);
        var buffer = Convert.ToBase64String(glb, 20 + length + 8, glb.Length - (20 + length + 8));
        return Text(
            json.Replace(
                "\"buffers\":[{",
                $"\"buffers\":[{{\"uri\":\"data:application/octet-stream;base64,{buffer}\",",
                StringComparison.Ordinal
            )
        );
    }

    private static Motion Still(Skeleton skeleton, int frames)
    {
        var motion = new Motion(skeleton, 30, frames);
        Array.Fill(motion.Rotations, System.Numerics.Quaternion.Identity);
        return motion;
    }

    private static Performer Few(Skeleton skeleton) =>
        new(
            "Ines",
            1.69f,
            skeleton,
            [new PerformerMarker("HeadFront", 1, new(0, 0.1f, 0.1f)), new PerformerMarker("BackTop", 2, new(0, 0, -0.1f))]
        );

    private static byte[][] Packets()
    {
        var packet = new byte[DevicePacket.Header + 16];
        new DevicePacket(DeviceKind.Ring, 1, 80, 77, 1234.5).Write(packet, 16);
        return [packet];
    }
}
