using System.Numerics;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Quality;

/// <summary>Stretches in which a marker trembles far more than it usually does: a loose marker, or one that few cameras see.</summary>
public static class JitterFinder
{
    /// <summary>So many times the marker's own usual.</summary>
    private const double Times = 4;

    /// <summary>Less than this is noise of any camera ring, m/s² of acceleration above 15 Hz.</summary>
    private const double Least = 12;

    /// <summary>Windows that must tremble one after the other; a fast move or an impact fills one, a loose marker many.</summary>
    private const int Windows = 3;

    /// <param name="Rms">m/s².</param>
    public readonly record struct Tremble(int Marker, int Start, int End, double Rms, double Usual);

    /// <summary>Stretches in which a marker trembles, by marker and frame.</summary>
    public static List<Tremble> Find(MarkerTake take)
    {
        var window = Math.Max(16, (int)Math.Round(take.FrameRate / 4));
        var found = new List<Tremble>[take.MarkerCount];
        Parallel.For(0, take.MarkerCount, MarkerFindings.Quietly, m =>
        {
            found[m] = [];
            var path = new Vector3[take.FrameCount];
            for (var f = 0; f < path.Length; f++)
            {
                path[f] = take[f, m];
            }

            var values = new double[path.Length / window];
            for (var w = 0; w < values.Length; w++)
            {
                values[w] = JitterMeasure.Measure(path.AsSpan(w * window, window), take.FrameRate);
            }

            var sorted = values.Where(v => !double.IsNaN(v)).Order().ToArray();
            if (sorted.Length < 2 * Windows)
            {
                return;
            }

            var usual = sorted[sorted.Length / 2];
            var limit = Math.Max(Least, usual * Times);
            for (var w = 0; w < values.Length; w++)
            {
                var end = w;
                while (end < values.Length && values[end] > limit)
                {
                    end++;
                }

                if (end - w >= Windows)
                {
                    found[m].Add(new Tremble(m, w * window, (end * window) - 1, values[w..end].Max(), usual));
                }

                w = Math.Max(w, end);
            }
        });
        return [.. found.SelectMany(f => f)];
    }
}
