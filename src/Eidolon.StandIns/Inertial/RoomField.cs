using System.Numerics;

namespace Eidolon.StandIns.Inertial;

/// <summary>The magnetic field of the room: the Earth's, and a steel bollard that bends it.</summary>
public static class RoomField
{
    /// <summary>48 µT, dipping 66° below the horizon towards +Z.</summary>
    public static Vector3 Earth { get; } = new(0, -43.85f, 19.52f);

    /// <summary>Where the steel stands, metres.</summary>
    public static Vector3 Steel { get; } = new(2.6f, 0.35f, -1.9f);

    /// <summary>Field at a place, µT.</summary>
    /// <remarks>A dipole induced along the Earth's field, Jackson, "Classical Electrodynamics", 5.56.</remarks>
    public static Vector3 At(Vector3 place)
    {
        var r = place - Steel;
        var d = MathF.Max(0.25f, r.Length());
        var n = r / d;
        var moment = Earth * 0.16f;
        return Earth + (((3 * n * Vector3.Dot(n, moment)) - moment) / (d * d * d));
    }
}
