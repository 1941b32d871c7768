using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.StandIns.Truth;

namespace Eidolon.Bench.Truth;

/// <summary>Beginnings and ends of found contacts against where feet truly stood: every scene, several people, several rates; and the lent recording.</summary>
internal static class ContactTruth
{
    private const double Within = 0.017;

    public static void Run()
    {
        Console.WriteLine("contacts: beginnings and ends within 17 ms, and the worst miss, ms");
        foreach (var rate in TruthRun.Rates(30, 60, 100, 120, 240))
        {
            foreach (var scene in SceneCatalog.Names)
            {
                var misses = new List<double>();
                foreach (var person in Strangers.Some(3, 5).Append(HarbourCast.Ines).Append(HarbourCast.Tobi))
                {
                    foreach (var actor in SceneCatalog.Perform(scene, person, 3, rate).Actors)
                    {
                        misses.AddRange(ContactScore.Misses(actor));
                    }
                }

                var late = misses.Where(m => Math.Abs(m) > Within + 1e-6).ToArray();
                Console.WriteLine(
                    $"  {rate, 4:0} Hz {scene, -14} {misses.Count(m => Math.Abs(m) <= Within + 1e-6) / (double)misses.Count, 7:P1} of {misses.Count, 4}, worst {misses.MaxBy(Math.Abs) * 1000, 5:0} ms   {string.Join(' ', late.Take(14).Select(m => $"{m * 1000:+0;-0}"))}"
                );
            }
        }

        if (Lent.Folder() is { } folder)
        {
            var motion = Lent.Motion(folder);
            foreach (var rate in new double[] { 30, 60, 120 })
            {
                Recording(rate == motion.FrameRate ? motion : MotionEdits.Resample(motion, rate));
            }
        }
    }

    /// <summary>
    /// What a person would call planted, told apart from the method by dispersion (Salvucci &amp; Goldberg 2000): frames of any 0.12 s in which the ball of the
    /// foot, or the ankle, stays within a box of 15 mm and lies within 5 cm of the lowest it comes to within half a second.
    /// </summary>
    private static void Recording(Motion motion)
    {
        var world = ForwardKinematics.WorldPositions(motion);
        var rate = motion.FrameRate;
        var contacts = BodyContacts.Find(motion).Points;
        var near = (int)Math.Round(0.025 * rate);
        long planted = 0,
            found = 0,
            soon = 0,
            extra = 0;
        var (starts, ends) = (new List<double>(), new List<double>());
        foreach (var side in "LR")
        {
            var still = new bool[motion.FrameCount];
            foreach (var part in new[] { "Foot", "Toes" })
            {
                var joint = motion.Skeleton.IndexOf(Enum.Parse<BodyRole>(part + side));
                Vector3 At(int f) => world[(Math.Clamp(f, 0, motion.FrameCount - 1) * motion.Skeleton.Count) + joint];
                var length = Math.Max(2, (int)Math.Round(rate * 0.12));
                var half = (int)(rate / 2);
                for (var f = 0; f + length < motion.FrameCount; f++)
                {
                    var (min, max) = (At(f), At(f));
                    for (var k = 1; k <= length; k++)
                    {
                        (min, max) = (Vector3.Min(min, At(f + k)), Vector3.Max(max, At(f + k)));
                    }

                    var low = float.PositiveInfinity;
                    for (var k = f - half; k <= f + half + length; k++)
                    {
                        low = MathF.Min(low, At(k).Y);
                    }

                    if ((max - min).Length() < 0.015f && min.Y < low + 0.05f)
                    {
                        still.AsSpan(f, length + 1).Fill(true);
                    }
                }
            }

            var has = new bool[motion.FrameCount];
            foreach (var c in contacts.Where(c => c.Side == side && c.Point is ContactPoint.Heel or ContactPoint.Toe))
            {
                has.AsSpan(c.Start, c.End - c.Start + 1).Fill(true);
            }

            for (var f = 0; f < motion.FrameCount; f++)
            {
                planted += still[f] ? 1 : 0;
                found += still[f] && has[f] ? 1 : 0;
                soon +=
                    still[f] && has.AsSpan(Math.Max(0, f - near), Math.Min(has.Length, f + near + 1) - Math.Max(0, f - near)).Contains(true)
                        ? 1
                        : 0;
                extra += !still[f] && has[f] ? 1 : 0;
                if (f > 0 && still[f] != still[f - 1])
                {
                    // The nearest edge of the same kind.
                    var d = Enumerable
                        .Range(1, motion.FrameCount - 1)
                        .Where(g => has[g] != has[g - 1] && has[g] == still[f])
                        .Select(g => g - f)
                        .DefaultIfEmpty(999)
                        .MinBy(Math.Abs);
                    (still[f] ? starts : ends).Add(d / rate);
                }
            }
        }

        double Share(List<double> d) => d.Count(x => Math.Abs(x) <= 0.025 + 1e-6) / (double)Math.Max(1, d.Count);
        Console.WriteLine(
            $"  recording at {rate:0} Hz: {found / (double)planted:P1} of the planted frames found, {soon / (double)planted:P1} within 25 ms, {extra / (double)(found + extra):P1} more than a person would say; "
                + $"edges within 25 ms: {starts.Count} beginnings {Share(starts):P0}, {ends.Count} ends {Share(ends):P0}; middle {starts.Order().ElementAt(starts.Count / 2) * 1000:+0;-0;0} and {ends.Order().ElementAt(ends.Count / 2) * 1000:+0;-0;0} ms"
        );
    }
}
