using System.Numerics;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Video;

/// <summary>Stretches of films in which a part of the body is not where the solve has it: there the tracker, or the solve, is wrong.</summary>
public static class FilmStretches
{
    /// <summary>Off by this on a picture 1920 wide is worth a look, and by that wrong; pixels.</summary>
    public const double Look = 22,
        Wrong = 45;

    /// <summary>Shorter stretches are noise, and those with less between them are one; seconds.</summary>
    private const double Shortest = 0.2,
        Joined = 0.25;

    /// <summary>What is off, the worst first; frames are those of the motion.</summary>
    /// <param name="names">Of the films, for people.</param>
    public static IReadOnlyList<Finding> Find(
        IReadOnlyList<FilmTake> films,
        IReadOnlyList<FilmLook> looks,
        IReadOnlyList<double> widths,
        IReadOnlyList<double> offsets,
        IReadOnlyList<string> names,
        Motion motion
    )
    {
        var findings = new List<Finding>();
        for (var k = 0; k < films.Count; k++)
        {
            var own = looks[k].Names.ToHashSet();
            var parts = FilmPoints.All.Where(p => own.Contains(p.Name)).GroupBy(p => BodyRoles.Part(p.Joint)).ToArray();
            foreach (var part in parts)
            {
                double[] misses = [.. looks[k].Misses(part.Select(p => p.Name).ToHashSet()).Select(m => m ?? 0)];
                var rate = films[k].FrameRate;
                foreach (var (start, end) in FilmRuns.Above(misses, Look * widths[k] / 1920, Shortest * rate, Joined * rate))
                {
                    var worst = misses[start..(end + 1)].Max();
                    int OnMotion(int f) =>
                        Math.Clamp(
                            (int)Math.Round(((f / rate) + offsets[k]) * motion.FrameRate) - motion.FirstFrame,
                            0,
                            motion.FrameCount - 1
                        );
                    var severity = worst >= Wrong * widths[k] / 1920 ? Severity.MustFix : Severity.Look;
                    findings.Add(
                        new Finding(
                            "film",
                            OnMotion(start),
                            OnMotion(end),
                            severity,
                            $"{part.Key} in {names[k]}",
                            $"{worst:0} px from where the body has it",
                            worst
                        )
                        {
                            Other = k.ToString(System.Globalization.CultureInfo.InvariantCulture),
                        }
                    );
                }
            }
        }

        return [.. findings.OrderBy(f => f.Severity).ThenByDescending(f => f.Measure * (f.End - f.Start + 1))];
    }
}
