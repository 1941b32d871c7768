using System.Numerics;

namespace Eidolon.Studio.Services;

/// <summary>How a moment of a row of postures is looked at: from the side, the floor at the lower edge.</summary>
/// <param name="Middle">What is in the centre, metres.</param>
/// <param name="Yaw">The view's turn about the vertical, radians.</param>
/// <param name="Scale">Pixels a metre.</param>
/// <param name="Centre">Of the picture, pixels from its left edge.</param>
public sealed record PostureView(Vector3 Middle, float Yaw, float Scale, float Centre)
{
    /// <summary>Where the floor is drawn, pixels from the upper edge.</summary>
    public const float Floor = 30;

    /// <summary>How far a place is from the left edge, pixels.</summary>
    public float Across(Vector3 p) => Centre + ((((p.X - Middle.X) * MathF.Cos(Yaw)) + ((p.Z - Middle.Z) * MathF.Sin(Yaw))) * Scale);

    /// <summary>Where a place is in the picture, pixels.</summary>
    public (float X, float Y) Of(Vector3 p) => (Across(p), Floor - (p.Y * Scale));
}
