using System.Numerics;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Labelling;

/// <summary>
/// Gives whole fragments their names by how near the bodies carry each marker to them: the cheapest sequence of names for each fragment
/// (Viterbi; a change of name inside costs), the surest fragments first, one name once a frame.
/// </summary>
internal sealed class LabelDecider(MarkerTake take, IReadOnlyList<Fragment> fragments, IReadOnlyList<MarkerTake> carried)
{
    /// <summary>Usual distance between a dot and the carried marker: soft tissue and solve, metres.</summary>
    internal const double Usual = 0.010;

    /// <summary>Cost a frame of having no name; a name must be nearer than about 3.5 cm.</summary>
    internal const double Nameless = 12;

    /// <summary>The same for a dot seen for a few frames only, as ghosts are: nearer than 2 cm.</summary>
    private const double BriefNameless = 4;

    private const double BriefSeconds = 0.1;
    private const double Change = 30;

    /// <summary>Whatever is farther costs the same.</summary>
    internal const double Farthest = 25;

    private const double Impossible = 1e4;
    private const int MostCandidates = 6;
    private readonly Dictionary<(int, int), bool[]> _busy = [];

    /// <summary>A stretch of a fragment with one name (marker −1 for none) and how sure it is, 0 to 1.</summary>
    public readonly record struct Decision(Fragment Fragment, int Start, int End, int Subject, int Marker, double Confidence);

    public List<Decision> Decide(CancellationToken cancel)
    {
        var decisions = new List<Decision>();
        foreach (var p in fragments.Where(p => p.Given is not null))
        {
            Occupy(p.Given!.Value, p.Start, p.End);
            decisions.Add(new Decision(p, p.Start, p.End, p.Given.Value.Subject, p.Given.Value.Marker, 1));
        }

        var open = fragments.Where(p => p.Given is null).Select(p => (Fragment: p, Candidates: Candidates(p))).ToList();
        foreach (var (p, candidates) in open.OrderByDescending(o => o.Candidates.Count == 0 ? 0 : o.Candidates[0].Gain))
        {
            cancel.ThrowIfCancellationRequested();
            decisions.AddRange(Sequence(p, candidates.ConvertAll(c => (c.Subject, c.Marker))));
        }

        return decisions;
    }

    private double None(Fragment p) => p.Length < BriefSeconds * take.FrameRate ? BriefNameless : Nameless;

    private double Cost(Fragment p, int f, (int Subject, int Marker) c)
    {
        if (_busy.TryGetValue(c, out var busy) && busy[f])
        {
            return Impossible;
        }

        var at = carried[c.Subject][f, c.Marker];
        return MarkerTake.Seen(at) ? Math.Min(Farthest, (at - take[f, p.Column]).LengthSquared() / (Usual * Usual)) : Nameless + 1;
    }

    /// <summary>Markers that come near the fragment anywhere, best first.</summary>
    private List<(int Subject, int Marker, double Gain)> Candidates(Fragment p)
    {
        var list = new List<(int Subject, int Marker, double Gain)>();
        var step = Math.Max(1, p.Length / 60);
        for (var s = 0; s < carried.Count; s++)
        {
            for (var m = 0; m < carried[s].MarkerCount; m++)
            {
                double gain = 0;
                for (var f = p.Start; f <= p.End; f += step)
                {
                    gain += Math.Max(0, None(p) - Cost(p, f, (s, m)));
                }

                if (gain > 0)
                {
                    list.Add((s, m, gain * step));
                }
            }
        }

        return [.. list.OrderByDescending(c => c.Gain).Take(MostCandidates)];
    }

    private List<Decision> Sequence(Fragment p, List<(int Subject, int Marker)> candidates)
    {
        var (n, k) = (p.Length, candidates.Count + 1);
        var from = new byte[n * k];
        var (now, next) = (new double[k], new double[k]);
        var frame = new double[n * k];
        for (var i = 0; i < n; i++)
        {
            for (var c = 0; c < k; c++)
            {
                frame[(i * k) + c] = c == 0 ? None(p) : Cost(p, p.Start + i, candidates[c - 1]);
            }
        }

        for (var c = 0; c < k; c++)
        {
            now[c] = frame[c];
        }

        for (var i = 1; i < n; i++)
        {
            var cheapest = 0;
            for (var c = 1; c < k; c++)
            {
                cheapest = now[c] < now[cheapest] ? c : cheapest;
            }

            for (var c = 0; c < k; c++)
            {
                var stay = now[c] <= now[cheapest] + Change;
                next[c] = (stay ? now[c] : now[cheapest] + Change) + frame[(i * k) + c];
                from[(i * k) + c] = (byte)(stay ? c : cheapest);
            }

            (now, next) = (next, now);
        }

        var names = new int[n];
        names[^1] = Array.IndexOf(now, now.Min());
        for (var i = n - 1; i > 0; i--)
        {
            names[i - 1] = from[(i * k) + names[i]];
        }

        var result = new List<Decision>();
        var start = 0;
        for (var i = 1; i <= n; i++)
        {
            if (i == n || names[i] != names[start])
            {
                result.Add(Piece(p, frame, k, names[start], start, i - 1, candidates));
                start = i;
            }
        }

        return result;
    }

    private Decision Piece(Fragment p, double[] frame, int k, int name, int start, int end, List<(int Subject, int Marker)> candidates)
    {
        if (name == 0)
        {
            return new Decision(p, p.Start + start, p.Start + end, -1, -1, 0);
        }

        double own = 0;
        var rival = double.PositiveInfinity;
        for (var c = 0; c < k; c++)
        {
            double sum = 0;
            for (var i = start; i <= end; i++)
            {
                sum += Math.Min(frame[(i * k) + c], Farthest);
            }

            if (c == name)
            {
                own = sum / (end - start + 1);
            }
            else
            {
                rival = Math.Min(rival, sum / (end - start + 1));
            }
        }

        Occupy(candidates[name - 1], p.Start + start, p.Start + end);
        // Sure when the marker is where it is carried, and no other is nearly as near.
        var confidence = Math.Clamp(1 - (own / Nameless), 0, 1) * Math.Clamp((rival - own) / 4, 0, 1);
        return new Decision(
            p,
            p.Start + start,
            p.Start + end,
            candidates[name - 1].Subject,
            candidates[name - 1].Marker,
            Math.Sqrt(confidence)
        );
    }

    private void Occupy((int Subject, int Marker) name, int start, int end)
    {
        if (!_busy.TryGetValue(name, out var busy))
        {
            _busy[name] = busy = new bool[take.FrameCount];
        }

        busy.AsSpan(start, end - start + 1).Fill(true);
    }
}
