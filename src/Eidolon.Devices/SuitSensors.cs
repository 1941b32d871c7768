using Eidolon.Core.Inertial;
using Eidolon.Core.Skeletons;

namespace Eidolon.Devices;

/// <summary>The seventeen sensors of the suit and the bones they are strapped to.</summary>
public static class SuitSensors
{
    public static IReadOnlyList<BodyRole> Bones => SuitBones.All;

    /// <summary>Values a sensor sends: gyroscope (rad/s), accelerometer (m/s²), magnetometer (µT), three each.</summary>
    public const int Values = SuitTake.ValuesPerSensor;

    public const double Rate = 100;

    /// <summary>Strength of the Earth's field where there is no steel, µT (mid-latitudes).</summary>
    public const double UsualField = 48;
}
