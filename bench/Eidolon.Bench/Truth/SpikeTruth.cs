using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.StandIns.Truth;

namespace Eidolon.Bench.Truth;

/// <summary>Spikes put into clean takes: how many are taken out, and how many good samples with them.</summary>
internal static class SpikeTruth
{
    public static void Run()
    {
        var usual = MarkerSimulator.Labelled(SceneCatalog.Perform("lamp-walk", HarbourCast.Ines, 2));
        Measure.Frames("spikes, 53 markers", usual.FrameCount, usual.FrameRate, () => Spikes.Find(usual), 3);
        Console.WriteLine("spikes of 15 to 70 mm, one to three samples: taken out, good samples touched, millimetres left");
        foreach (var rate in TruthRun.Rates(30, 60, 100, 120, 240))
        {
            foreach (var scene in SceneCatalog.Names)
            {
                var sum = default(SpikeScore);
                foreach (var person in Strangers.Some(2, 9).Append(HarbourCast.Ines))
                {
                    var performance = SceneCatalog.Perform(scene, person, 2, rate);
                    sum += SpikeScore.Try(MarkerSimulator.Labelled(performance, new(SpikesPerMinute: 0, Skin: Skin.Soft)), 60, 3, 5);
                }

                Say($"{rate, 4:0} Hz {scene}", sum);
            }
        }

        if (Lent.Folder() is { } folder)
        {
            var whole = Lent.Markers(folder, "labelled.c3d");
            foreach (var step in new[] { 4, 2, 1 }.Where(s => TruthRun.Only is not { } only || only == 120 / s))
            {
                var sum = default(SpikeScore);
                for (var seed = 0; seed < 3; seed++)
                {
                    sum += SpikeScore.Try(Thin(whole, step), 60, 3, seed);
                }

                Say($"{120 / step, 4:0} Hz recording", sum);
            }
        }
    }

    /// <summary>Every so-manieth frame.</summary>
    public static MarkerTake Thin(MarkerTake take, int step)
    {
        var result = new MarkerTake(take.Names, take.FrameRate / step, (take.FrameCount + step - 1) / step);
        for (var f = 0; f < result.FrameCount; f++)
        {
            take.At(f * step).CopyTo(result.At(f));
        }

        return result;
    }

    private static void Say(string what, SpikeScore s) =>
        Console.WriteLine(
            $"  {what, -24} {s.Out / (double)s.Put, 7:P1} of {s.Put, 4}, touched {s.Touched / (double)s.Good, 8:P3}, left {s.Left / s.Put * 1000, 5:0.00} mm"
        );
}
