using System.Numerics;

namespace Eidolon.Core.Skeletons;

/// <summary>A motion as in a mirror: left does what right did.</summary>
public static class MotionMirror
{
    /// <summary>
    /// Mirrors about the upright plane through the origin between left and right at rest. World turns away from rest go over to the other side, so
    /// that rigs whose sides have other axes mirror too; joints without a counterpart are their own.
    /// </summary>
    /// <remarks>A turn (x, y, z, w) mirrored along the unit vector n keeps its part along n and turns the rest round.</remarks>
    public static Motion Mirror(Motion motion)
    {
        var s = motion.Skeleton;
        var n = s.Count;
        var across = BodyFacing.Of(s) is { } ahead ? Vector3.Normalize(Vector3.Cross(Vector3.UnitY, ahead)) : Vector3.UnitX;
        Vector3 Place(Vector3 v) => v - (2 * Vector3.Dot(v, across) * across);
        Quaternion Turn(Quaternion q)
        {
            var v = new Vector3(q.X, q.Y, q.Z);
            return new Quaternion(-Place(v), q.W);
        }

        var other = Counterparts(s);
        var result = motion.Copy();
        var (turns, places) = (new Quaternion[n], new Vector3[n]);
        var (mirrored, at) = (new Quaternion[n], new Vector3[n]);
        for (var f = 0; f < motion.FrameCount; f++)
        {
            ForwardKinematics.World(motion, f, turns, places);
            for (var j = 0; j < n; j++)
            {
                var o = other[j];
                mirrored[j] = Quaternion.Normalize(Turn(turns[o] * Quaternion.Conjugate(s.RestRotations[o])) * s.RestRotations[j]);
                at[j] = Place(places[o]);
            }

            ForwardKinematics.Local(s, mirrored, result.RotationsAt(f));
            var t = result.TranslationsAt(f);
            var own = motion.TranslationsAt(f);
            for (var j = 0; j < n; j++)
            {
                // What only turns keeps its own length; what moves, moves as the other side did.
                t[j] =
                    s.Parents[j] < 0 ? at[j]
                    : own[other[j]] == s[other[j]].Offset ? s[j].Offset
                    : Vector3.Transform(at[j] - at[s.Parents[j]], Quaternion.Conjugate(mirrored[s.Parents[j]]));
            }
        }

        return result;
    }

    /// <summary>Of each joint the one on the other side: by role, or by where it hangs from one that has a role.</summary>
    private static int[] Counterparts(Skeleton s)
    {
        var other = new int[s.Count];
        for (var j = 0; j < other.Length; j++)
        {
            other[j] = j;
            if (s[j].Role is { } role && s.IndexOf(BodyRoles.Mirror(role)) is >= 0 and var o)
            {
                other[j] = o;
            }
            else if (s.Parents[j] is >= 0 and var p && other[p] != p)
            {
                var (mine, theirs) = (s.Children(p).ToList(), s.Children(other[p]).ToList());
                var k = mine.IndexOf(j);
                other[j] = k < theirs.Count && s[theirs[k]].Role is null ? theirs[k] : j;
            }
        }

        // Only pairs that name each other.
        return [.. other.Select((o, j) => other[o] == j ? o : j)];
    }
}
