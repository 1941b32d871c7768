using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>The limbs that are brought to places: what each hangs from, where it bends, where it ends.</summary>
internal static class LimbRoles
{
    /// <summary>Left, right.</summary>
    public static (BodyRole Upper, BodyRole Lower, BodyRole End)[] Legs { get; } =
    [(BodyRole.ThighL, BodyRole.ShinL, BodyRole.FootL), (BodyRole.ThighR, BodyRole.ShinR, BodyRole.FootR)];

    /// <summary>Legs with the toes that go with their foot.</summary>
    public static (BodyRole Thigh, BodyRole Shin, BodyRole Foot, BodyRole Toes)[] WithToes { get; } =
    [(BodyRole.ThighL, BodyRole.ShinL, BodyRole.FootL, BodyRole.ToesL), (BodyRole.ThighR, BodyRole.ShinR, BodyRole.FootR, BodyRole.ToesR)];

    /// <inheritdoc cref="Legs"/>
    public static (BodyRole Upper, BodyRole Lower, BodyRole End)[] Arms { get; } =
    [(BodyRole.UpperArmL, BodyRole.ForearmL, BodyRole.HandL), (BodyRole.UpperArmR, BodyRole.ForearmR, BodyRole.HandR)];

    /// <summary>Legs, then arms.</summary>
    public static (BodyRole Upper, BodyRole Lower, BodyRole End)[] All { get; } = [.. Legs, .. Arms];
}
