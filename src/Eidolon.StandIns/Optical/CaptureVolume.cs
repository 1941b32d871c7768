using System.Numerics;

namespace Eidolon.StandIns.Optical;

/// <summary>The stage of the production: 8 × 6 × 3 m with twelve cameras in a ring.</summary>
public static class CaptureVolume
{
    public static Vector3 Size { get; } = new(8, 3, 6);

    /// <summary>Camera places, metres.</summary>
    public static IReadOnlyList<Vector3> Cameras { get; } =
    [
        .. Enumerable
            .Range(0, 12)
            .Select(i =>
            {
                var a = (i + 0.5f) * MathF.Tau / 12;
                return new Vector3(MathF.Sin(a) * 4.6f, 2.75f + (0.25f * (i % 2)), MathF.Cos(a) * 3.7f);
            }),
    ];
}
