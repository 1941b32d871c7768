using System.Diagnostics;
using Eidolon.Core.Characters;
using Eidolon.Core.Clipping;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Markers;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Bench.Truth;

/// <summary>How soon Retarget answers: a live frame, a frame while a control moves, the scan for what clips; shares of the time there is.</summary>
internal static class RetargetAnswers
{
    /// <summary>There is so long for a live frame, and for an answer to a control, milliseconds.</summary>
    private const double LiveFrame = 1,
        Answer = 50;

    public static void Run()
    {
        Console.WriteLine(
            "answers: a live frame (median, 99 of 100, worst; share of 1 ms), a frame while a control moves (the same, of 50 ms), "
                + "clipping scan and encounters (× real time); one core as it is"
        );
        var carried = SceneCatalog.Perform("crate-carry", HarbourCast.Ines, 1, 120);
        var prop = carried.Props[0];
        var crate = EncounterProp.Of("Crate", new PropPlaces(120, [.. prop.Places], [.. prop.Turns]), prop.Body);
        foreach (var name in HarbourCharacters.Names)
        {
            var file = GltfReader.GltfBindingOf(GltfReader.Open(HarbourCharacters.Build(name), name), name);
            var rig = RoleFinder.Assign(file.Skeleton, null, name);
            var volumes = VolumeFitter.Fit(rig, GltfSkinPoints.Of(file));
            var source = carried.Actors[0].Motion;
            var live = new LiveRetarget(source.Skeleton, rig);
            var pelvis = source.Skeleton.IndexOf(BodyRole.Pelvis);
            var steps = Times(source.FrameCount, f => live.Step(source.TranslationsAt(f)[pelvis], source.RotationsAt(f), f / 120.0));
            var preview = new HoldPreview(source, rig, []);
            var held = new RetargetSetup { ScaleTravel = false }
                .With(BodyRole.HandL, 1)
                .With(BodyRole.HandR, 1);
            var answers = Times(source.FrameCount / 20, k => preview.At(k * 20, held));
            var other = EncounterBody.Of("other", Retargeter.Retarget(carried.Actors[1].Motion, rig, held).Motion, volumes);
            var motion = Retargeter.Retarget(source, rig, held).Motion;
            var clock = Stopwatch.StartNew();
            var body = EncounterBody.Of(name, motion, volumes);
            var placed = clock.Elapsed;
            var clips = ClippingMeasure.Measure(motion, body.Places, body.Turns, volumes).Count;
            var scan = motion.DurationSeconds / clock.Elapsed.TotalSeconds;
            clock.Restart();
            var met = EncounterMeasure.Findings([body, other], [crate]).Count;
            var encounters = motion.DurationSeconds / (clock.Elapsed + placed + placed).TotalSeconds;
            Console.WriteLine(
                $"{name, -12} live {Shares(steps, LiveFrame)}   control {Shares(answers, Answer)}   "
                    + $"scan {scan:0} × ({clips} frames)   encounters {encounters:0} × ({met})"
            );
        }
    }

    private static double[] Times(int count, Action<int> act)
    {
        act(0);
        var times = new double[count];
        for (var k = 0; k < count; k++)
        {
            var clock = Stopwatch.StartNew();
            act(k);
            times[k] = clock.Elapsed.TotalMilliseconds;
        }

        Array.Sort(times);
        return times;
    }

    private static string Shares(double[] sorted, double there) =>
        $"{sorted[sorted.Length / 2] / there:0.000}, {sorted[(int)(sorted.Length * .99)] / there:0.000}, {sorted[^1] / there:0.00}";
}
