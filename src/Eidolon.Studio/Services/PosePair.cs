using System.Globalization;
using System.Numerics;
using System.Text;
using System.Text.Json.Nodes;
using Eidolon.Core.Skeletons;

namespace Eidolon.Studio.Services;

/// <summary>The two poses of a cycle laid over each other, from the front and from the side, as strokes.</summary>
public static class PosePair
{
    private const int Width = 132,
        Height = 128;

    private static readonly BodyRole[][] Chains =
    [
        [BodyRole.Pelvis, BodyRole.Chest, BodyRole.Neck, BodyRole.Head],
        [BodyRole.Chest, BodyRole.UpperArmL, BodyRole.ForearmL, BodyRole.HandL],
        [BodyRole.Chest, BodyRole.UpperArmR, BodyRole.ForearmR, BodyRole.HandR],
        [BodyRole.Pelvis, BodyRole.ThighL, BodyRole.ShinL, BodyRole.FootL, BodyRole.ToesL],
        [BodyRole.Pelvis, BodyRole.ThighR, BodyRole.ShinR, BodyRole.FootR, BodyRole.ToesR],
    ];

    /// <param name="joints">Of a loop's report: role, first and last place.</param>
    public static string Svg(JsonArray joints)
    {
        var first = Places(joints, "first");
        var last = Places(joints, "last");
        if (!first.ContainsKey(BodyRole.Pelvis) || !first.ContainsKey(BodyRole.ThighL) || !first.ContainsKey(BodyRole.ThighR))
        {
            return string.Empty;
        }

        var left = Vector3.Normalize((first[BodyRole.ThighL] - first[BodyRole.ThighR]) with { Y = 0 });
        var ahead = Vector3.Cross(left, Vector3.UnitY);
        var (low, high) = (first.Values.Min(p => p.Y), first.Values.Max(p => p.Y));
        var scale = (Height - 12) / Math.Max(.1f, high - low);
        var text = new StringBuilder();
        // From the front, so that the body's left is on the right; and from its left side, so that it looks to the left.
        foreach (var (across, words) in new[] { (left, "front"), (-ahead, "side") })
        {
            text.Append(CultureInfo.InvariantCulture, $"<svg class=\"e-pair\" viewBox=\"0 0 {Width} {Height}\" role=\"img\" ");
            text.Append(CultureInfo.InvariantCulture, $"aria-label=\"Both poses from the {words}\">");
            foreach (var (places, name) in new[] { (last, "last"), (first, "first") })
            {
                foreach (var chain in Chains)
                {
                    var points = chain
                        .Where(places.ContainsKey)
                        .Select(r => places[r])
                        .Select(p =>
                            string.Create(
                                CultureInfo.InvariantCulture,
                                $"{(Width / 2f) + (Vector3.Dot(p - first[BodyRole.Pelvis], across) * scale):0.0},{Height - 6 - ((p.Y - low) * scale):0.0}"
                            )
                        );
                    text.Append(CultureInfo.InvariantCulture, $"<polyline class=\"{name}\" points=\"{string.Join(' ', points)}\"/>");
                }
            }

            text.Append("</svg>");
        }

        return text.ToString();
    }

    private static Dictionary<BodyRole, Vector3> Places(JsonArray joints, string name) =>
        joints.ToDictionary(
            j => Enum.Parse<BodyRole>((string)j!["role"]!),
            j => new Vector3((float)(double)j![name]![0]!, (float)(double)j[name]![1]!, (float)(double)j[name]![2]!)
        );
}
