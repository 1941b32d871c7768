using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Clipping;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Quality;

/// <summary>The measures of a motion that anybody can compare. Millimetres and m/s².</summary>
public sealed record MotionQuality
{
    /// <summary>How far planted joints move over the floor from frame to frame, mean, millimetres.</summary>
    public required double SlidePerFrame { get; init; }

    /// <summary>The contact that slid farthest: joint, frames and slide; null without contacts.</summary>
    public required (string Joint, int Start, int End, double Millimetres)? WorstSlide { get; init; }

    /// <summary>Deepest a planted joint sinks below where it stands at rest.</summary>
    public required double Penetration { get; init; }

    /// <summary>Highest a planted joint floats above where it stands at rest.</summary>
    public required double Float { get; init; }

    /// <summary>RMS of the joints' acceleration above 15 Hz, m/s²; not a number where the rate is too low to tell.</summary>
    public required double Jitter { get; init; }

    /// <summary>Largest change of a bone's length.</summary>
    public required double BoneDrift { get; init; }

    /// <summary>Contacts that the measures stand on.</summary>
    public required IReadOnlyList<Contact> Contacts { get; init; }

    /// <summary>Frames in which bodies are in each other.</summary>
    public required IReadOnlyList<ClippingFrame> Clipping { get; init; }

    /// <summary>What a person should look at.</summary>
    public required IReadOnlyList<Finding> Findings { get; init; }

    /// <summary>What clips again after less than this is one Finding, seconds.</summary>
    private const double OneClipping = 0.1;

    /// <summary>
    /// From here on a planted foot that is not on the floor is a Finding, millimetres; a foot that rolls lifts its ankle by the margin on top.
    /// </summary>
    private const double Sunk = 15,
        FloatMargin = 25;

    /// <summary>Measures a motion whose skeleton has roles; without feet the foot measures are zero.</summary>
    /// <param name="edits">What a person has decided about contacts.</param>
    /// <param name="volumes">What of the body may not go into the rest of it; by average proportions when null.</param>
    public static MotionQuality Measure(Motion motion, IReadOnlyList<ContactEdit>? edits = null, BodyVolumes? volumes = null)
    {
        var s = motion.Skeleton;
        var turns = new Quaternion[motion.Rotations.Length];
        var world = ForwardKinematics.WorldPositions(motion, turns);
        var contacts = BodyContacts.Find(motion, edits).Joints;
        var findings = new List<Finding>();
        double slide = 0,
            frames = 0,
            sink = 0,
            lift = 0;
        (string, int, int, double)? worst = null;
        foreach (var c in contacts)
        {
            var joint = s.IndexOf(c.Role);
            var mm = FootSlideMeasure.Slide(world, s.Count, joint, c.Start, c.End) * 1000;
            slide += mm;
            frames += c.Length;
            if (worst is null || mm > worst.Value.Item4)
            {
                worst = (s[joint].Name, c.Start, c.End, mm);
            }

            // A Finding is about where the foot ends up: the path alone also sums the tremble of a standing foot.
            var away = FootSlideMeasure.Reach(world, s.Count, joint, c.Start, c.End) * 1000;
            if (away > 6)
            {
                findings.Add(
                    new Finding(
                        "foot slide",
                        c.Start,
                        c.End,
                        away > 25 ? Severity.MustFix : Severity.Look,
                        s[joint].Role?.ToString() ?? s[joint].Name,
                        $"drifts {away:0} mm while planted",
                        away
                    )
                );
            }

            var (down, up) = Heights(world, s, joint, c);
            if (Math.Max(down, up - FloatMargin) > Sunk)
            {
                findings.Add(
                    new Finding(
                        "floor",
                        c.Start,
                        c.End,
                        Math.Max(down, up) > 40 ? Severity.MustFix : Severity.Look,
                        s[joint].Role?.ToString() ?? s[joint].Name,
                        down > up ? $"{down:0} mm below the floor" : $"{up:0} mm above the floor while planted",
                        Math.Max(down, up)
                    )
                );
            }

            sink = Math.Max(sink, down);
            lift = Math.Max(lift, up);
        }

        var clipping = ClippingMeasure.Measure(motion, world, turns, volumes);
        findings.AddRange(ClippingFindings(clipping, (int)Math.Ceiling(OneClipping * motion.FrameRate)));
        return new MotionQuality
        {
            SlidePerFrame = frames > 0 ? slide / frames : 0,
            WorstSlide = worst,
            Penetration = sink,
            Float = lift,
            Jitter = JitterOf(world, s.Count, motion),
            BoneDrift = Drift(motion) * 1000,
            Contacts = contacts,
            Clipping = clipping,
            Findings = MarkerFindings.Order(findings),
        };
    }

    /// <summary>Against the joint's height at rest over the floor; what stands far above it stands on something.</summary>
    private static (double Down, double Up) Heights(Vector3[] world, Skeleton s, int joint, Contact c)
    {
        var floor = s.RestPositions.Min(p => p.Y);
        var rest = s.RestPositions[joint].Y - (MathF.Abs(floor) < 0.06f ? 0 : floor);
        double down = 0,
            up = 0;
        for (var f = c.Start; f <= c.End; f++)
        {
            var h = world[(f * s.Count) + joint].Y - rest;
            down = Math.Max(down, -h * 1000);
            up = Math.Max(up, h * 1000);
        }

        // More than ten centimetres up is no float but something to stand on.
        return (down, up > 100 ? 0 : up);
    }

    private static IEnumerable<Finding> ClippingFindings(List<ClippingFrame> clipping, int near)
    {
        foreach (var run in clipping.GroupBy(c => (c.PartA, c.PartB)))
        {
            var frames = run.OrderBy(c => c.Frame).ToArray();
            for (var i = 0; i < frames.Length; )
            {
                var j = i;
                while (j + 1 < frames.Length && frames[j + 1].Frame - frames[j].Frame < near)
                {
                    j++;
                }

                var deepest = frames[i..(j + 1)].MaxBy(c => c.DepthMillimetres);
                if (deepest.DepthMillimetres > 10)
                {
                    yield return new Finding(
                        "clipping",
                        frames[i].Frame,
                        frames[j].Frame,
                        deepest.DepthMillimetres > 30 ? Severity.MustFix : Severity.Look,
                        $"{run.Key.PartA} in {run.Key.PartB}",
                        $"{deepest.DepthMillimetres:0} mm deep at {deepest.Frame}",
                        deepest.DepthMillimetres
                    );
                }

                i = j + 1;
            }
        }
    }

    private static double JitterOf(Vector3[] world, int joints, Motion motion)
    {
        double sum = 0;
        var count = 0;
        var path = new Vector3[motion.FrameCount];
        for (var j = 0; j < joints; j++)
        {
            for (var f = 0; f < path.Length; f++)
            {
                path[f] = world[(f * joints) + j];
            }

            var value = JitterMeasure.Measure(path, motion.FrameRate);
            if (!double.IsNaN(value))
            {
                sum += value * value;
                count++;
            }
        }

        return count == 0 ? double.NaN : Math.Sqrt(sum / count);
    }

    private static double Drift(Motion motion)
    {
        var s = motion.Skeleton;
        double worst = 0;
        for (var k = 0; k < motion.Translations.Length; k++)
        {
            var j = k % s.Count;
            // A root and the first moving joint below static ones carry the travel.
            if (s.Parents[j] >= 0 && s[j].Role != BodyRole.Pelvis)
            {
                worst = Math.Max(worst, Math.Abs(motion.Translations[k].Length() - s[j].Offset.Length()));
            }
        }

        return worst;
    }
}
