using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Solving;

/// <summary>Finds markers that were knocked or came loose: from one moment on they sit elsewhere on their bone.</summary>
/// <remarks>
/// The split with the largest sum of squares between both sides (Hinkley, "Inference about the change-point", 1970), and a leap at the split itself:
/// skin that lies otherwise when somebody sits down goes there slowly.
/// </remarks>
public static class SlipFinder
{
    /// <summary>Nearer than this it may be skin, metres.</summary>
    private const double Least = 0.012;

    /// <summary>So many times what the marker strays on either side.</summary>
    private const double Times = 2;

    /// <summary>It sits on either side for so long at least, seconds.</summary>
    private const double Shortest = 0.5;

    /// <summary>The leap is looked for so long before and after, seconds.</summary>
    private const double Moment = 0.2;

    /// <summary>This share of the way is gone in the leap itself.</summary>
    private const double Leap = 0.7;

    /// <summary>The largest slip of each marker, the farthest first.</summary>
    /// <param name="rate">Frames a second.</param>
    public static IReadOnlyList<Slip> Find(BoneOffsets offsets, double rate)
    {
        var list = new List<Slip>();
        for (var m = 0; m < offsets.Performer.Markers.Count; m++)
        {
            if (Of(offsets, m, rate) is { } slip)
            {
                list.Add(slip);
            }
        }

        return [.. list.OrderByDescending(s => s.By.Length())];
    }

    private static Slip? Of(BoneOffsets offsets, int marker, double rate)
    {
        var frames = new List<int>();
        var sums = new List<Vector3d> { default };
        double squares = 0;
        for (var f = 0; f < offsets.FrameCount; f++)
        {
            if (offsets[f, marker] is var off && MarkerTake.Seen(off))
            {
                frames.Add(f);
                sums.Add(sums[^1] + off);
                squares += off.LengthSquared();
            }
        }

        var (n, least) = (frames.Count, Math.Max(4, (int)(Shortest * rate)));
        var (at, between) = (-1, 0.0);
        for (var k = least; k <= n - least; k++)
        {
            var apart = Apart(sums, 0, k, n);
            if (k * (double)(n - k) / n * apart * apart is var s && s > between)
            {
                (at, between) = (k, s);
            }
        }

        if (at < 0)
        {
            return null;
        }

        var whole = sums[n].Length / n;
        var strays = Math.Sqrt(Math.Max(0, (squares / n) - (whole * whole) - (between / n)));
        var by = Apart(sums, 0, at, n);
        var near = Math.Max(2, (int)(Moment * rate));
        var leap = Apart(sums, Math.Max(0, at - near), at, Math.Min(n, at + near));
        return by >= Math.Max(Least, Times * strays) && leap >= Leap * by
            ? new Slip(offsets.Performer.Markers[marker].Name, frames[at], (Mean(sums, at, n) - Mean(sums, 0, at)).ToSingle())
            : null;
    }

    /// <summary>How far the means of two stretches lie apart, metres.</summary>
    private static double Apart(List<Vector3d> sums, int from, int split, int to) =>
        (Mean(sums, split, to) - Mean(sums, from, split)).Length;

    private static Vector3d Mean(List<Vector3d> sums, int from, int to) => (sums[to] - sums[from]) * (1.0 / (to - from));
}
