using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters;

/// <summary>Looks at a character's rest pose: faces +Z, arms level, left like right, a plausible size.</summary>
public static class RestCheck
{
    /// <summary>Looks at the rest pose of a character's skeleton.</summary>
    public static RestReport Check(Skeleton s)
    {
        var reasons = new List<RestReason>();
        var missing = BodyRoles.Required.Where(r => s.IndexOf(r) < 0).ToArray();
        if (missing.Length > 0)
        {
            return new RestReport(
                RestVerdict.CannotFit,
                [new RestReason(string.Empty, $"no joint plays {string.Join(", ", missing)}")],
                0,
                0
            );
        }

        Vector3 At(BodyRole r) => s.RestPositions[s.IndexOf(r)];
        string Name(BodyRole r) => s[s.IndexOf(r)].Name;
        var height = Height(s);
        var facing = BodyFacing.Of(s) ?? Vector3.UnitZ;
        var turn = MathF.Abs(MathF.Atan2(facing.X, facing.Z)) * 180 / MathF.PI;
        if (turn > 5)
        {
            reasons.Add(RestReason.Turned(Name(BodyRole.Pelvis), turn, d => $"faces {d} away from ahead"));
        }

        float tilt = 0;
        foreach (var (a, b, name) in new[] { (BodyRole.UpperArmL, BodyRole.HandL, "left"), (BodyRole.UpperArmR, BodyRole.HandR, "right") })
        {
            var arm = At(b) - At(a);
            var degrees = MathF.Asin(Math.Clamp(-arm.Y / MathF.Max(1e-4f, arm.Length()), -1, 1)) * 180 / MathF.PI;
            tilt = MathF.Max(tilt, MathF.Abs(degrees));
            if (MathF.Abs(degrees) > 3)
            {
                reasons.Add(RestReason.Turned(Name(a), MathF.Abs(degrees), d => $"{name} arm {d} {(degrees > 0 ? "low" : "high")}"));
            }
        }

        var uneven = MathF.Abs(
            (At(BodyRole.ForearmL) - At(BodyRole.UpperArmL)).Length() - (At(BodyRole.ForearmR) - At(BodyRole.UpperArmR)).Length()
        );
        if (uneven > 0.01f)
        {
            reasons.Add(new RestReason(Name(BodyRole.UpperArmL), $"upper arms differ by {uneven * 1000:0} mm", Centimetres: uneven * 100));
        }

        if (height is < 0.3f or > 4)
        {
            reasons.Add(new RestReason(string.Empty, $"{height:0.##} m tall: is the unit right?", Centimetres: height * 100));
            return new RestReport(RestVerdict.CannotFit, reasons, height, tilt);
        }

        return new RestReport(reasons.Count == 0 ? RestVerdict.Ready : RestVerdict.WillDrift, reasons, height, tilt);
    }

    /// <summary>From the lowest joint to the highest at rest, metres.</summary>
    public static float Height(Skeleton s) => s.RestPositions.Max(p => p.Y) - s.RestPositions.Min(p => p.Y);
}
