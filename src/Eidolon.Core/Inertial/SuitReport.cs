using Eidolon.Core.Cleaning;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Inertial;

/// <summary>What solving a suit's recording had to say.</summary>
public sealed record SuitReport
{
    /// <summary>The ranges it was calibrated with.</summary>
    public required SuitPoses Poses { get; init; }

    /// <summary>The way of the pelvis over the floor, metres.</summary>
    public required double TravelMetres { get; init; }

    /// <summary>What stood when.</summary>
    public required IReadOnlyList<Contact> Contacts { get; init; }

    /// <summary>Where the field was not the room's.</summary>
    public required IReadOnlyList<DisturbedRange> Disturbed { get; init; }

    /// <summary>Mean bias of each gyroscope, rad/s, in its own axes.</summary>
    public required IReadOnlyDictionary<BodyRole, Vector3d> Bias { get; init; }

    /// <summary>What cannot be trusted, in words.</summary>
    public required IReadOnlyList<string> Warnings { get; init; }
}
