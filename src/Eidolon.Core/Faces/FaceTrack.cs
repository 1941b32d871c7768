using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Faces;

/// <summary>Lays a face's weights on a body's frames: in step, smoothed, and at rest where the tracker did not see the face.</summary>
public static class FaceTrack
{
    /// <summary>Below this the tracker does not see the face: a hand is before it, or it is turned away.</summary>
    public const float Unsure = 0.5f;

    /// <summary>How long the way to rest and back takes, seconds.</summary>
    public const double Ease = 0.1;

    /// <summary>Shorter holes are bridged, not rested, seconds.</summary>
    public const double Bridge = 0.2;

    /// <summary>Weights below this at rest are not worth a channel.</summary>
    private const float Nothing = 1e-4f;

    /// <summary>The motion with the weights as its morphs, one value a frame, 0 to 1.</summary>
    /// <param name="offset">Seconds from the body's first frame to the face's.</param>
    /// <param name="smooth">Cut-off of the smoothing, hertz; 0 leaves the weights as they are. Zero phase.</param>
    /// <returns>Also the stretches of the motion in which the face was not seen.</returns>
    public static (Motion Motion, IReadOnlyList<(int Start, int End)> Hidden) On(Motion body, FaceTake face, double offset, double smooth)
    {
        var n = face.FrameCount;
        var share = Shares(face);
        var morphs = new Dictionary<string, float[]>(StringComparer.Ordinal);
        var hidden = new bool[body.FrameCount];
        var column = new float[n];
        for (var k = 0; k < face.Names.Count; k++)
        {
            Column(face, k, column);
            if (smooth > 0 && smooth < face.FrameRate * 0.45 && n > 12)
            {
                new Butterworth(smooth, face.FrameRate).Apply(column, 0, 1, n);
            }

            var own = new float[body.FrameCount];
            var most = 0f;
            for (var f = 0; f < own.Length; f++)
            {
                var at = ((f / body.FrameRate) - offset) * face.FrameRate;
                own[f] = Math.Clamp(At(column, at) * At(share, at), 0, 1);
                most = MathF.Max(most, own[f]);
            }

            if (most > Nothing)
            {
                morphs[face.Names[k]] = own;
            }
        }

        for (var f = 0; f < hidden.Length; f++)
        {
            var at = ((f / body.FrameRate) - offset) * face.FrameRate;
            hidden[f] = at < 0 || at > n - 1 || At(share, at) < 0.5f;
        }

        return (
            new Motion(body.Skeleton, body.FrameRate, body.FrameCount, body.Rotations, body.Translations)
            {
                FirstFrame = body.FirstFrame,
                Morphs = morphs,
                Warnings = body.Warnings,
            },
            Runs(hidden)
        );
    }

    /// <summary>Ranges, both ends inside.</summary>
    private static IReadOnlyList<(int Start, int End)> Runs(bool[] at)
    {
        var list = new List<(int, int)>();
        for (var f = 0; f < at.Length; f++)
        {
            var start = f;
            while (f < at.Length && at[f])
            {
                f++;
            }

            if (f > start)
            {
                list.Add((start, f - 1));
            }
        }

        return list;
    }

    /// <summary>1 where the face is believed, 0 where it rests, eased between. Short holes are bridged.</summary>
    private static float[] Shares(FaceTake face)
    {
        var n = face.FrameCount;
        var share = new float[n];
        var seen = Enumerable.Range(0, n).Select(f => face.Sure(f) >= Unsure).ToArray();
        foreach (var (start, end) in Runs([.. seen.Select(s => !s)]))
        {
            if (start > 0 && end < n - 1 && (end - start + 1) / face.FrameRate < Bridge)
            {
                Array.Fill(seen, true, start, end - start + 1);
            }
        }

        var ease = Math.Max(1, (int)Math.Round(Ease * face.FrameRate));
        var far = new int[n];
        for (var f = 0; f < n; f++)
        {
            far[f] = seen[f] ? (f == 0 ? ease : Math.Min(ease, far[f - 1] + 1)) : 0;
        }

        var back = ease;
        for (var f = n - 1; f >= 0; f--)
        {
            back = seen[f] ? Math.Min(ease, back + 1) : 0;
            share[f] = CubicSpline.MinimumJerk(Math.Min(far[f], back) / (float)ease);
        }

        return share;
    }

    /// <summary>One weight over the take, holes carried over by their ends.</summary>
    private static void Column(FaceTake face, int k, float[] into)
    {
        var last = -1;
        for (var f = 0; f < into.Length; f++)
        {
            into[f] = face.At(f, k);
            if (!float.IsFinite(into[f]) || face.Sure(f) < Unsure)
            {
                continue;
            }

            for (var h = last + 1; h < f; h++)
            {
                into[h] = last < 0 ? into[f] : into[last] + ((into[f] - into[last]) * (h - last) / (f - last));
            }

            last = f;
        }

        for (var h = last + 1; h < into.Length; h++)
        {
            into[h] = last < 0 ? 0 : into[last];
        }
    }

    private static float At(float[] v, double at)
    {
        if (at < 0 || at > v.Length - 1)
        {
            return 0;
        }

        var k = (int)at;
        return k + 1 >= v.Length ? v[k] : v[k] + ((v[k + 1] - v[k]) * (float)(at - k));
    }
}
