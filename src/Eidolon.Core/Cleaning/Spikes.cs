using System.Numerics;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Cleaning;

/// <summary>
/// Single samples (or up to three) that jump off their path and back: a Hampel test on the distance from the path around them, once what the markers
/// beside do as well is taken off.
/// </summary>
/// <remarks>
/// Hampel 1974; Pearson 2002. The path is the cubic through two good samples on either side; the scale is the median absolute deviation within a
/// quarter of a second, with a floor. Fast moves bend too, the more the fewer frames there are a second, but they take their mates along
/// (<see cref="SpikeMates"/>): a stretch is a spike only when leaving and coming back are jumps that neither of two sets of mates makes.
/// </remarks>
public static class Spikes
{
    /// <summary>Longest run of bad samples.</summary>
    private const int Longest = 3;

    /// <summary>Less than this is noise, metres.</summary>
    private const float Least = 0.006f;

    /// <summary>So many times the middle distance around it is no noise any more: six standard deviations of a coordinate, for the length of three.</summary>
    private const float Times = 5f;

    /// <summary>A jump is so many times what the path on either side turns by; less is asked for where mates have taken the move itself away.</summary>
    private const float JumpAlone = 2.2f,
        JumpBesideMates = 1.9f;

    /// <summary>No path is calmer than this, metres.</summary>
    private const float Tremble = 0.0005f;

    /// <summary>The other set of mates must show the same jump, at least this share of it.</summary>
    private const float Agrees = 0.5f;

    /// <summary>A sample off its path.</summary>
    /// <param name="Path">Where the path around it, and its mates, say that it was; metres.</param>
    public readonly record struct Spike(int Frame, int Marker, float SizeMetres, Vector3 Path);

    /// <summary>Samples that leap from their neighbours and back, by marker and frame; the take is left as it is.</summary>
    public static List<Spike> Find(MarkerTake take)
    {
        var mates = new SpikeMates(take);
        var found = new List<Spike>[take.MarkerCount];
        Parallel.For(0, take.MarkerCount, m => found[m] = Find(take, m, mates.Of(m)));
        return [.. found.SelectMany(f => f)];
    }

    /// <summary>Spikes replaced by where their path and their mates say that they were.</summary>
    /// <param name="which">Only these; all when it is not given.</param>
    public static (MarkerTake Take, List<Spike> Removed) Remove(MarkerTake take, Func<Spike, bool>? which = null)
    {
        var spikes = Find(take).Where(s => which is null || which(s)).ToList();
        var result = take.Copy();
        foreach (var s in spikes)
        {
            result[s.Frame, s.Marker] = s.Path;
        }

        return (result, spikes);
    }

    private static List<Spike> Find(MarkerTake take, int marker, IReadOnlyList<(int Marker, float Weight)[]> mates)
    {
        var own = new Way(take, marker, [], take.FrameRate);
        var beside = mates.Select(set => new Way(take, marker, set, take.FrameRate)).ToArray();
        var found = new List<Spike>();
        for (var f = 2; f < take.FrameCount - 2; f++)
        {
            if (!own.MayLeave(f) || Best(own, beside, f) is not { } best)
            {
                continue;
            }

            for (var k = 0; k < best.Length; k++)
            {
                var off = Vector3.Zero;
                foreach (var w in best.Ways)
                {
                    off += w.Off(best.Start, best.Length, k) / best.Ways.Length;
                }

                found.Add(new Spike(best.Start + k, marker, off.Length(), take[best.Start + k, marker] - off));
            }

            f = best.Start + best.Length;
        }

        return found;
    }

    /// <summary>The run that begins here or within the next few samples and jumps most clearly; what is cut wrongly leaves its neighbours rough.</summary>
    private static (int Start, int Length, Way[] Ways)? Best(Way own, Way[] beside, int from)
    {
        (int, int, Way[])? best = null;
        var most = 0f;
        for (var f = from; f < from + Longest && (f == from || best is not null); f++)
        {
            for (var length = 1; length <= Longest && f + length + 1 < own.Frames; length++)
            {
                if (!own.Knows(f, length))
                {
                    continue;
                }

                // Where mates are hidden themselves, the marker's own way has to tell.
                var ways = Array.FindAll(beside, w => w.Knows(f, length));
                var jump =
                    ways.Length == 0 ? own.Jump(f, length) / JumpAlone
                    : ways.Length == 1 ? Jump(own, ways, f, length) / JumpAlone
                    : Jump(own, ways, f, length) / JumpBesideMates;
                if (jump > 1 && jump > most)
                {
                    most = jump;
                    best = (f, length, ways.Length == 0 ? [own] : ways);
                }
            }
        }

        return best;
    }

    /// <summary>Beside one set of mates it is a jump, and beside the other the same one: a spike of a mate shows beside its own set only.</summary>
    private static float Jump(Way own, Way[] ways, int f, int length)
    {
        if (!own.Stirs(f, length))
        {
            return 0;
        }

        for (var k = 0; k < length && ways.Length > 1; k++)
        {
            var (a, b) = (ways[0].Off(f, length, k), ways[1].Off(f, length, k));
            if (Vector3.Dot(a, b) < Agrees * MathF.Max(a.LengthSquared(), b.LengthSquared()))
            {
                return 0;
            }
        }

        return ways.Max(w => w.Jump(f, length));
    }

    /// <summary>A marker's way, less what its mates do.</summary>
    private sealed class Way
    {
        private readonly Vector3[] _path;
        private readonly float[][] _bends = new float[Longest][];
        private readonly int _window;
        private readonly List<float> _scratch = [];

        public Way(MarkerTake take, int marker, (int Marker, float Weight)[] mates, double rate)
        {
            _path = new Vector3[take.FrameCount];
            for (var f = 0; f < _path.Length; f++)
            {
                var p = take[f, marker];
                foreach (var (mate, weight) in mates)
                {
                    p -= take[f, mate] * weight;
                }

                _path[f] = p;
            }

            _window = Math.Max(10, (int)(rate / 4));
            for (var length = 1; length <= Longest; length++)
            {
                var bend = _bends[length - 1] = new float[_path.Length];
                Array.Fill(bend, float.NaN);
                for (var f = 2; f + length + 1 < _path.Length; f++)
                {
                    bend[f] = Off(f, length, length / 2).Length();
                }
            }
        }

        public int Frames => _path.Length;

        public bool MayLeave(int f) => _bends[0][f] > Least / 3 || (f + 1 < _path.Length && _bends[0][f + 1] > Least / 3);

        /// <summary>Two samples on either side, and the run between.</summary>
        public bool Knows(int f, int length)
        {
            for (var k = f - 2; k <= f + length + 1; k++)
            {
                if (!MarkerTake.Seen(_path[k]))
                {
                    return false;
                }
            }

            return true;
        }

        public Vector3 Off(int f, int length, int k) =>
            _path[f + k] - Cubic(_path[f - 2], _path[f - 1], _path[f + length], _path[f + length + 1], length, k);

        /// <summary>Every sample of the run is off its path by more than noise.</summary>
        public bool Stirs(int f, int length)
        {
            for (var k = 0; k < length; k++)
            {
                if (!(Off(f, length, k).Length() > Least))
                {
                    return false;
                }
            }

            return true;
        }

        /// <summary>How much farther the run jumps than the path around it turns; 0 where it is within the noise.</summary>
        public float Jump(int f, int length) =>
            Spikes.Jump(_path, f, length, MathF.Max(Least, Times * Scale(_bends[length - 1], f, _window, _scratch)));
    }

    /// <summary>Every sample of the run is off the path around it, and both its edges jump so many times what the path on either side turns by.</summary>
    private static float Jump(Vector3[] p, int f, int length, float limit)
    {
        for (var k = 0; k < length; k++)
        {
            if (!((p[f + k] - Cubic(p[f - 2], p[f - 1], p[f + length], p[f + length + 1], length, k)).Length() > limit))
            {
                return 0;
            }
        }

        // Without the run the path must be calm: what goes over the gap agrees with what comes before and after.
        var (before, after) = (p[f - 1] - p[f - 2], p[f + length + 1] - p[f + length]);
        var across = (p[f + length] - p[f - 1]) / (length + 1);
        var rough = MathF.Max((across - before).Length(), (across - after).Length());
        var off = MathF.Min((p[f] - p[f - 1] - across).Length(), (p[f + length] - p[f + length - 1] - across).Length());
        return off > limit * 0.8f ? off / (rough + Tremble) : 0;
    }

    private static float Scale(float[] bend, int f, int window, List<float> scratch)
    {
        scratch.Clear();
        for (var k = Math.Max(2, f - window); k < Math.Min(bend.Length - 2, f + window); k++)
        {
            if (Math.Abs(k - f) > 4 && !float.IsNaN(bend[k]))
            {
                scratch.Add(bend[k]);
            }
        }

        scratch.Sort();
        return scratch.Count == 0 ? 0.0005f : scratch[scratch.Count / 2];
    }

    /// <summary>The cubic through two samples on either side of a run of so many, at its k-th sample.</summary>
    internal static Vector3 Cubic(Vector3 a, Vector3 b, Vector3 c, Vector3 d, int length, int k)
    {
        var w = Weights[(length * Longest) + k];
        return (a * w.X) + (b * w.Y) + (c * w.Z) + (d * w.W);
    }

    /// <summary>What each of the four samples weighs, by length and place in the run.</summary>
    private static readonly Vector4[] Weights = Enumerable
        .Range(0, (Longest + 1) * Longest)
        .Select(i => WeightsOf(i / Longest, i % Longest))
        .ToArray();

    private static Vector4 WeightsOf(int length, int k)
    {
        // Nodes at −2, −1, length, length + 1; Lagrange.
        float x = k,
            x0 = -2,
            x1 = -1,
            x2 = length,
            x3 = length + 1;
        return new Vector4(
            (x - x1) * (x - x2) * (x - x3) / ((x0 - x1) * (x0 - x2) * (x0 - x3)),
            (x - x0) * (x - x2) * (x - x3) / ((x1 - x0) * (x1 - x2) * (x1 - x3)),
            (x - x0) * (x - x1) * (x - x3) / ((x2 - x0) * (x2 - x1) * (x2 - x3)),
            (x - x0) * (x - x1) * (x - x2) / ((x3 - x0) * (x3 - x1) * (x3 - x2))
        );
    }
}
