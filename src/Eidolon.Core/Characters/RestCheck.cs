using System.Globalization;
using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters;

/// <summary>Looks at a character's rest pose: faces +Z, arms level, left like right, a plausible size.</summary>
public static class RestCheck
{
    /// <summary>Faces away by more, degrees.</summary>
    private const float MostTurned = 5;

    /// <summary>An arm that is off level by more, degrees.</summary>
    private const float MostTilted = 3;

    /// <summary>Collarbones whose slopes differ by more, degrees.</summary>
    private const float MostSloped = 4;

    /// <summary>Bones of the two sides that differ by more, metres.</summary>
    private const float MostUneven = 0.01f;

    /// <summary>Heights between which a figure can be, metres.</summary>
    private const float Least = 0.3f,
        Most = 4;

    private static readonly (BodyRole From, BodyRole To, string Name)[] Limbs =
    [
        (BodyRole.UpperArmL, BodyRole.ForearmL, "upper arms"),
        (BodyRole.ForearmL, BodyRole.HandL, "forearms"),
        (BodyRole.ThighL, BodyRole.ShinL, "thighs"),
        (BodyRole.ShinL, BodyRole.FootL, "shins"),
    ];

    /// <summary>Looks at the rest pose of a character's skeleton.</summary>
    public static RestReport Check(Skeleton s)
    {
        var reasons = new List<RestReason>();
        var missing = BodyRoles.MissingFrom(r => s.IndexOf(r) >= 0);
        if (missing.Count > 0)
        {
            return new RestReport(
                RestVerdict.CannotFit,
                [new RestReason(string.Empty, $"no joint plays {string.Join(", ", missing)}")],
                0,
                0
            );
        }

        var facing = BodyFacing.Of(s) ?? Vector3.UnitZ;
        var turn = MathF.Abs(MathF.Atan2(facing.X, facing.Z)) * 180 / MathF.PI;
        if (turn > MostTurned)
        {
            reasons.Add(RestReason.Turned(Name(s, BodyRole.Pelvis), turn, d => $"faces {d} away from ahead", RestRemedy.TurnToFace));
        }

        var tilt = Arms(s, reasons);
        Collarbones(s, reasons);
        Uneven(s, reasons);
        var height = Height(s);
        if (height is < Least or > Most)
        {
            var tall = height.ToString("0.##", CultureInfo.InvariantCulture);
            reasons.Add(new RestReason(string.Empty, $"{tall} m tall: is the unit right?", Centimetres: height * 100));
            return new RestReport(RestVerdict.CannotFit, reasons, height, tilt);
        }

        return new RestReport(reasons.Count == 0 ? RestVerdict.Ready : RestVerdict.WillDrift, reasons, height, tilt);
    }

    /// <summary>From the lowest joint to the highest at rest, metres.</summary>
    public static float Height(Skeleton s) => s.RestPositions.Max(p => p.Y) - s.RestPositions.Min(p => p.Y);

    /// <summary>Degrees that a collarbone rises from its joint to the shoulder.</summary>
    internal static float? Slope(Skeleton s, char side)
    {
        var (from, to) = side == 'L' ? (BodyRole.ClavicleL, BodyRole.UpperArmL) : (BodyRole.ClavicleR, BodyRole.UpperArmR);
        return s.IndexOf(from) < 0 ? null : -Below(At(s, to) - At(s, from));
    }

    private static Vector3 At(Skeleton s, BodyRole role) => s.RestPositions[s.IndexOf(role)];

    private static string Name(Skeleton s, BodyRole role) => s[s.IndexOf(role)].Name;

    /// <summary>Degrees that a bone points below level.</summary>
    private static float Below(Vector3 bone) => MathF.Asin(Math.Clamp(-bone.Y / MathF.Max(1e-4f, bone.Length()), -1, 1)) * 180 / MathF.PI;

    /// <returns>The larger tilt of the two, degrees.</returns>
    private static float Arms(Skeleton s, List<RestReason> reasons)
    {
        var tilt = 0f;
        foreach (
            var (a, b, name, remedy) in new[]
            {
                (BodyRole.UpperArmL, BodyRole.HandL, "left", RestRemedy.ArmL),
                (BodyRole.UpperArmR, BodyRole.HandR, "right", RestRemedy.ArmR),
            }
        )
        {
            var arm = At(s, b) - At(s, a);
            var degrees = Below(arm);
            tilt = MathF.Max(tilt, MathF.Abs(degrees));
            if (MathF.Abs(degrees) > MostTilted)
            {
                reasons.Add(
                    RestReason.Turned(Name(s, a), MathF.Abs(degrees), d => $"{name} arm {d} {(degrees > 0 ? "low" : "high")}", remedy) with
                    {
                        Centimetres = MathF.Abs(arm.Y) * 100,
                    }
                );
            }
        }

        return tilt;
    }

    private static void Collarbones(Skeleton s, List<RestReason> reasons)
    {
        if (Slope(s, 'L') is { } left && Slope(s, 'R') is { } right && MathF.Abs(left - right) > MostSloped)
        {
            reasons.Add(
                RestReason.Turned(
                    Name(s, left < right ? BodyRole.ClavicleL : BodyRole.ClavicleR),
                    MathF.Abs(left - right),
                    d => $"the {(left < right ? "left" : "right")} collarbone lies {d} lower",
                    RestRemedy.Collarbones
                )
            );
        }
    }

    private static void Uneven(Skeleton s, List<RestReason> reasons)
    {
        foreach (var (from, to, name) in Limbs)
        {
            float Long(BodyRole a, BodyRole b) => (At(s, b) - At(s, a)).Length();
            var uneven = MathF.Abs(Long(from, to) - Long(BodyRoles.Mirror(from), BodyRoles.Mirror(to)));
            if (uneven > MostUneven)
            {
                reasons.Add(
                    new RestReason(Name(s, from), $"{name} differ by {uneven * 1000:0} mm", Centimetres: uneven * 100)
                    {
                        Remedy = RestRemedy.Alike,
                    }
                );
            }
        }
    }
}
