using System.Numerics;
using System.Runtime.InteropServices;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Video;

/// <summary>Takes out of a motion what trackers tremble by and people do not.</summary>
/// <remarks>
/// People's limbs have next to nothing above 6 Hz (Winter, "Biomechanics and Motor Control of Human Movement", 2.5.4); a row of poses at 30 frames a
/// second has noise up to 15.
/// </remarks>
internal static class FilmCalm
{
    /// <summary>Cut-off, hertz.</summary>
    private const double Cutoff = 5;

    /// <summary>Fewer frames have no frequencies to speak of.</summary>
    private const int Least = 12;

    /// <summary>Smooths local turns and the root's way; zero phase.</summary>
    public static void Apply(Motion motion)
    {
        if (motion.FrameCount < Least || Cutoff > motion.FrameRate * 0.45)
        {
            return;
        }

        var (n, filter) = (motion.Skeleton.Count, new Butterworth(Cutoff, motion.FrameRate));
        var turns = MemoryMarshal.Cast<Quaternion, float>(motion.Rotations.AsSpan());
        for (var j = 0; j < n; j++)
        {
            for (var f = 1; f < motion.FrameCount; f++)
            {
                // The same turn the shorter way round.
                ref var q = ref motion.Rotations[(f * n) + j];
                q = Quaternion.Dot(q, motion.Rotations[((f - 1) * n) + j]) < 0 ? -q : q;
            }

            for (var k = 0; k < 4; k++)
            {
                filter.Apply(turns, (j * 4) + k, n * 4, motion.FrameCount);
            }

            for (var f = 0; f < motion.FrameCount; f++)
            {
                motion.Rotations[(f * n) + j] = Quaternion.Normalize(motion.Rotations[(f * n) + j]);
            }
        }

        var places = MemoryMarshal.Cast<Vector3, float>(motion.Translations.AsSpan());
        for (var k = 0; k < 3; k++)
        {
            filter.Apply(places, k, n * 3, motion.FrameCount);
        }
    }
}
