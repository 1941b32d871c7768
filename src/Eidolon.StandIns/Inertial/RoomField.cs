using System.Numerics;

namespace Eidolon.StandIns.Inertial;

/// <summary>The magnetic field of a room: the Earth's, and pieces of steel that bend it.</summary>
public sealed class RoomField
{
    /// <param name="steel">Where steel stands, metres, and its moment, µT·m³, along the Earth's field.</param>
    public RoomField(params IReadOnlyList<(Vector3 Place, float Moment)> steel) => Steel = steel;

    /// <summary>48 µT, dipping 66° below the horizon towards +Z.</summary>
    public static Vector3 Earth { get; } = new(0, -43.85f, 19.52f);

    /// <summary>The stage: one steel bollard.</summary>
    public static RoomField Stage { get; } = new((new Vector3(2.6f, 0.35f, -1.9f), 7.68f));

    /// <summary>Where steel stands, metres, and its moment, µT·m³.</summary>
    public IReadOnlyList<(Vector3 Place, float Moment)> Steel { get; }

    /// <summary>A stretch of time in which a load of steel hangs near: start and end in seconds and what it adds, µT.</summary>
    public (float Start, float End, Vector3 Added)? Load { get; init; }

    /// <summary>Field at a place and time, µT.</summary>
    /// <remarks>Dipoles induced along the Earth's field, Jackson, "Classical Electrodynamics", 5.56.</remarks>
    public Vector3 At(Vector3 place, float seconds = 0)
    {
        var field = Earth;
        foreach (var (steel, strength) in Steel)
        {
            var r = place - steel;
            var d = MathF.Max(0.25f, r.Length());
            var n = r / d;
            var moment = Vector3.Normalize(Earth) * strength;
            field += ((3 * n * Vector3.Dot(n, moment)) - moment) / (d * d * d);
        }

        return Load is { } l && seconds >= l.Start && seconds <= l.End ? field + l.Added : field;
    }
}
