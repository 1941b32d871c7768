using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Cli;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.Testing;

namespace Eidolon.Core.Tests.Cli;

/// <summary>A character's rig told from the shell, and its rest pose put right.</summary>
[Trait(LongRun.Run, LongRun.Whole)]
public sealed class RigTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("eidolon-rig").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    private string P(string name) => Path.Combine(_folder, name);

    private static int Run(params string[] args) => Runner.Run(Commands.Root(), args);

    private JsonNode Json(params string[] args)
    {
        Assert.Equal(0, Run([.. args, "--json", P("report.json")]));
        return JsonNode.Parse(File.ReadAllText(P("report.json")))!;
    }

    private string Character(string name)
    {
        File.WriteAllBytes(P(name + ".glb"), HarbourCharacters.Build(name));
        return P(name + ".glb");
    }

    /// <summary>A body whose arms hang by so many degrees and that faces so many degrees aside, as a BVH has it: by offsets alone.</summary>
    private string Bvh(string name, double down, double aside, Func<string, string>? names = null)
    {
        var body = Anthropometry.Body(1.7f);
        var posed = new Skeleton(
            body.Joints.Select(j =>
                j.Name == "UpperArmL" ? j with { RestRotation = Rotations.AboutAxis(2, -down * Math.PI / 180) }
                : j.Name == "UpperArmR" ? j with { RestRotation = Rotations.AboutAxis(2, down * Math.PI / 180) }
                : j.Name == "Pelvis" ? j with { RestRotation = Rotations.AboutAxis(1, aside * Math.PI / 180) }
                : j
            )
        );
        var flat = new Skeleton(
            posed.Joints.Select(
                (j, i) =>
                    j with
                    {
                        Name = names?.Invoke(j.Name) ?? j.Name,
                        Role = null,
                        RestRotation = Quaternion.Identity,
                        Offset = posed.RestPositions[i] - (j.Parent < 0 ? Vector3.Zero : posed.RestPositions[j.Parent]),
                        EndSite = null,
                    }
            )
        );
        MotionFiles.WriteMotion(P(name), Motion.AtRest(flat, 30, 1));
        return P(name);
    }

    [Theory]
    [InlineData("Stevedore")]
    [InlineData("Lamplighter")]
    public void A_character_of_the_harbour_is_known_by_its_names(string name)
    {
        var r = Json("rig", Character(name));
        var roles = r["roles"]!.AsObject();
        Assert.All(BodyRoles.Required, role => Assert.True(roles.ContainsKey(role.ToString()), role.ToString()));
        Assert.Empty(r["missing"]!.AsArray());
        var skeleton = GltfReader.GltfBindingOf(GltfReader.Open(HarbourCharacters.Build(name), name), name).Skeleton;
        Assert.Equal(RoleFinder.Find(skeleton).Roles[BodyRole.HandL], (string)roles["HandL"]!);
        // The mesh reaches from the soles to the crown, beyond the joints.
        Assert.InRange((double)r["heightMetres"]!, RestCheck.Height(skeleton) + 0.05, RestCheck.Height(skeleton) + 0.45);
        Assert.Empty(r["asked"]!.AsArray());
        Assert.Equal([0, 0, 1], r["facing"]!.AsArray().Select(v => Math.Round((double)v!, 3)));
        Assert.Contains((string)r["rest"]!["verdict"]!, new[] { "ready", "willDrift" });
    }

    [Theory]
    [InlineData(0, 0, "ready", "")]
    [InlineData(45, 0, "willDrift", "UpperArmL left arm 45° low 45; UpperArmR right arm 45° low 45")]
    [InlineData(0, 90, "willDrift", "Pelvis faces 90° away from ahead 90")]
    public void A_rest_pose_is_judged_with_the_joint_and_the_degrees(double down, double aside, string verdict, string reasons)
    {
        var r = Json("rig", Bvh("body.bvh", down, aside));
        Assert.Equal(verdict, (string)r["rest"]!["verdict"]!);
        Assert.Equal(
            reasons,
            string.Join(
                "; ",
                r["rest"]!["reasons"]!.AsArray().Select(x => $"{x!["joint"]} {x["what"]} {Math.Round((double)x["degrees"]!)}")
            )
        );
        Assert.Equal(
            [Math.Sin(aside * Math.PI / 180), Math.Cos(aside * Math.PI / 180)],
            new[] { 0, 2 }.Select(k => (double)r["facing"]![k]!),
            (a, b) => Math.Abs(a - b) < 0.01
        );
        Assert.Empty(r["asked"]!.AsArray());
    }

    [Theory]
    [InlineData(60, 120)]
    [InlineData(-20, -75)]
    public void A_straightened_bvh_is_ready_and_no_bone_is_longer(double down, double aside)
    {
        var file = Bvh("crooked.bvh", down, aside);
        Json("rig", file, "--straighten", "--out", P("straight.bvh"));
        var r = Json("rig", P("straight.bvh"));
        Assert.Equal("ready", (string)r["rest"]!["verdict"]!);
        Assert.Empty(r["rest"]!["reasons"]!.AsArray());
        var (before, after) = (MotionFiles.ReadMotion(file).Skeleton, MotionFiles.ReadMotion(P("straight.bvh")).Skeleton);
        for (var j = 1; j < before.Count; j++)
        {
            Assert.Equal(before[j].Offset.Length(), after[after.IndexOf(before[j].Name)].Offset.Length(), 4);
        }

        Assert.Equal(before.RestPositions.Min(p => p.Y), after.RestPositions.Min(p => p.Y), 3);
    }

    [Fact]
    public void A_straightened_character_keeps_its_mesh_and_stands_in_the_T_pose()
    {
        // First with its arms hanging: the Stevedore's own nodes turned.
        var bytes = HarbourCharacters.Build("Stevedore");
        var own = GltfReader.GltfBindingOf(GltfReader.Open(bytes, "s"), "s").Skeleton;
        var roles = RoleFinder.Find(own).Roles;
        int Arm(BodyRole r) => own.IndexOf(roles[r]);
        var hanging = new Skeleton(
            own.Joints.Select(
                (j, i) =>
                    i == Arm(BodyRole.UpperArmL) || i == Arm(BodyRole.UpperArmR)
                        ? j with
                        {
                            RestRotation = Turned(own, i, (i == Arm(BodyRole.UpperArmL) ? -1 : 1) * 50),
                        }
                        : j
            )
        );
        AtomicFile.Write(P("hanging.glb"), s => GltfWriter.WriteAtRest(s, bytes, "s", hanging));
        var r = Json("rig", P("hanging.glb"));
        Assert.Equal("willDrift", (string)r["rest"]!["verdict"]!);
        // A hanging arm is no shorter body.
        Assert.Equal((double)Json("rig", Character("Stevedore"))["heightMetres"]!, (double)r["heightMetres"]!, 0.01);
        Assert.Equal(50, (double)r["rest"]!["reasons"]![0]!["degrees"]!, 1.5);
        Json("rig", P("hanging.glb"), "--straighten", "--out", P("straight.glb"));
        Assert.Equal("ready", (string)Json("rig", P("straight.glb"))["rest"]!["verdict"]!);
        Assert.Equal((int)Json("inspect", P("hanging.glb"))["meshes"]!, (int)Json("inspect", P("straight.glb"))["meshes"]!);
    }

    /// <summary>A joint's rest turn after it was turned about the world's Z.</summary>
    private static Quaternion Turned(Skeleton s, int joint, double degrees)
    {
        var parent = s.RestRotations[s.Parents[joint]];
        var turned = Rotations.AboutAxis(2, degrees * Math.PI / 180) * s.RestRotations[joint];
        return Quaternion.Normalize(Quaternion.Conjugate(parent) * turned);
    }

    [Fact]
    public void What_names_do_not_say_is_taken_from_the_shape_and_what_is_doubtful_is_asked()
    {
        var numbers = Json("rig", Bvh("digits.bvh", 0, 0, n => $"n{Math.Abs(n.Aggregate(7, (h, c) => (h * 31) + c)) % 100000}"));
        Assert.Empty(numbers["missing"]!.AsArray());
        // Two names changed about: the shape speaks against them, and a person is asked.
        var swapped = Json("rig", Bvh("swapped.bvh", 0, 0, n => n == "ForearmL" ? "ForearmR"
                : n == "ForearmR" ? "ForearmL"
                : n));
        var asked = swapped["asked"]!
            .AsArray()
            .ToDictionary(a => (string)a!["role"]!, a => a!["candidates"]!.AsArray().Select(c => (string)c!).ToArray());
        Assert.Contains("ForearmL", asked.Keys);
        Assert.Equal(["ForearmL", "ForearmR"], asked["ForearmL"].Order());
    }

    [Fact]
    public void What_is_no_biped_cannot_fit_and_is_not_straightened()
    {
        var snake = new Skeleton(Enumerable.Range(0, 9).Select(i => new Joint($"ring{i}", i - 1, new Vector3(0, 0.1f, 0.1f))));
        MotionFiles.WriteMotion(P("snake.bvh"), Motion.AtRest(snake, 30, 1));
        var r = Json("rig", P("snake.bvh"));
        Assert.Equal("cannotFit", (string)r["rest"]!["verdict"]!);
        Assert.Contains("ThighL", r["missing"]!.AsArray().Select(m => (string)m!));
        Assert.Null(r["facing"]);
        Assert.Equal(3, Run("rig", P("snake.bvh"), "--straighten", "--out", P("out.bvh")));
        Assert.False(File.Exists(P("out.bvh")));
        Assert.Equal(2, Run("rig", P("snake.bvh"), "--straighten"));
        Assert.Equal(2, Run("rig", P("snake.bvh"), "--out", P("out.bvh")));
        Assert.Equal(3, Run("rig", P("nothing.bvh")));
    }
}
