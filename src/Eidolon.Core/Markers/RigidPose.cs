using System.Numerics;

namespace Eidolon.Core.Markers;

/// <summary>Where a prop is in one frame.</summary>
/// <param name="Position">Of the pivot, metres; NaN when it cannot be told.</param>
/// <param name="Seen">Markers seen.</param>
/// <param name="RmsMillimetres">How well they keep their shape.</param>
/// <param name="Trust">0 not to be trusted … 1 every marker seen where it should be.</param>
public readonly record struct RigidPose(Vector3 Position, Quaternion Rotation, int Seen, float RmsMillimetres, float Trust)
{
    /// <summary>Nowhere.</summary>
    public static RigidPose Lost { get; } = new(new Vector3(float.NaN), Quaternion.Identity, 0, 0, 0);

    /// <summary>Below this a pose is a gap.</summary>
    public const float Least = 0.3f;

    /// <summary>Good enough to be used.</summary>
    public bool Trusted => Trust >= Least;
}
