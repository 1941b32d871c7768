using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

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
                var sum = (Out: 0, Put: 0, Touched: 0L, Good: 0L, Left: 0.0);
                foreach (var person in Strangers.Some(2, 9).Append(HarbourCast.Ines))
                {
                    var performance = SceneCatalog.Perform(scene, person, 2, rate);
                    Try(MarkerSimulator.Labelled(performance, new(SpikesPerMinute: 0, Skin: Skin.Soft)), 5, ref sum);
                }

                Say($"{rate, 4:0} Hz {scene}", sum);
            }
        }

        if (Lent.Folder() is { } folder)
        {
            var whole = Lent.Markers(folder, "labelled.c3d");
            foreach (var step in new[] { 4, 2, 1 }.Where(s => TruthRun.Only is not { } only || only == 120 / s))
            {
                var sum = (Out: 0, Put: 0, Touched: 0L, Good: 0L, Left: 0.0);
                for (var seed = 0; seed < 3; seed++)
                {
                    Try(Thin(whole, step), seed, ref sum);
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

    private static void Say(string what, (int Out, int Put, long Touched, long Good, double Left) s) =>
        Console.WriteLine(
            $"  {what, -24} {s.Out / (double)s.Put, 7:P1} of {s.Put, 4}, touched {s.Touched / (double)s.Good, 8:P3}, left {s.Left / s.Put * 1000, 5:0.00} mm"
        );

    private static void Try(MarkerTake truth, int seed, ref (int Out, int Put, long Touched, long Good, double Left) sum)
    {
        var take = truth.Copy();
        var random = new Random(seed);
        var put = new HashSet<(int, int)>();
        for (var k = 0; k < 60; k++)
        {
            int n = random.Next(1, 4),
                m = random.Next(take.MarkerCount),
                f = random.Next(4, take.FrameCount - 8);
            if (Enumerable.Range(f - 3, n + 6).Any(g => !MarkerTake.Seen(take[g, m]) || put.Contains((g, m))))
            {
                continue;
            }

            var off =
                Vector3.Normalize(new Vector3(random.NextSingle() - 0.5f, random.NextSingle() - 0.5f, random.NextSingle() - 0.5f))
                * (0.015f + (random.NextSingle() * 0.055f));
            for (var i = 0; i < n; i++)
            {
                take[f + i, m] += off * (0.8f + (0.4f * random.NextSingle()));
                put.Add((f + i, m));
            }
        }

        var (clean, removed) = Spikes.Remove(take);
        var gone = removed.Select(s => (s.Frame, s.Marker)).ToHashSet();
        sum.Out += put.Count(gone.Contains);
        sum.Put += put.Count;
        sum.Touched += gone.Count(g => !put.Contains(g));
        sum.Good += take.Positions.Count(MarkerTake.Seen) - put.Count;
        sum.Left += put.Sum(p => (clean[p.Item1, p.Item2] - truth[p.Item1, p.Item2]).Length());
    }
}
