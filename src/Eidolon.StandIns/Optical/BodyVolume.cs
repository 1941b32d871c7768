using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.StandIns.Optical;

/// <summary>The body as capsules, for what it hides from the cameras.</summary>
internal sealed class BodyVolume
{
    private readonly (int Joint, Vector3 End, float Radius)[] _capsules;

    public BodyVolume(Skeleton body, float stature)
    {
        var list = new List<(int, Vector3, float)>();
        for (var j = 0; j < body.Count; j++)
        {
            var role = body[j].Role!.Value.ToString().TrimEnd('L', 'R');
            var radius =
                role switch
                {
                    "Pelvis" => .075f,
                    "SpineLower" or "SpineUpper" => .068f,
                    "Chest" => .072f,
                    "Head" => .048f,
                    "Thigh" => .036f,
                    "Shin" => .026f,
                    "UpperArm" => .024f,
                    "Forearm" => .018f,
                    "Hand" => .016f,
                    "Foot" => .018f,
                    _ => 0,
                } * stature;
            if (radius == 0)
            {
                continue;
            }

            var end =
                role == "Head"
                    ? new Vector3(0, .05f, .004f) * stature
                    : body[j].EndSite ?? body.Children(j).Select(c => body[c].Offset).FirstOrDefault();
            list.Add((j, end, radius));
        }

        _capsules = [.. list];
    }

    public int Count => _capsules.Length;

    /// <summary>World ends of every capsule for one frame.</summary>
    public void Place(ReadOnlySpan<Quaternion> rotations, ReadOnlySpan<Vector3> positions, Span<(Vector3 A, Vector3 B, float R)> capsules)
    {
        for (var i = 0; i < _capsules.Length; i++)
        {
            var (j, end, r) = _capsules[i];
            capsules[i] = (positions[j], positions[j] + Vector3.Transform(end, rotations[j]), r);
        }
    }

    /// <summary>
    /// True when the segment from <paramref name="eye"/> to <paramref name="marker"/> passes through a capsule; the last centimetres before the
    /// marker do not count.
    /// </summary>
    public static bool Hides(ReadOnlySpan<(Vector3 A, Vector3 B, float R)> capsules, Vector3 eye, Vector3 marker)
    {
        var d = marker - eye;
        var length = d.Length();
        var end = eye + (d * ((length - 0.03f) / length));
        foreach (var (a, b, r) in capsules)
        {
            // Markers stand off the skin, so a capsule that the marker itself touches is made a little thinner.
            if (Segments.Distance(eye, end, a, b) < r * 0.9f)
            {
                return true;
            }
        }

        return false;
    }
}
