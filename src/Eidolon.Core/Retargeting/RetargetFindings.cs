using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>What a person should look at in a retarget: hands that do not come where they are held, joints that are bent too much for it.</summary>
public static class RetargetFindings
{
    /// <summary>A held hand this far off is looked at, and that far is put right, millimetres.</summary>
    private const double Look = 3,
        MustFix = 20;

    /// <summary>An elbow or knee so bent is put right, degrees.</summary>
    private const double MostBent = 160;

    /// <summary>Ranges no farther apart than this are one, seconds.</summary>
    private const double Join = 0.15;

    /// <summary>Findings of kinds "short of its place" and "too much bend".</summary>
    public static IEnumerable<Finding> Of(RetargetReport report, RetargetSetup setup, double rate)
    {
        foreach (var bend in report.Bends)
        {
            var (part, end) = bend.Role is BodyRole.ForearmL or BodyRole.ForearmR ? ("Elbow", "hand") : ("Knee", "foot");
            yield return new Finding(
                "too much bend",
                bend.Start,
                bend.End,
                bend.Millimetres > 0 || bend.Degrees > MostBent ? Severity.MustFix : Severity.Look,
                part + BodyRoles.Side(bend.Role),
                bend.Millimetres > 0
                    ? $"{bend.Millimetres:0} mm from where it is held: its {end} is held as well"
                    : $"bent by {bend.Degrees:0}°",
                Math.Max(bend.Millimetres, bend.Degrees)
            );
        }

        foreach (var role in new[] { BodyRole.HandL, BodyRole.HandR })
        {
            foreach (var finding in Short(role, setup.Hold(role), report.Drift.GetValueOrDefault(role, []), rate))
            {
                yield return finding;
            }
        }
    }

    private static IEnumerable<Finding> Short(BodyRole role, Holding holding, float[] drift, double rate)
    {
        var join = (int)(Join * rate);
        for (var f = 0; f < drift.Length; f++)
        {
            if (!Is(f))
            {
                continue;
            }

            var (end, worst) = (f, f);
            for (var g = f; g < drift.Length && g - end <= join; g++)
            {
                (end, worst) = Is(g) ? (g, drift[g] > drift[worst] ? g : worst) : (end, worst);
            }

            yield return new Finding(
                "short of its place",
                f,
                end,
                drift[worst] > MustFix ? Severity.MustFix : Severity.Look,
                role.ToString(),
                $"{drift[worst]:0.0} mm off at {worst}: the arm is not long enough",
                drift[worst]
            );
            f = end + join;
        }

        bool Is(int f) => drift[f] > Look && holding.At(f).Place >= 0.99f;
    }
}
