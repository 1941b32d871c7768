using System.Collections.Concurrent;
using System.Numerics;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Skeletons;

namespace Eidolon.StandIns.Characters;

/// <summary>The characters of Harbour Lights as skinned GLB, made by code. Their names and joint axes differ on purpose.</summary>
public static class HarbourCharacters
{
    /// <summary>Those that the demo brings in.</summary>
    public static IReadOnlyList<string> Names { get; } = ["Stevedore", "Lamplighter"];

    /// <summary>All of them; the last one's rig says nothing: numbers for names, arms lowered, facing away, in inches.</summary>
    public static IReadOnlyList<string> All { get; } = [.. Names, "Harbour Master"];

    private static readonly ConcurrentDictionary<string, Lazy<byte[]>> Built = new(StringComparer.Ordinal);

    /// <summary>The GLB of a character; made once and then handed out again.</summary>
    public static byte[] Build(string name) =>
        [
            .. Built
                .GetOrAdd(name, n => new(() =>
                    {
                        var (skeleton, figure) = Figure(n);
                        return GltfSkinWriter.Write(skeleton, figure, n);
                    }))
                .Value,
        ];

    /// <summary>The rig and the skins of a character.</summary>
    public static (Skeleton Skeleton, SkinnedFigure Figure) Figure(string name)
    {
        if (name == All[^1])
        {
            return HarbourMasterFigure.Make();
        }

        var rig = name == "Stevedore" ? Stevedore() : Lamplighter();
        return (rig, name == "Stevedore" ? StevedoreFigure.Sculpt(rig) : LamplighterFigure.Sculpt(rig));
    }

    /// <summary>Broad, 1.95 m, long arms, barrel chest, a spine of three, twist joints; Y along the bones.</summary>
    private static Skeleton Stevedore() => Rig.Dress(StevedoreFigure.Body(), StevedoreName, 1);

    /// <summary>Small, 1.45 m, slight, in a coat and a tall hat, with a spine of two and a joint on the floor; X along the bones.</summary>
    private static Skeleton Lamplighter()
    {
        var body = LamplighterFigure.Body();
        var root = new Joint("Root", -1, Vector3.Zero) { Role = BodyRole.Root, EndSite = Vector3.UnitY * 0.1f };
        return Rig.Dress(new Skeleton([root, .. body.Joints.Select(j => j with { Parent = j.Parent + 1 })]), LamplighterName, 0);
    }

    private static string StevedoreName(BodyRole role)
    {
        var n = role.ToString();
        var side =
            BodyRoles.Side(role) == 'C' ? string.Empty
            : BodyRoles.Side(role) == 'L' ? "_l"
            : "_r";
        if (BodyRoles.IsFinger(role))
        {
            return $"dock_{n[..^2].ToLowerInvariant()}_0{n[^1]}{side}";
        }

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
        if (BodyRoles.IsFinger(role))
        {
            return $"{side}{n[..^2]}{n[^1]}";
        }

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
