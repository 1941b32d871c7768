using System.Collections.Frozen;

namespace Eidolon.Core.Skeletons;

/// <summary>What the roles are to one another: sides, parents, and which are needed.</summary>
public static class BodyRoles
{
    /// <summary>Whether a skeleton has every role that a body needs.</summary>
    public static bool Complete(Skeleton s) => Required.All(r => s.IndexOf(r) >= 0);

    private static readonly FrozenDictionary<BodyRole, BodyRole> MirrorOf = BuildMirror();

    private static readonly FrozenDictionary<BodyRole, BodyRole> ParentOf = BuildParents();

    /// <summary>Roles without which no motion can be transferred; a spine role or Chest comes on top.</summary>
    public static IReadOnlyList<BodyRole> Required { get; } =
    [
        BodyRole.Pelvis,
        BodyRole.Head,
        BodyRole.UpperArmL,
        BodyRole.ForearmL,
        BodyRole.HandL,
        BodyRole.ThighL,
        BodyRole.ShinL,
        BodyRole.FootL,
        BodyRole.UpperArmR,
        BodyRole.ForearmR,
        BodyRole.HandR,
        BodyRole.ThighR,
        BodyRole.ShinR,
        BodyRole.FootR,
    ];

    /// <summary>Roles that are needed and not among these; a spine without any joint lacks its Chest.</summary>
    public static IReadOnlyList<BodyRole> MissingFrom(Func<BodyRole, bool> played) =>
        [.. Required.Where(r => !played(r)), .. Spine.Any(played) ? Array.Empty<BodyRole>() : [BodyRole.Chest]];

    /// <summary>The spine from below, without the pelvis.</summary>
    public static IReadOnlyList<BodyRole> Spine { get; } = [BodyRole.SpineLower, BodyRole.SpineMid, BodyRole.SpineUpper, BodyRole.Chest];

    /// <summary>The same place on the other side; centre roles are their own mirror.</summary>
    public static BodyRole Mirror(BodyRole role) => MirrorOf.GetValueOrDefault(role, role);

    /// <summary>'L', 'R' or 'C'.</summary>
    public static char Side(BodyRole role) => MirrorOf.ContainsKey(role) ? (IsLeft(role) ? 'L' : 'R') : 'C';

    /// <summary>The role this one hangs from on a full body; null for Root.</summary>
    public static BodyRole? Parent(BodyRole role) => ParentOf.TryGetValue(role, out var p) ? p : null;

    /// <summary>True for the joints of the fingers.</summary>
    public static bool IsFinger(BodyRole role) => role.ToString() is var n && char.IsDigit(n[^1]);

    /// <summary>The role's name without its side: Thigh for both thighs, Index2 for both index fingers' middle joints.</summary>
    public static string Stem(BodyRole role) =>
        Side(role) == 'C' ? role.ToString()
        : role.ToString() is var n && char.IsDigit(n[^1]) ? n.Remove(n.Length - 2, 1)
        : n[..^1];

    /// <summary>The bone that ends at a joint, by its own name: the forearm's joint ends the upper arm.</summary>
    /// <param name="stem">A role's name without its side, see <see cref="Stem"/>.</param>
    public static string BoneTo(string stem) =>
        stem switch
        {
            "Clavicle" => "chest to collarbone",
            "UpperArm" => "collarbone",
            "Forearm" => "upper arm",
            "Hand" => "forearm",
            "Thigh" => "half hips",
            "Shin" => "thigh",
            "Foot" => "shin",
            "Toes" => "foot",
            "SpineLower" => "pelvis",
            "SpineMid" or "SpineUpper" => "lower back",
            "Chest" => "upper back",
            "Neck" => "chest",
            "Head" => "neck",
            _ => stem,
        };

    /// <summary>Where on the body a role is.</summary>
    public static BodySection Section(BodyRole role) =>
        role is BodyRole.NeckLower or BodyRole.Neck or BodyRole.Head or BodyRole.Jaw or BodyRole.EyeL or BodyRole.EyeR ? BodySection.Head
        : Side(role) == 'C' ? BodySection.Trunk
        : Stem(role) is "Thigh" or "Shin" or "Foot" or "Toes" ? BodySection.Leg
        : Stem(role) is "Hand" || IsFinger(role) ? BodySection.Hand
        : BodySection.Arm;

    /// <summary>The part of the body a role belongs to in lanes and tables: "Head and trunk", or a section with its side, "Arm L".</summary>
    public static string Part(BodyRole role) =>
        Section(role) is var section && section is BodySection.Head or BodySection.Trunk ? "Head and trunk" : $"{section} {Side(role)}";

    /// <summary>The joint ends a bone that is straight and long: upper arm, forearm, thigh or shin.</summary>
    public static bool EndsLongBone(BodyRole? role) => role is { } r && Stem(r) is ("Forearm" or "Hand" or "Shin" or "Foot");

    private static bool IsLeft(BodyRole role) => SideLetter(role.ToString()) == 'L';

    private static char SideLetter(string name) => char.IsDigit(name[^1]) ? name[^2] : name[^1];

    private static FrozenDictionary<BodyRole, BodyRole> BuildMirror()
    {
        var map = new Dictionary<BodyRole, BodyRole>();
        foreach (var role in Enum.GetValues<BodyRole>())
        {
            var n = role.ToString();
            var at = char.IsDigit(n[^1]) ? n.Length - 2 : n.Length - 1;
            if (n[at] is not ('L' or 'R'))
            {
                continue;
            }

            var other = string.Concat(n.AsSpan(0, at), n[at] == 'L' ? "R" : "L", n.AsSpan(at + 1));
            if (Enum.TryParse<BodyRole>(other, out var m))
            {
                map[role] = m;
            }
        }

        return map.ToFrozenDictionary();
    }

    private static FrozenDictionary<BodyRole, BodyRole> BuildParents()
    {
        var map = new Dictionary<BodyRole, BodyRole>
        {
            [BodyRole.Pelvis] = BodyRole.Root,
            [BodyRole.SpineLower] = BodyRole.Pelvis,
            [BodyRole.SpineMid] = BodyRole.SpineLower,
            [BodyRole.SpineUpper] = BodyRole.SpineMid,
            [BodyRole.Chest] = BodyRole.SpineUpper,
            [BodyRole.NeckLower] = BodyRole.Chest,
            [BodyRole.Neck] = BodyRole.NeckLower,
            [BodyRole.Head] = BodyRole.Neck,
            [BodyRole.Jaw] = BodyRole.Head,
            [BodyRole.EyeL] = BodyRole.Head,
            [BodyRole.EyeR] = BodyRole.Head,
        };
        foreach (var s in "LR")
        {
            BodyRole R(string stem) => Enum.Parse<BodyRole>(stem);
            map[R($"Clavicle{s}")] = BodyRole.Chest;
            map[R($"UpperArm{s}")] = R($"Clavicle{s}");
            map[R($"UpperArmTwist{s}")] = R($"UpperArm{s}");
            map[R($"Forearm{s}")] = R($"UpperArm{s}");
            map[R($"ForearmTwist{s}")] = R($"Forearm{s}");
            map[R($"Hand{s}")] = R($"Forearm{s}");
            map[R($"Thigh{s}")] = BodyRole.Pelvis;
            map[R($"Shin{s}")] = R($"Thigh{s}");
            map[R($"Foot{s}")] = R($"Shin{s}");
            map[R($"Toes{s}")] = R($"Foot{s}");
            foreach (var f in new[] { "Thumb", "Index", "Middle", "Ring", "Little" })
            {
                map[R($"{f}{s}1")] = R($"Hand{s}");
                map[R($"{f}{s}2")] = R($"{f}{s}1");
                map[R($"{f}{s}3")] = R($"{f}{s}2");
            }
        }

        return map.ToFrozenDictionary();
    }
}
