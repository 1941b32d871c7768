using Eidolon.Core.Skeletons;

namespace Eidolon.Devices;

/// <summary>The seventeen sensors of the suit and the bones they are strapped to.</summary>
public static class SuitSensors
{
    public static IReadOnlyList<BodyRole> Bones { get; } =
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

    /// <summary>Values a sensor sends: gyroscope (rad/s), accelerometer (m/s²), magnetometer (µT), three each.</summary>
    public const int Values = 9;

    public const double Rate = 100;

    /// <summary>Strength of the Earth's field where there is no steel, µT (mid-latitudes).</summary>
    public const double UsualField = 48;
}
