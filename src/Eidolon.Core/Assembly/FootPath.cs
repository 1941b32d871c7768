using System.Numerics;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Assembly;

/// <summary>
/// The way of one foot through an overlap: that of the earlier clip first, that of the later one then. It goes over while the foot is in the air
/// in one of them; where it stands in both, at places apart, it goes over slowly, and where that would still be a slide it takes a small step.
/// </summary>
/// <remarks>
/// Both ways are clean by themselves, so nothing needs to be found on a blended body (compare Kovar, Schreiner and Gleicher, "Footskate cleanup
/// for motion capture editing", 2002, where contacts are).
/// </remarks>
internal sealed class FootPath
{
    /// <summary>Going over takes no shorter than this, seconds.</summary>
    private const double Shortest = 0.08;

    /// <summary>It goes over slowly enough to stay below this acceleration, metres a second squared.</summary>
    private const double Gentle = 28;

    /// <summary>A standing foot that would slide more than this in a frame takes a step, metres.</summary>
    private const float Slide = 0.0014f;

    /// <summary>A step takes so long at least, seconds, and lifts the ankle so high, metres: as much as anyone's.</summary>
    private const double StepSeconds = 0.3;

    private const float StepHeight = 0.05f;

    private readonly float[] _share;
    private readonly float[] _lift;

    /// <param name="a">Places of the foot in the earlier clip, one a frame of the overlap.</param>
    /// <param name="b">Places in the later clip, laid.</param>
    /// <param name="toesA">Places of its toes in the earlier clip; of a foot without toes, its own.</param>
    /// <param name="toesB">The same in the later one.</param>
    /// <param name="stands">Whether the foot stands in the earlier clip.</param>
    /// <param name="lands">Whether it stands in the later one.</param>
    public FootPath(
        Vector3[] a,
        Vector3[] b,
        Vector3[] toesA,
        Vector3[] toesB,
        ReadOnlySpan<bool> stands,
        ReadOnlySpan<bool> lands,
        double rate
    )
    {
        var n = a.Length;
        (_share, _lift) = (new float[n], new float[n]);
        var (from, to) = Window(stands, lands, n);
        var middle = Math.Clamp((int)Math.Round((from + to) / 2), 0, n - 1);
        var apart = (a[middle] - b[middle]).Length();
        var least = Math.Max(Shortest, Math.Sqrt(5.77 * apart / Gentle)) * rate;
        var both = 0;
        for (var k = (int)Math.Ceiling(from); k <= to; k++)
        {
            both += k >= 0 && k < n && stands[k] && lands[k] ? 1 : 0;
        }

        float Flat(Vector3 v) => new Vector2(v.X, v.Z).Length();
        var flat = MathF.Max(Flat(a[middle] - b[middle]), Flat(toesA[middle] - toesB[middle]));
        // The fastest frame of a smooth way is 1.875 times the mean.
        Stepped = both > 0 && 1.875f * flat / Math.Max(to - from, least) > Slide;
        least = Stepped ? Math.Max(least, StepSeconds * rate) : least;
        (from, to) = Widened(from, to, least, n);
        for (var k = 0; k < n; k++)
        {
            var u = (float)Math.Clamp((k - from) / (to - from), 0, 1);
            _share[k] = CubicSpline.MinimumJerk(u);
            var rise = 4 * u * (1 - u);
            _lift[k] = Stepped ? MathF.Min(StepHeight + (.1f * flat), .08f) * rise * rise : 0;
        }
    }

    /// <summary>True where the foot stands in both clips, but not at one place, and is set anew.</summary>
    public bool Stepped { get; }

    /// <summary>How far it has gone over to the later clip, 0 to 1.</summary>
    public float Share(int frame) => _share[frame];

    /// <summary>How far it is lifted for a step, metres.</summary>
    public float Lift(int frame) => _lift[frame];

    /// <summary>From where the earlier clip's stand ends to where the later one's begins; the other way round where both stand at once.</summary>
    private static (double From, double To) Window(ReadOnlySpan<bool> stands, ReadOnlySpan<bool> lands, int n)
    {
        var last = -1;
        while (last + 1 < n && stands[last + 1])
        {
            last++;
        }

        var first = n;
        while (first > 0 && lands[first - 1])
        {
            first--;
        }

        // It stands in one of the two all along: there it goes over with the rest of the body.
        return last < 0 && first >= n ? (-1, n)
            : (last >= n - 1 && first >= n) || (first <= 0 && last < 0) ? (-1, n)
            : (Math.Min(last, first), Math.Max(last, first));
    }

    private static (double From, double To) Widened(double from, double to, double least, int n)
    {
        if (to - from >= least)
        {
            return (from, to);
        }

        var half = Math.Min(least, n + 1) / 2;
        var middle = Math.Clamp((from + to) / 2, half - 1, n - half);
        return (middle - half, middle + half);
    }
}
