using System.Diagnostics;
using System.Numerics;
using Eidolon.Core.Assembly;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Bench.Truth;

/// <summary>How clips go over into one another and how cycles close: pairs of scenes of several people, and stretches of the recording.</summary>
internal static class AssemblyTruth
{
    private static readonly string[] Scenes = ["lamp-walk", "gangplank-hop", "haul-rope", "deck-crouch", "suit-patrol"];

    public static void Run()
    {
        Console.WriteLine(
            "assembly: proposed and fixed overlaps: pairs, worst slide of a planted frame (mm), steps taken, worst and median jolt against the clips' own, over 1.5; "
                + "proposals nearer than the middle of the usual overlap; frames outside off (mm); × real time"
        );
        foreach (var person in Strangers.Some(2, 23).Append(HarbourCast.Ines).Append(HarbourCast.Tobi))
        {
            foreach (var rate in TruthRun.Rates(60, 120))
            {
                var clips = Scenes.Select(s => SceneCatalog.Perform(s, person, 1, rate).Actors[0].Motion).ToList();
                Pairs($"{person.Stature:0.00} m {rate, 3:0} Hz", clips, person.Seed);
                Jolts($"{person.Stature:0.00} m {rate, 3:0} Hz", clips, person.Seed);
            }
        }

        foreach (var person in Strangers.Some(4, 5).Append(HarbourCast.Ines))
        {
            foreach (var scene in new[] { "lamp-walk", "suit-patrol", "gangplank-hop", "haul-rope" })
            {
                Loop($"{scene} {person.Stature:0.00} m", SceneCatalog.Perform(scene, person, 2, 120).Actors[0].Motion);
            }
        }
    }

    public static void Recording()
    {
        if (Lent.Folder() is not { } folder)
        {
            return;
        }

        var motion = Lent.Motion(folder);
        var cuts = Enumerable
            .Range(0, 6)
            .Select(k => MotionEdits.Range(motion, k * motion.FrameCount / 7, ((k + 1) * motion.FrameCount / 7) - 120))
            .ToList();
        Pairs("recording", cuts, 3);
        Jolts("recording", cuts, 3);
        for (var k = 0; k < cuts.Count; k++)
        {
            Loop($"recording {k}", cuts[k]);
        }
    }

    private static void Pairs(string what, List<Motion> clips, int seed)
    {
        var random = new Random(seed);
        var own = clips.Max(c => Slide(c, c.FrameCount));
        var long20 = clips
            .Select(c => MotionEdits.Range(c, 0, Math.Min(c.FrameCount, (int)(20 * c.FrameRate))))
            .OrderByDescending(c => c.FrameCount)
            .ToList();
        var search = Stopwatch.StartNew();
        MomentFinder.Find(long20[0], long20[1], 5);
        Console.WriteLine(
            $"{what}: the clips' own planted feet move up to {own:0.0} mm a frame; moments of {long20[0].DurationSeconds:0} and {long20[1].DurationSeconds:0} s in {search.ElapsedMilliseconds} ms"
        );
        foreach (var kind in new[] { "proposed", "as it comes" })
        {
            var (slide, slides, outside, steps, count, nearer, jolts) = (0.0, 0, 0.0, 0, 0, 0, new List<double>());
            double seconds = 0,
                played = 0;
            foreach (var a in clips)
            {
                foreach (var b in clips.Where(b => b != a))
                {
                    var one = new ClipMotion(a);
                    // A cut anywhere, and 0.3 s of overlap: whatever poses happen to meet there.
                    var cut = a.FrameCount / 2 + random.Next(a.FrameCount / 2);
                    var from = random.Next(b.FrameCount / 2);
                    var length = (int)(.3 * a.FrameRate);
                    var proposed = kind == "proposed";
                    var earlier = proposed ? one : one.Range(0, Math.Max(length + 1, cut));
                    var later = proposed ? new ClipMotion(b) : new ClipMotion(b).Range(from, b.FrameCount);
                    var clock = Stopwatch.StartNew();
                    var baked = ClipJoiner.Join([
                        new(earlier, new ClipPlay(0, Meet.Best)),
                        new(later, new ClipPlay(proposed ? null : length, Meet.Best)),
                    ]);
                    seconds += clock.Elapsed.TotalSeconds;
                    played += baked.Motion.DurationSeconds;
                    var o = baked.Overlaps[0];
                    slide = Math.Max(slide, o.SlideMillimetres);
                    slides += o.SlideMillimetres > 2 ? 1 : 0;
                    steps += o.Steps.Length;
                    jolts.Add(o.AccelerationPeakRatio);
                    outside = Math.Max(outside, Outside(baked, earlier.Motion, later.Motion, proposed));
                    count++;
                    if (proposed)
                    {
                        var best = MomentFinder.Find(a, b, 1)[0];
                        nearer +=
                            best.DistanceMillimetres < MomentFinder.Distance(a, a.FrameCount - best.Frames, b, 0, best.Frames) * 1000
                                ? 1
                                : 0;
                    }
                }
            }

            jolts.Sort();
            Console.WriteLine(
                $"{what, -14} {kind, -12} {count} pairs   slide {slide:0.0}, over 2: {slides}   steps {steps}   jolt {jolts[^1]:0.00} {jolts[count / 2]:0.00}, over 1.5: {jolts.Count(j => j > 1.5)}   "
                    + $"{(kind == "proposed" ? $"nearer {nearer}   " : string.Empty)}outside {outside:0.000}   {played / seconds:0} ×"
            );
        }
    }

    /// <summary>Clips cut anywhere and laid on each other without an overlap, or with next to none: the jolt, before and after it is smoothed.</summary>
    private static void Jolts(string what, List<Motion> clips, int seed)
    {
        foreach (var (overlap, over) in new[] { (0, .3), (0, .6), (.06, .3) })
        {
            var random = new Random(seed);
            var (before, after, slide, cuts) = (new List<double>(), new List<double>(), new List<double>(), new List<double>());
            foreach (var a in clips)
            {
                foreach (var b in clips.Where(b => b != a))
                {
                    var cut = (a.FrameCount / 2) + random.Next(a.FrameCount / 2);
                    var from = random.Next(b.FrameCount / 2);
                    PlannedClip[] Planned(int smooth) =>
                        [
                            new(new ClipMotion(a).Range(0, Math.Max(60, cut)), new ClipPlay(0, Meet.Best)),
                            new(
                                new ClipMotion(b).Range(from, b.FrameCount),
                                new ClipPlay((int)(overlap * a.FrameRate), Meet.Best) { Smooth = smooth }
                            ),
                        ];
                    var o = ClipJoiner.Join(Planned((int)(over * a.FrameRate))).Overlaps[0];
                    cuts.Add(ClipJoiner.Join(Planned(0)).Overlaps[0].SlideMillimetres);
                    before.Add(double.IsFinite(o.AccelerationPeakRatioBefore) ? o.AccelerationPeakRatioBefore : o.AccelerationPeakRatio);
                    after.Add(o.AccelerationPeakRatio);
                    slide.Add(o.SlideMillimetres);
                }
            }

            string Told(List<double> values, double most) =>
                $"{values.Max():0.00} {values.Order().ElementAt(values.Count / 2):0.00}, over {most}: {values.Count(v => v > most)}";
            Console.WriteLine(
                $"{what, -14} cut, overlap {overlap:0.00} s, smoothed over {over} s: {after.Count} pairs   jolt {Told(before, 1.5)} -> {Told(after, 1.5)}   slide {Told(cuts, 2)} -> {Told(slide, 2)}"
            );
        }
    }

    /// <summary>How far joints outside the overlap are from their source, laid as one, millimetres.</summary>
    private static double Outside(BakedMotion baked, Motion a, Motion b, bool cut)
    {
        var o = baked.Overlaps[0];
        var n = a.Skeleton.Count;
        var world = ForwardKinematics.WorldPositions(baked.Motion);
        var (pa, pb) = (ForwardKinematics.WorldPositions(a), ForwardKinematics.WorldPositions(b));
        double worst = 0;
        for (var k = 0; k < o.Start * n; k++)
        {
            worst = Math.Max(worst, (world[k] - pa[k]).Length());
        }

        // The later clip moved as one: every frame by the turn and move of the first after the overlap.
        var skip = b.FrameCount - (baked.Motion.FrameCount - o.End - 1);
        if (skip >= b.FrameCount)
        {
            return worst * 1000;
        }

        var fit = default(Core.Geometry.FloorFit);
        fit.Add(world.AsSpan((o.End + 1) * n, n), pb.AsSpan(skip * n, n));
        var (turn, move) = fit.Lay();
        for (var f = skip; f < b.FrameCount; f++)
        {
            for (var j = 0; j < n; j++)
            {
                var at = Vector3.Transform(pb[(f * n) + j], turn) + move;
                worst = Math.Max(worst, (world[((o.End + 1 + f - skip) * n) + j] - at).Length());
            }
        }

        return worst * 1000;
    }

    /// <summary>Farthest way of a planted foot in a frame, millimetres.</summary>
    private static double Slide(Motion motion, int frames)
    {
        var (n, slide) = (motion.Skeleton.Count, 0.0);
        var cut = MotionEdits.Range(motion, 0, frames);
        var world = ForwardKinematics.WorldPositions(cut);
        foreach (var contact in BodyContacts.Find(cut).Joints)
        {
            var j = motion.Skeleton.IndexOf(contact.Role);
            for (var f = contact.Start + 1; f <= contact.End; f++)
            {
                slide = Math.Max(slide, ((world[(f * n) + j] - world[((f - 1) * n) + j]) with { Y = 0 }).Length() * 1000);
            }
        }

        return slide;
    }

    private static void Loop(string what, Motion motion)
    {
        var (start, end, apart) = LoopFinder.Find(motion);
        var (looped, report) = LoopMaker.Make(motion, start, end, apart, 100, false);
        var n = looped.Skeleton.Count;
        var pelvis = looped.Skeleton.IndexOf(BodyRole.Pelvis);
        var world = ForwardKinematics.WorldPositions(looped);
        var (from, to) = (world[pelvis], world[((looped.FrameCount - 1) * n) + pelvis]);
        var way = Vector3.Normalize(((to - from) with { Y = 0 }) + new Vector3(1e-9f, 0, 0));
        var length = report.End - report.Start;
        double aside = 0;
        for (var c = 0; c <= 100; c++)
        {
            var d = (world[(c * length * n) + pelvis] - from) with { Y = 0 };
            aside = Math.Max(aside, (d - (way * Vector3.Dot(d, way))).Length());
        }

        var slide = Slide(looped, (3 * length) + 1);

        Console.WriteLine(
            $"loop {what, -22} {report.Start}-{report.End}   apart {apart * 1000:0} mm   stride {report.StrideMetres:0.00} m   turned {report.TurnDegrees:0}°   "
                + $"closes {report.ClosingMillimetres:0.000} mm {report.ClosingDegrees:0.000}° {report.ClosingSpeed:0} mm/s   aside in 100 {aside * 1000:0.0} mm   slide {slide:0.00} mm a frame"
        );
    }
}
