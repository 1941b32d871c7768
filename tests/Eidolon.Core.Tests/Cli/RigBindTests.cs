using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Cli;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Tests.Characters.Binding;
using Eidolon.StandIns.Characters;
using Eidolon.Testing;

namespace Eidolon.Core.Tests.Cli;

/// <summary><c>rig MESH --bind</c>: a bare mesh becomes a character that a motion can be put on.</summary>
[Trait(LongRun.Run, LongRun.Whole)]
public sealed class RigBindTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("eidolon-bind").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private string P(string name) => Path.Combine(_folder, name);

    private static int Run(params string[] args) => Runner.Run(Commands.Root(), args);

    private static (int Code, string Error) Told(params string[] args)
    {
        var before = Console.Error;
        using var error = new StringWriter();
        Console.SetError(error);
        try
        {
            return (Run(args), error.ToString());
        }
        finally
        {
            Console.SetError(before);
        }
    }

    private JsonNode Report() => JsonNode.Parse(File.ReadAllText(P("report.json")))!;

    private string Bare(string name, Matrix4x4 at)
    {
        File.WriteAllBytes(P("bare.glb"), GltfSkinWriter.WriteBare(BareFigures.Of(name).Figure, "Bare", at));
        return P("bare.glb");
    }

    [Fact]
    public void A_bare_mesh_is_bound_looks_as_before_and_takes_a_motion()
    {
        // Its node turns, moves and mirrors nothing away: the figure stays where it was.
        var at = Matrix4x4.CreateRotationY(.7f) * Matrix4x4.CreateTranslation(1, 0, -2);
        var file = Bare("1.71", at);
        Assert.Equal(0, Run("rig", file, "--bind", "--out", P("bound.glb"), "--json", P("report.json")));
        var report = Report();
        Assert.Empty(report["missing"]!.AsArray());
        Assert.Empty(report["asked"]!.AsArray());
        Assert.Empty(report["warnings"]!.AsArray());
        Assert.Equal("HandL", (string?)report["roles"]!["HandL"]);
        Assert.Equal(22, report["joints"]!.AsObject().Count);
        var facing = report["facing"]!.AsArray().Select(v => (float)v!).ToArray();
        Assert.InRange(Vector3.Distance(Vector3.TransformNormal(Vector3.UnitZ, at), new(facing[0], facing[1], facing[2])), 0, .08f);

        var (before, after) = (
            GltfReader.Open(File.ReadAllBytes(file), "a.glb"),
            GltfReader.Open(File.ReadAllBytes(P("bound.glb")), "b.glb")
        );
        Assert.Equal(before.LogicalMaterials.Select(m => m.Name), after.LogicalMaterials.Select(m => m.Name));
        var (was, now) = (GltfMeshBounds.Heights(before)!.Value, GltfMeshBounds.Heights(after)!.Value);
        Assert.Equal(was.Low, now.Low, 4);
        Assert.Equal(was.High, now.High, 4);
        var node = after.LogicalNodes.Single(n => n.Mesh is not null);
        Assert.NotNull(node.Skin);
        var old = before.LogicalMeshes[0].Primitives[0].GetVertexAccessor("POSITION").AsVector3Array();
        var put = node.Mesh.Primitives[0].GetVertexAccessor("POSITION").AsVector3Array();
        Assert.InRange(Vector3.Distance(Vector3.Transform(old[17], at), put[17]), 0, 1e-5f);

        MotionFiles.WriteMotion(P("still.bvh"), Motion.AtRest(Anthropometry.Body(1.8f), 60, 30));
        Assert.Equal(0, Run("retarget", P("still.bvh"), "--character", P("bound.glb"), "--out", P("moved.glb"), "--json", P("moved.json")));
        var warning = Assert.Single(JsonNode.Parse(File.ReadAllText(P("moved.json")))!["warnings"]!.AsArray());
        Assert.Contains("faces 40° away", (string)warning!, StringComparison.Ordinal);
    }

    [Fact]
    public void Joints_told_by_hand_are_where_they_were_told()
    {
        var file = Bare("1.71", Matrix4x4.Identity);
        File.WriteAllText(P("placed.json"), """{ "joints": { "HandL": [0.74, 1.39, 0.01], "HandR": [-0.74, 1.39, 0.01] } }""");
        Assert.Equal(0, Run("rig", file, "--bind", "--skeleton", P("placed.json"), "--out", P("bound.glb"), "--json", P("report.json")));
        var skeleton = MotionFiles.ReadMotion(P("bound.glb")).Skeleton;
        Assert.InRange(Vector3.Distance(new(.74f, 1.39f, .01f), skeleton.RestPositions[skeleton.IndexOf("HandL")]), 0, 1e-5f);

        // What it tells is what it reads.
        Assert.Equal(0, Run("rig", file, "--bind", "--skeleton", P("report.json"), "--out", P("again.glb")));
        var again = MotionFiles.ReadMotion(P("again.glb")).Skeleton;
        Assert.All(again.RestPositions.Zip(skeleton.RestPositions), p => Assert.InRange(Vector3.Distance(p.First, p.Second), 0, 1e-4f));
    }

    [Fact]
    public void A_mesh_that_is_mirrored_by_its_node_keeps_its_outside()
    {
        var file = Bare("1.20", Matrix4x4.CreateScale(-1, 1, 1));
        Assert.Equal(0, Run("rig", file, "--bind", "--out", P("bound.glb")));
        var part = GltfReader.Open(File.ReadAllBytes(P("bound.glb")), "b.glb").LogicalMeshes[0].Primitives[0];
        var (p, n) = (part.GetVertexAccessor("POSITION").AsVector3Array(), part.GetVertexAccessor("NORMAL").AsVector3Array());
        var outwards = part.GetTriangleIndices().Count(t => Vector3.Dot(Vector3.Cross(p[t.B] - p[t.A], p[t.C] - p[t.A]), n[t.A]) > 0);
        Assert.InRange(outwards / (double)part.GetTriangleIndices().Count(), .95, 1);
    }

    [Fact]
    public void What_cannot_be_bound_is_refused_and_nothing_is_written()
    {
        var file = Bare("1.20", Matrix4x4.Identity);
        File.WriteAllBytes(P("rigged.glb"), HarbourCharacters.Build("Stevedore"));
        File.WriteAllText(P("odd.json"), """{ "joints": { "Tail": [0, 1, 0] } }""");
        File.WriteAllText(P("short.json"), """{ "joints": { "HandL": [0, 1] } }""");
        File.WriteAllBytes(P("lying.glb"), GltfSkinWriter.WriteBare(BareFigures.Of("1.20").Figure, "L", Matrix4x4.CreateRotationX(1.57f)));
        void Refused(int code, string because, params string[] args)
        {
            var (left, error) = Told([.. args, "--out", P("out.glb")]);
            Assert.Equal(code, left);
            Assert.Contains(because, error, StringComparison.Ordinal);
            Assert.False(File.Exists(P("out.glb")));
        }

        Refused(3, "has a rig already", "rig", P("rigged.glb"), "--bind");
        Refused(3, "joints.Tail", "rig", file, "--bind", "--skeleton", P("odd.json"));
        Refused(3, "joints.HandL", "rig", file, "--bind", "--skeleton", P("short.json"));
        Refused(3, "does not stand upright", "rig", P("lying.glb"), "--bind");
        Refused(2, "bind first", "rig", file, "--bind", "--straighten");
        Refused(2, "--skeleton goes with --bind", "rig", file, "--straighten", "--skeleton", P("odd.json"));
        Assert.Equal(2, Told("rig", file, "--bind").Code);
        Assert.Equal(2, Told("rig", file, "--bind", "--out", P("out.bvh")).Code);
        // A bare mesh is told what to do with it.
        Assert.Contains("--bind", Told("rig", file).Error, StringComparison.Ordinal);
    }
}
