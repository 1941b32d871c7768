using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>What of a retarget cannot be trusted as it stands, in words.</summary>
internal static class RetargetWarnings
{
    /// <summary>A hold that is off by less than this is kept, millimetres.</summary>
    private const double Kept = 1;

    /// <summary>A bone that turns faster than so many times the performer's fastest jumps.</summary>
    private const double Jump = 1.2;

    public static IEnumerable<string> Of(RetargetReport report)
    {
        foreach (var (role, error) in report.HoldErrors.Where(h => h.Value > Kept))
        {
            var foot = role is BodyRole.FootL or BodyRole.FootR;
            yield return $"the {Side(role)} {(foot ? "planted foot" : "held hand")} stays up to {error:0} mm short of its place: "
                + $"the {(foot ? "leg" : "arm")} is not long enough there";
        }

        foreach (var bend in report.Bends)
        {
            var (part, end) = bend.Role is BodyRole.ForearmL or BodyRole.ForearmR ? ("elbow", "hand") : ("knee", "foot");
            var where = $"frames {bend.Start} to {bend.End}";
            yield return bend.Millimetres > 0
                ? $"the {Side(bend.Role)} {part} is up to {bend.Millimetres:0} mm from where it is held, {where}: the {end} is held as well"
                : $"the {Side(bend.Role)} {part} bends {bend.Degrees:0} degrees, {where}: too much for what is held";
        }

        if (report.Fastest is { Ratio: > Jump } fastest)
        {
            yield return $"{fastest.Role} turns {fastest.Ratio:0.0} times as fast at frame {fastest.Frame} as anything of the performer does";
        }
    }

    private static string Side(BodyRole role) => BodyRoles.Side(role) == 'L' ? "left" : "right";
}
