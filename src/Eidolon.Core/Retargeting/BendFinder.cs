using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>Where what is held asks too much of an elbow or a knee.</summary>
internal static class BendFinder
{
    /// <summary>Nobody bends further than this, degrees away from straight; where the performer does, so much more is too much.</summary>
    private const double Most = 150,
        More = 8;

    /// <summary>An elbow held as well as its hand that is farther off than this cannot be where both ask for it, millimetres.</summary>
    private const float Apart = 40;

    /// <summary>A middle joint counts as held from this share of Place on.</summary>
    private const float IsHeld = 0.3f;

    /// <summary>Ranges no farther apart than this are one, seconds.</summary>
    private const double Join = 0.15;

    public static IReadOnlyList<BendRange> Find(
        Motion source,
        Vector3[] sourceWorld,
        Motion target,
        Vector3[] world,
        RetargetSetup setup,
        IReadOnlyDictionary<BodyRole, float[]> drift
    )
    {
        var found = new List<BendRange>();
        foreach (var (upper, lower, end) in LimbRoles.All)
        {
            var (hold, middle) = (setup.Hold(end), setup.Hold(lower));
            for (var f = 0; f < target.FrameCount; f++)
            {
                if (hold.At(f).Place <= 0)
                {
                    continue;
                }

                var bend = Bend(target.Skeleton, world, f, upper, lower, end);
                var off = middle.At(f).Place >= IsHeld ? drift[lower][f] : 0;
                var much = bend > Most && bend > Bend(source.Skeleton, sourceWorld, f, upper, lower, end) + More;
                if (!much && off <= Apart)
                {
                    continue;
                }

                if (found.Count > 0 && found[^1].Role == lower && (f - found[^1].End) / source.FrameRate < Join)
                {
                    found[^1] = found[^1] with
                    {
                        End = f,
                        Degrees = Math.Max(found[^1].Degrees, bend),
                        Millimetres = Math.Max(found[^1].Millimetres, off),
                    };
                }
                else
                {
                    found.Add(new BendRange(lower, f, f, bend, off));
                }
            }
        }

        return found;
    }

    /// <summary>How far a limb is from straight, degrees.</summary>
    private static double Bend(Skeleton s, Vector3[] world, int f, BodyRole upper, BodyRole lower, BodyRole end)
    {
        Vector3 At(BodyRole role) => world[(f * s.Count) + s.IndexOf(role)];
        var (a, b) = (At(lower) - At(upper), At(end) - At(lower));
        return Math.Atan2(Vector3.Cross(a, b).Length(), Vector3.Dot(a, b)) * 180 / Math.PI;
    }
}
