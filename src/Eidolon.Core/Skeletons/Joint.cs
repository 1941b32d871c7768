using System.Numerics;

namespace Eidolon.Core.Skeletons;

/// <summary>One joint of a skeleton at rest.</summary>
/// <param name="Name">Name in its file, unique within the skeleton.</param>
/// <param name="Parent">Index of the parent, −1 for a root; parents come before children.</param>
/// <param name="Offset">Place in the parent's frame, metres.</param>
public sealed record Joint(string Name, int Parent, Vector3 Offset)
{
    /// <summary>Turn in the parent's frame at rest.</summary>
    public Quaternion RestRotation { get; init; } = Quaternion.Identity;

    /// <summary>The role this joint plays, when known.</summary>
    public BodyRole? Role { get; init; }

    /// <summary>End of the last bone in this joint's frame, metres; only on joints without children.</summary>
    public Vector3? EndSite { get; init; }
}
