using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Clipping;

/// <summary>
/// Fits volumes to a skin: limbs as capsules along their bones, pelvis and chest as capsules that lie across, since bodies are wider than deep.
/// </summary>
public static class VolumeFitter
{
    /// <summary>A part with fewer vertices than this is taken from average proportions.</summary>
    private const int FewestVertices = 24;

    /// <summary>A limb is as thick as this share of its vertices lie near its bone; cloth that hangs off it counts little.</summary>
    private const double LimbShare = 0.55;

    /// <summary>The trunk is as wide and as deep as these shares of its vertices.</summary>
    private const double WidthShare = 0.90,
        DepthShare = 0.85;

    /// <summary>Where across a trunk bone its capsules lie, as shares of it.</summary>
    private static readonly float[] Across = [0.25f, 0.75f];

    /// <summary>Volumes of a character.</summary>
    /// <param name="s">Its skeleton, with roles; without the needed ones there are no volumes.</param>
    /// <param name="skin">Its skin at rest; parts that have none are taken from average proportions.</param>
    public static BodyVolumes Fit(Skeleton s, SkinPoints skin)
    {
        var average = BodyVolumes.OfProportions(s);
        if (average.All.Count == 0)
        {
            return average;
        }

        var owners = Owners(s);
        var volumes = new List<BodyVolume>();
        foreach (var usual in average.All)
        {
            var own = Enumerable
                .Range(0, skin.Places.Length)
                .Where(v => owners[skin.Joints[v]] == usual.Part)
                .Select(v => skin.Places[v])
                .ToArray();
            if (own.Length < FewestVertices)
            {
                volumes.Add(usual);
                continue;
            }

            volumes.AddRange(
                usual.Part is "Pelvis" or "Chest" ? Trunk(s, usual, own)
                : usual.A == usual.B ? [End(s, usual, own)]
                : Limb(s, usual, own)
            );
        }

        return new(volumes);
    }

    /// <summary>A bone in two halves: limbs are thicker above, cloth hangs wider below.</summary>
    private static IEnumerable<BodyVolume> Limb(Skeleton s, BodyVolume usual, Vector3[] own)
    {
        Vector3 a = s.RestPositions[usual.A],
            b = s.RestPositions[usual.B];
        var (line, length) = (Vector3.Normalize(b - a), Vector3.Distance(a, b));
        foreach (var (from, to) in new[] { (0f, 0.5f), (0.5f, 1f) })
        {
            var half = own.Where(p => Vector3.Dot(p - a, line) / length is var t && t >= from && t <= to).ToArray();
            yield return usual with
            {
                OffsetA = Local(s, usual.A, Vector3.Lerp(a, b, from)),
                B = usual.A,
                OffsetB = Local(s, usual.A, Vector3.Lerp(a, b, to)),
                Radius = half.Length < FewestVertices ? usual.Radius : Thickness(half, a, line),
            };
        }
    }

    /// <summary>Head and hands: from the joint through the middle of what hangs from it.</summary>
    private static BodyVolume End(Skeleton s, BodyVolume usual, Vector3[] own)
    {
        var a = s.RestPositions[usual.A];
        var middle = own.Aggregate(Vector3.Zero, (sum, p) => sum + p) / own.Length;
        var length = Vector3.Distance(a, middle) * 2;
        var line = Vector3.Normalize(middle - a);
        var radius = Thickness(own, a, line);
        // A capsule is longer than its line by its radius at each end.
        var round = MathF.Min(radius, length * 0.45f);
        return usual with
        {
            OffsetA = Local(s, usual.A, usual.Part == "Head" ? a + (line * round) : a),
            OffsetB = Local(s, usual.A, a + (line * (length - round))),
            Radius = radius,
        };
    }

    private static float Thickness(Vector3[] own, Vector3 a, Vector3 line) =>
        Share(own.Select(p => (p - a - (line * Vector3.Dot(p - a, line))).Length()), LimbShare);

    private static IEnumerable<BodyVolume> Trunk(Skeleton s, BodyVolume usual, Vector3[] own)
    {
        Vector3 a = s.RestPositions[usual.A],
            b = s.RestPositions[usual.B];
        var across = Vector3.Normalize(s.RestPositions[s.IndexOf(BodyRole.ThighL)] - s.RestPositions[s.IndexOf(BodyRole.ThighR)]);
        var up = Vector3.Normalize(b - a);
        across = Vector3.Normalize(across - (up * Vector3.Dot(across, up)));
        var ahead = Vector3.Cross(across, up);
        var middle = Share(own.Select(p => Vector3.Dot(p - a, ahead)), 0.5);
        var (front, back) = (
            Share(own.Select(p => Vector3.Dot(p - a, ahead) - middle).Where(d => d > 0).DefaultIfEmpty(0), DepthShare),
            Share(own.Select(p => middle - Vector3.Dot(p - a, ahead)).Where(d => d > 0).DefaultIfEmpty(0), DepthShare)
        );
        var deep = (front + back) / 2;
        var wide = Share(own.Select(p => MathF.Abs(Vector3.Dot(p - a, across))), WidthShare);
        var half = MathF.Max(0, wide - deep);
        foreach (var share in Across)
        {
            var centre = Vector3.Lerp(a, b, share) + (ahead * (middle + ((front - back) / 2)));
            yield return new BodyVolume(
                usual.Part,
                usual.A,
                Local(s, usual.A, centre + (across * half)),
                usual.A,
                Local(s, usual.A, centre - (across * half)),
                deep
            );
        }
    }

    /// <summary>Which part each joint belongs to: its own, or that of the nearest joint above which has one.</summary>
    private static string[] Owners(Skeleton s)
    {
        var owners = new string[s.Count];
        for (var j = 0; j < s.Count; j++)
        {
            owners[j] =
                s[j].Role is { } role && Part(role) is { } part ? part
                : s.Parents[j] >= 0 ? owners[s.Parents[j]]
                : string.Empty;
        }

        return owners;
    }

    /// <summary>The part a role begins; null: it goes with the one above.</summary>
    private static string? Part(BodyRole role) =>
        role switch
        {
            BodyRole.Pelvis => "Pelvis",
            BodyRole.SpineLower or BodyRole.SpineMid or BodyRole.SpineUpper or BodyRole.Chest => "Chest",
            BodyRole.NeckLower or BodyRole.Neck => string.Empty,
            BodyRole.Head => "Head",
            BodyRole.ThighL or BodyRole.ThighR or BodyRole.ForearmL or BodyRole.ForearmR or BodyRole.HandL or BodyRole.HandR =>
                role.ToString(),
            BodyRole.UpperArmL or BodyRole.UpperArmR or BodyRole.ShinL or BodyRole.ShinR => string.Empty,
            _ => null,
        };

    private static Vector3 Local(Skeleton s, int joint, Vector3 place) =>
        Vector3.Transform(place - s.RestPositions[joint], Quaternion.Conjugate(s.RestRotations[joint]));

    private static float Share(IEnumerable<float> values, double share)
    {
        var sorted = values.Order().ToArray();
        return sorted[(int)(share * (sorted.Length - 1))];
    }
}
