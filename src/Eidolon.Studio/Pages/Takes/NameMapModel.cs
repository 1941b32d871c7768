using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>
/// A performer drawn from the front with every marker where it is worn: names are picked here and missing ones seen at once. Left is drawn on
/// the left.
/// </summary>
public sealed record NameMapModel(string? Who, IReadOnlyList<NameMapModel.Bone> Bones, IReadOnlyList<NameMapModel.Dot> Dots)
{
    public const int Width = 300,
        Height = 250;

    private const float Margin = 10;

    /// <summary>Arms hang down by so much, so that the figure fits and hands can be told apart, radians.</summary>
    private const float ArmsDown = 0.85f;

    public readonly record struct Bone(float X1, float Y1, float X2, float Y2, float Thick, char Side);

    /// <param name="Behind">Worn on the back: drawn smaller.</param>
    public readonly record struct Dot(string Name, float X, float Y, char Side, bool Behind);

    public static NameMapModel Of(string? prefix, Performer body)
    {
        var s = body.Skeleton;
        var places = Pose(s);
        var worn = body.Markers.Select(m => Turned(s, places, m.Joint, m.Offset)).ToArray();
        var top = places.Concat(worn).Max(p => p.Y);
        var scale = (Height - (2 * Margin)) / top;
        (float X, float Y) At(Vector3 p) => ((Width / 2f) - (p.X * scale), Height - Margin - (p.Y * scale));
        var bones = new List<Bone>();
        for (var j = 0; j < s.Count; j++)
        {
            if (s[j].Parent < 0 || s[j].Role is not { } role || s[s[j].Parent].Role is not { } from || from == BodyRole.Root)
            {
                continue;
            }

            var ((x1, y1), (x2, y2)) = (At(places[s[j].Parent]), At(places[j]));
            bones.Add(
                new Bone(
                    x1,
                    y1,
                    x2,
                    y2,
                    BodyRoles.Side(role) == 'C' ? 26
                        : BodyRoles.Stem(role) is "Shin" or "Thigh" ? 17
                        : 11,
                    BodyRoles.Side(role)
                )
            );
        }

        // The head reaches up to its highest marker.
        if (s.IndexOf(BodyRole.Head) is >= 0 and var head)
        {
            var ((x1, y1), (x2, y2)) = (At(places[head]), At(places[head] with { Y = top - 0.07f }));
            bones.Add(new Bone(x1, y1, x2, y2, 24, 'C'));
        }

        var dots = body.Markers.Select(
            (m, i) =>
            {
                var (x, y) = At(worn[i]);
                return new Dot(
                    MarkerNames.Join(prefix, m.Name),
                    x,
                    y,
                    s[m.Joint].Role is { } r && BodyRoles.Side(r) is 'L' or 'R' ? BodyRoles.Side(s[m.Joint].Role!.Value)
                        : m.Name[^1] is 'L' or 'R' ? m.Name[^1]
                        : 'C',
                    m.Offset.Z < -0.03f
                );
            }
        );
        return new NameMapModel(prefix, bones, [.. dots]);
    }

    private static Vector3[] Pose(Skeleton s)
    {
        var places = s.RestPositions.ToArray();
        foreach (var (role, sign) in new[] { (BodyRole.UpperArmL, -1), (BodyRole.UpperArmR, 1) })
        {
            var shoulder = s.IndexOf(role);
            foreach (var j in s.Branch(shoulder))
            {
                places[j] =
                    s.RestPositions[shoulder]
                    + Vector3.Transform(
                        s.RestPositions[j] - s.RestPositions[shoulder],
                        Quaternion.CreateFromAxisAngle(Vector3.UnitZ, sign * ArmsDown)
                    );
            }
        }

        return places;
    }

    private static Vector3 Turned(Skeleton s, Vector3[] places, int joint, Vector3 offset)
    {
        int left = s.IndexOf(BodyRole.UpperArmL),
            right = s.IndexOf(BodyRole.UpperArmR);
        var sign =
            s.Branch(left).Contains(joint) ? -1
            : s.Branch(right).Contains(joint) ? 1
            : 0;
        return places[joint] + Vector3.Transform(offset, Quaternion.CreateFromAxisAngle(Vector3.UnitZ, sign * ArmsDown));
    }
}
