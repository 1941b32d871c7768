using System.Numerics;
using Eidolon.Core.Hands;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.StandIns.People;

/// <summary>"Harbour 53": the marker set of the production, with where each marker sits as a share of the stature.</summary>
public static class HarbourMarkers
{
    private static readonly (string Name, string Segment, float X, float Y, float Z)[] Centre =
    [
        ("Crown", "Head", 0, .108f, .005f),
        ("Collar", "Chest", .004f, .082f, .058f),
        ("Breastbone", "Chest", 0, .010f, .070f),
        ("SpineHigh", "Chest", 0, .096f, -.055f),
        ("SpineMid", "SpineUpper", .006f, .030f, -.070f),
    ];

    private static readonly (string Name, string Segment, float X, float Y, float Z)[] Sides =
    [
        ("Brow", "Head", .034f, .062f, .052f),
        ("Nape", "Head", .036f, .058f, -.044f),
        ("Blade", "Chest", .062f, .040f, -.064f),
        ("Shoulder", "Clavicle", .086f, .036f, -.006f),
        ("UpperArm", "UpperArm", .088f, .012f, -.028f),
        ("ElbowOut", "UpperArm", .168f, .004f, -.026f),
        ("ElbowIn", "UpperArm", .170f, -.004f, .025f),
        ("Forearm", "Forearm", .070f, .020f, .012f),
        ("WristThumb", "Forearm", .144f, .006f, .023f),
        ("WristLittle", "Forearm", .143f, .004f, -.021f),
        ("KnuckleIn", "Hand", .050f, .012f, .022f),
        ("KnuckleOut", "Hand", .047f, .011f, -.020f),
        ("HipFront", "Pelvis", .072f, .036f, .056f),
        ("HipBack", "Pelvis", .030f, .044f, -.068f),
        ("Thigh", "Thigh", .046f, -.120f, .030f),
        ("KneeOut", "Thigh", .034f, -.242f, .004f),
        ("KneeIn", "Thigh", -.033f, -.243f, .004f),
        ("Shin", "Shin", .012f, -.110f, .034f),
        ("AnkleOut", "Shin", .023f, -.244f, -.004f),
        ("AnkleIn", "Shin", -.022f, -.242f, .002f),
        ("Heel", "Foot", 0, -.020f, -.038f),
        ("BallOut", "Foot", .026f, -.024f, .068f),
        ("BallIn", "Foot", -.020f, -.022f, .076f),
        ("Toe", "Toes", .002f, .008f, .030f),
    ];

    /// <summary>The set for a person; offsets are left out unless asked for, since a crew does not know them.</summary>
    /// <param name="hands">With a marker on every fingernail: ten more.</param>
    public static MarkerSet Set(Person? person = null, bool hands = false)
    {
        var markers = new List<MarkerDefinition>();
        foreach (var (name, role, offset) in Rows(hands))
        {
            markers.Add(new MarkerDefinition(name, role, person is null ? null : offset * person.Stature));
        }

        return new MarkerSet(hands ? "Harbour 53 and hands" : "Harbour 53", markers, Links(markers));
    }

    /// <summary>Name, bone and place (share of stature) of every marker.</summary>
    internal static IEnumerable<(string Name, BodyRole Role, Vector3 Offset)> Rows(bool hands = false)
    {
        foreach (var c in Centre)
        {
            yield return (c.Name, Enum.Parse<BodyRole>(c.Segment), new Vector3(c.X, c.Y, c.Z));
        }

        foreach (var side in "LR")
        {
            var sign = side == 'L' ? 1 : -1;
            foreach (var s in Sides)
            {
                var segment = s.Segment is "Head" or "Chest" or "Pelvis" ? s.Segment : s.Segment + side;
                // Nobody tapes both sides alike: the right UpperArm, Thigh and Shin markers sit lower, which also tells left from right.
                var lower = side == 'R' && s.Name is "UpperArm" ? .03f : 0;
                var down = side == 'R' && s.Name is "Thigh" or "Shin" && side == 'R' ? -.035f : 0;
                yield return (s.Name + side, Enum.Parse<BodyRole>(segment), new Vector3((s.X + lower) * sign, s.Y + down, s.Z));
            }
        }

        for (var side = 0; hands && side < 2; side++)
        {
            // On the nails: three quarters along the last bone, a few millimetres above it.
            var shape = HandShape.Average(side == 0 ? 'L' : 'R', HandShape.LengthShare);
            foreach (var finger in shape.Fingers)
            {
                var name = $"{BodyRoles.Stem(finger.First)[..^1]}Nail{shape.Side}";
                yield return (name, LastOf(finger.First), (finger.Tip * 0.75f) - (finger.Spreads * 0.0041f));
            }
        }
    }

    private static BodyRole LastOf(BodyRole first) => Enum.Parse<BodyRole>(first.ToString()[..^1] + "3");

    private static List<(string, string)> Links(List<MarkerDefinition> markers)
    {
        var links = new List<(string, string)>();
        foreach (var group in markers.GroupBy(m => m.Segment))
        {
            var g = group.Select(m => m.Name).ToArray();
            for (var i = 0; i < g.Length; i++)
            {
                for (var j = i + 1; j < g.Length; j++)
                {
                    links.Add((g[i], g[j]));
                }
            }
        }

        foreach (var s in "LR")
        {
            links.Add(($"ElbowOut{s}", $"Forearm{s}"));
            links.Add(($"ElbowIn{s}", $"Forearm{s}"));
            links.Add(($"WristThumb{s}", $"KnuckleIn{s}"));
            links.Add(($"WristLittle{s}", $"KnuckleOut{s}"));
            links.Add(($"KneeOut{s}", $"Shin{s}"));
            links.Add(($"KneeIn{s}", $"Shin{s}"));
            links.Add(($"Heel{s}", $"AnkleOut{s}"));
            links.Add(($"Toe{s}", $"BallIn{s}"));
            links.Add(($"Shoulder{s}", $"Blade{s}"));
        }

        return links;
    }
}
