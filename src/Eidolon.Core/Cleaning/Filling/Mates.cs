using Eidolon.Core.Markers;

namespace Eidolon.Core.Cleaning;

/// <summary>Which markers keep company: those of the same segment first, then the others by how steady their distance is.</summary>
internal sealed class Mates
{
    /// <summary>Farther apart than this over the take, markers say nothing about each other; metres.</summary>
    private const double Loosest = 0.09;

    private const int Samples = 240;

    private readonly MarkerTake _take;
    private readonly MarkerSet? _set;
    private readonly int[] _frames;

    public Mates(MarkerTake take, MarkerSet? set)
    {
        (_take, _set) = (take, set);
        var step = Math.Max(1, take.FrameCount / Samples);
        _frames = [.. Enumerable.Range(0, (take.FrameCount + step - 1) / step).Select(i => i * step)];
    }

    /// <summary>Best company first. <c>Rigid</c> are on the same bone or as steady as if they were.</summary>
    public (int Marker, bool Rigid)[] Of(int marker)
    {
        var (who, name) = MarkerNames.Split(_take.Names[marker]);
        var own = _set?.Find(name);
        return
        [
            .. Enumerable
                .Range(0, _take.MarkerCount)
                .Where(m => m != marker && MarkerNames.Split(_take.Names[m]).Performer == who)
                .Select(m =>
                    (
                        Marker: m,
                        Same: own is not null && _set!.Find(MarkerNames.Split(_take.Names[m]).Marker)?.Segment == own.Segment,
                        Spread: Spread(marker, m)
                    )
                )
                .Where(x => x.Same ? !double.IsInfinity(x.Spread) : x.Spread < Loosest)
                // On the same bone soft tissue is all that moves them; a stranger must be much steadier to come first.
                .OrderBy(x => x.Same ? x.Spread * 0.5 : x.Spread)
                .Select(x => (x.Marker, x.Same || x.Spread < 0.03)),
        ];
    }

    /// <summary>Standard deviation of the distance of two markers, metres; infinite when they are hardly ever seen together.</summary>
    private double Spread(int a, int b)
    {
        double sum = 0,
            squares = 0;
        var n = 0;
        foreach (var f in _frames)
        {
            var (p, q) = (_take[f, a], _take[f, b]);
            if (MarkerTake.Seen(p) && MarkerTake.Seen(q))
            {
                double d = (p - q).Length();
                sum += d;
                squares += d * d;
                n++;
            }
        }

        return n < 10 ? double.PositiveInfinity : Math.Sqrt(Math.Max(0, (squares / n) - (sum / n * (sum / n))));
    }
}
