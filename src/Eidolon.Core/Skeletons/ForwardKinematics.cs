using System.Numerics;

namespace Eidolon.Core.Skeletons;

/// <summary>Local turns and places to world ones, root to tips.</summary>
public static class ForwardKinematics
{
    /// <summary>All spans hold one value a joint; outputs are world turns and places in metres.</summary>
    public static void World(
        Skeleton skeleton,
        ReadOnlySpan<Quaternion> rotations,
        ReadOnlySpan<Vector3> translations,
        Span<Quaternion> worldRotations,
        Span<Vector3> worldPositions
    )
    {
        var parents = skeleton.Parents;
        for (var j = 0; j < parents.Length; j++)
        {
            var p = parents[j];
            if (p < 0)
            {
                worldRotations[j] = rotations[j];
                worldPositions[j] = translations[j];
            }
            else
            {
                worldRotations[j] = worldRotations[p] * rotations[j];
                worldPositions[j] = worldPositions[p] + Vector3.Transform(translations[j], worldRotations[p]);
            }
        }
    }

    /// <summary>World values of one frame of a motion.</summary>
    public static void World(Motion motion, int frame, Span<Quaternion> worldRotations, Span<Vector3> worldPositions) =>
        World(motion.Skeleton, motion.RotationsAt(frame), motion.TranslationsAt(frame), worldRotations, worldPositions);

    /// <summary>World places of all frames: [frame × joints + joint], metres; and turns when asked for.</summary>
    public static Vector3[] WorldPositions(Motion motion, Quaternion[]? worldRotations = null)
    {
        var n = motion.Skeleton.Count;
        var positions = new Vector3[motion.FrameCount * n];
        var scratch = new Quaternion[n];
        for (var f = 0; f < motion.FrameCount; f++)
        {
            var turns = worldRotations is null ? scratch : worldRotations.AsSpan(f * n, n);
            World(motion, f, turns, positions.AsSpan(f * n, n));
        }

        return positions;
    }

    /// <summary>World turns back to local ones.</summary>
    public static void Local(Skeleton skeleton, ReadOnlySpan<Quaternion> worldRotations, Span<Quaternion> rotations)
    {
        var parents = skeleton.Parents;
        for (var j = 0; j < parents.Length; j++)
        {
            rotations[j] =
                parents[j] < 0
                    ? worldRotations[j]
                    : Quaternion.Normalize(Quaternion.Conjugate(worldRotations[parents[j]]) * worldRotations[j]);
        }
    }
}
