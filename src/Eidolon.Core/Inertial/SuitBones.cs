using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Inertial;

/// <summary>The bones that the sensors of a suit are strapped to, in the order they are sent.</summary>
public static class SuitBones
{
    /// <summary>Seventeen: trunk, arms and legs, the clavicles included.</summary>
    public static IReadOnlyList<BodyRole> All { get; } =
    [
        BodyRole.Pelvis,
        BodyRole.Chest,
        BodyRole.Head,
        BodyRole.ClavicleL,
        BodyRole.ClavicleR,
        BodyRole.UpperArmL,
        BodyRole.UpperArmR,
        BodyRole.ForearmL,
        BodyRole.ForearmR,
        BodyRole.HandL,
        BodyRole.HandR,
        BodyRole.ThighL,
        BodyRole.ThighR,
        BodyRole.ShinL,
        BodyRole.ShinR,
        BodyRole.FootL,
        BodyRole.FootR,
    ];

    /// <summary>Which sensor is on a bone.</summary>
    public static int IndexOf(BodyRole bone) => Array.IndexOf(Order, bone);

    private static readonly BodyRole[] Order = [.. All];
}
