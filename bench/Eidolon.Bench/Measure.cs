using System.Diagnostics;

namespace Eidolon.Bench;

/// <summary>One figure: the best of several rounds, so that a busy neighbour does not count.</summary>
internal static class Measure
{
    public static double Best(Action work, int rounds = 5)
    {
        work();
        var best = double.MaxValue;
        for (var i = 0; i < rounds; i++)
        {
            var clock = Stopwatch.StartNew();
            work();
            best = Math.Min(best, clock.Elapsed.TotalSeconds);
        }

        return best;
    }

    /// <summary>Frames a second, and as a multiple of real time.</summary>
    public static void Frames(string name, int frames, double rate, Action work, int rounds = 5)
    {
        var perSecond = frames / Best(work, rounds);
        Console.WriteLine($"{name, -46} {perSecond, 12:N0} frames/s {perSecond / rate, 9:N0} × real time");
    }

    /// <summary>Megabytes a second against a bare pass over the same bytes in the same run.</summary>
    public static void Bytes(string name, byte[] bytes, Action work, double floor)
    {
        var seconds = Best(work);
        Console.WriteLine($"{name, -46} {bytes.Length / 1e6 / seconds, 12:N0} MB/s     {seconds / floor, 9:0.0} × a bare number scan");
    }
}
