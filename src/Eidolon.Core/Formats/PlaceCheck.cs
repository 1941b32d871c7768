using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Formats;

/// <summary>Positions farther away than any capture volume are a wrong unit or wrong bytes: they are refused in every format.</summary>
public static class PlaceCheck
{
    /// <summary>Metres from the origin, or from a joint's parent.</summary>
    private const float Farthest = 1000;

    /// <exception cref="InvalidInputException">A marker lies beyond a kilometre; names it and its frame.</exception>
    public static MarkerTake Checked(this MarkerTake take, string file)
    {
        for (var i = 0; i < take.Positions.Length; i++)
        {
            if (MarkerTake.Seen(take.Positions[i]) && !Near(take.Positions[i]))
            {
                throw Far(file, i / take.MarkerCount, take.Names[i % take.MarkerCount], take.Positions[i]);
            }
        }

        return take;
    }

    /// <exception cref="InvalidInputException">A joint lies beyond a kilometre; names it and its frame.</exception>
    public static Motion Checked(this Motion motion, string file)
    {
        var n = motion.Skeleton.Count;
        foreach (var joint in motion.Skeleton.Joints)
        {
            if (!Near(joint.Offset))
            {
                throw new InvalidInputException(file, $"joint {joint.Name}", Words(joint.Offset));
            }
        }

        for (var i = 0; i < motion.Translations.Length; i++)
        {
            if (!Near(motion.Translations[i]))
            {
                throw Far(file, i / n, motion.Skeleton[i % n].Name, motion.Translations[i]);
            }
        }

        return motion;
    }

    private static bool Near(Vector3 p) => MathF.Abs(p.X) <= Farthest && MathF.Abs(p.Y) <= Farthest && MathF.Abs(p.Z) <= Farthest;

    private static InvalidInputException Far(string file, int frame, string name, Vector3 p) =>
        new(file, $"frame {frame}, {name}", Words(p));

    private static string Words(Vector3 p) =>
        $"({p.X:0.###}, {p.Y:0.###}, {p.Z:0.###}) m is more than a kilometre away: the unit is probably another one";
}
