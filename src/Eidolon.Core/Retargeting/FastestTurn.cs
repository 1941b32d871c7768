using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>Which bone turns fastest in the world, and how that compares with the performer's fastest.</summary>
/// <param name="Role">Its joint.</param>
/// <param name="Frame">The frame it arrives at.</param>
/// <param name="Ratio">Against the performer's fastest anywhere; 1 when nobody moves.</param>
public sealed record FastestTurn(BodyRole Role, int Frame, double Ratio)
{
    /// <summary>Slower than this nothing can jump, radians a frame.</summary>
    private const float Still = 0.01f;

    /// <param name="fastest">The performer's fastest turn, radians a frame.</param>
    internal static FastestTurn Of(float fastest, Skeleton target, ReadOnlySpan<Quaternion> to)
    {
        var (role, frame, angle) = Find(target, to);
        return new FastestTurn(role, frame, MathF.Max(angle, Still) / MathF.Max(fastest, Still));
    }

    /// <summary>The fastest turn of any needed role, radians a frame.</summary>
    internal static (BodyRole Role, int Frame, float Angle) Find(Skeleton s, ReadOnlySpan<Quaternion> turns)
    {
        (BodyRole Role, int Frame, float Cosine) best = (BodyRole.Pelvis, 0, 1);
        foreach (var role in BodyRoles.Required)
        {
            var j = s.IndexOf(role);
            for (var k = s.Count + j; k < turns.Length; k += s.Count)
            {
                var cosine = MathF.Abs(Quaternion.Dot(turns[k], turns[k - s.Count]));
                best = cosine < best.Cosine ? (role, k / s.Count, cosine) : best;
            }
        }

        return (best.Role, best.Frame, 2 * MathF.Acos(MathF.Min(1, best.Cosine)));
    }
}
