using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>
/// Rigs whose pelvis travels under a root that stays: for work on the way the root is made to carry the pelvis, and put back afterwards.
/// </summary>
internal static class CarriedRoot
{
    /// <summary>The same places of every joint, but the pelvis still against its root; rigs whose pelvis is the root stay as they are.</summary>
    /// <param name="frame">The frame whose root and pelvis stay as they are.</param>
    public static Motion Lift(Motion motion, int frame)
    {
        if (Pelvis(motion.Skeleton) is not { } joints)
        {
            return motion;
        }

        var (root, pelvis) = joints;
        var n = motion.Skeleton.Count;
        var (turns, places) = (new Quaternion[n], new Vector3[n]);
        ForwardKinematics.World(motion, frame, turns, places);
        var back = Quaternion.Conjugate(turns[root]);
        var (turn, place) = (back * turns[pelvis], Vector3.Transform(places[pelvis] - places[root], back));
        var result = motion.Copy();
        for (var f = 0; f < motion.FrameCount; f++)
        {
            ForwardKinematics.World(motion, f, turns, places);
            var r = result.RotationsAt(f);
            var t = result.TranslationsAt(f);
            for (var j = pelvis; j != root; j = motion.Skeleton.Parents[j])
            {
                r[j] = motion.RotationsAt(frame)[j];
                t[j] = motion.TranslationsAt(frame)[j];
            }

            r[root] = Quaternion.Normalize(turns[pelvis] * Quaternion.Conjugate(turn));
            t[root] = places[pelvis] - Vector3.Transform(place, r[root]);
        }

        return result;
    }

    /// <summary>The root again where the source has it, the pelvis where it was carried to.</summary>
    public static Motion Lower(Motion lifted, Motion source, int frame)
    {
        if (Pelvis(source.Skeleton) is not { } joints)
        {
            return lifted;
        }

        var (root, pelvis) = joints;
        var n = lifted.Skeleton.Count;
        var (turns, places) = (new Quaternion[n], new Vector3[n]);
        var result = lifted.Copy();
        for (var f = 0; f < lifted.FrameCount; f++)
        {
            ForwardKinematics.World(lifted, f, turns, places);
            var (turn, place) = (turns[pelvis], places[pelvis]);
            result.RotationsAt(f)[root] = source.RotationsAt(frame)[root];
            result.TranslationsAt(f)[root] = source.TranslationsAt(frame)[root];
            ForwardKinematics.World(result, f, turns, places);
            var above = lifted.Skeleton.Parents[pelvis];
            var back = Quaternion.Conjugate(turns[above]);
            result.RotationsAt(f)[pelvis] = Quaternion.Normalize(back * turn);
            result.TranslationsAt(f)[pelvis] = Vector3.Transform(place - places[above], back);
        }

        return result;
    }

    private static (int Root, int Pelvis)? Pelvis(Skeleton s)
    {
        var pelvis = s.IndexOf(BodyRole.Pelvis);
        if (pelvis < 0 || s.Parents[pelvis] < 0)
        {
            return null;
        }

        var root = pelvis;
        while (s.Parents[root] >= 0)
        {
            root = s.Parents[root];
        }

        return (root, pelvis);
    }
}
