using System.Numerics;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Skeletons;

namespace Eidolon.StandIns.Characters;

/// <summary>The characters of Harbour Lights as skinned GLB, made by code. Their names and joint axes differ on purpose.</summary>
public static class HarbourCharacters
{
    public static IReadOnlyList<string> Names { get; } = ["Stevedore", "Lamplighter"];

    /// <summary>The GLB of a character.</summary>
    public static byte[] Build(string name) => name == "Stevedore" ? Stevedore() : Lamplighter();

    /// <summary>Broad, 1.95 m, long arms, barrel chest, a spine of three, twist joints; Y along the bones.</summary>
    private static byte[] Stevedore()
    {
        var body = Widen(Anthropometry.Body(1.95f, 1.09f), 1.22f, 1.12f);
        foreach (var s in "LR")
        {
            BodyRole R(string stem) => Enum.Parse<BodyRole>(stem + s);
            body = Rig.Insert(body, R("UpperArmTwist"), R("UpperArm"), R("Forearm"), 0.5f, between: false);
            body = Rig.Insert(body, R("ForearmTwist"), R("Forearm"), R("Hand"), 0.5f, between: false);
        }

        var build = new BodyBuild
        {
            Trunk = 1.22f,
            Belly = 1.24f,
            Shoulders = 1.24f,
            Arms = 1.28f,
            Legs = 1.10f,
            Head = .98f,
            Hands = 1.18f,
            Hat = 1,
            Top = new(.24f, .20f, .26f),
            Trousers = new(.16f, .16f, .20f),
            HatColour = new(.32f, .14f, .10f),
        };
        var skeleton = Rig.Dress(body, StevedoreName, 1);
        return GltfSkinWriter.Write(skeleton, BodySculptor.Sculpt(skeleton, BodyParts.Human(skeleton, build), 0.015f, 0.002f), "Stevedore");
    }

    /// <summary>Small, 1.45 m, slight, in a coat and hood, with a joint on the floor; X along the bones.</summary>
    private static byte[] Lamplighter()
    {
        var body = Widen(Anthropometry.Body(1.45f, 0.97f), 0.90f, 0.92f);
        var joints = body.Joints.Where(j => j.Role != BodyRole.SpineUpper).ToList();
        var removed = body.IndexOf(BodyRole.SpineUpper);
        var offset = body[removed].Offset;
        // A spine of two: the middle joint is taken out and its length given to the chest.
        var shorter = joints
            .Select(j =>
                j with
                {
                    Parent =
                        j.Parent == removed ? removed - 1
                        : j.Parent > removed ? j.Parent - 1
                        : j.Parent,
                    Offset = j.Parent == removed ? j.Offset + offset : j.Offset,
                }
            )
            .ToList();
        var root = new Joint("Root", -1, Vector3.Zero) { Role = BodyRole.Root, EndSite = Vector3.UnitY * 0.1f };
        var rooted = new Skeleton([root, .. shorter.Select(j => j with { Parent = j.Parent + 1 })]);
        var build = new BodyBuild
        {
            Trunk = .88f,
            Belly = .86f,
            Shoulders = .84f,
            Arms = .86f,
            Legs = .86f,
            Head = 1.16f,
            Hands = 1.02f,
            Hat = 2,
            Coat = .82f,
            Top = new(.10f, .22f, .24f),
            Trousers = new(.18f, .14f, .12f),
            HatColour = new(.09f, .19f, .21f),
            Skin = new(.70f, .50f, .40f),
        };
        var skeleton = Rig.Dress(rooted, LamplighterName, 0);
        return GltfSkinWriter.Write(
            skeleton,
            BodySculptor.Sculpt(skeleton, BodyParts.Human(skeleton, build), 0.0115f, 0.002f),
            "Lamplighter"
        );
    }

    private static Skeleton Widen(Skeleton body, float shoulders, float hips) =>
        new(
            body.Joints.Select(j =>
            {
                var n = j.Name;
                return n.StartsWith("UpperArm", StringComparison.Ordinal) ? j with { Offset = j.Offset * new Vector3(shoulders, 1, 1) }
                    : n.StartsWith("Thigh", StringComparison.Ordinal) ? j with { Offset = j.Offset * new Vector3(hips, 1, 1) }
                    : j;
            })
        );

    private static string StevedoreName(BodyRole role)
    {
        var n = role.ToString();
        var side =
            BodyRoles.Side(role) == 'C' ? string.Empty
            : BodyRoles.Side(role) == 'L' ? "_l"
            : "_r";
        var stem = side.Length == 0 ? n : n[..^1];
        return "dock_"
            + (
                stem switch
                {
                    "Pelvis" => "hips",
                    "SpineLower" => "back_01",
                    "SpineUpper" => "back_02",
                    "Chest" => "back_03",
                    "Clavicle" => "collar",
                    "UpperArm" => "upper_arm",
                    "UpperArmTwist" => "upper_arm_twist",
                    "Forearm" => "lower_arm",
                    "ForearmTwist" => "lower_arm_twist",
                    "Hand" => "wrist",
                    "Thigh" => "upper_leg",
                    "Shin" => "lower_leg",
                    "Foot" => "ankle",
                    "Toes" => "toes",
                    _ => stem.ToLowerInvariant(),
                }
            )
            + side;
    }

    private static string LamplighterName(BodyRole role)
    {
        var n = role.ToString();
        var side =
            BodyRoles.Side(role) == 'C' ? string.Empty
            : BodyRoles.Side(role) == 'L' ? "Left"
            : "Right";
        var stem = side.Length == 0 ? n : n[..^1];
        return side
            + (
                stem switch
                {
                    "Pelvis" => "Pelvis",
                    "SpineLower" => "Waist",
                    "Clavicle" => "Collarbone",
                    "UpperArm" => "Arm",
                    "Forearm" => "Elbow",
                    "Hand" => "Palm",
                    "Thigh" => "Thigh",
                    "Shin" => "Knee",
                    "Foot" => "Foot",
                    _ => stem,
                }
            );
    }
}
