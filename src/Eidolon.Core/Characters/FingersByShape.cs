using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters;

/// <summary>Fingers of a hand from their shape: side by side they go out from it, and the thumb points another way than all others.</summary>
internal static class FingersByShape
{
    /// <summary>Hands with fewer chains say nothing: two or three joints below a hand may be helpers.</summary>
    private const int Fewest = 4;

    private static readonly string[] Names = ["Thumb", "Index", "Middle", "Ring", "Little"];

    /// <summary>Adds the fingers of a hand to roles.</summary>
    public static void Add(ShapeTree tree, int hand, char side, Dictionary<BodyRole, int> roles)
    {
        var s = tree.Skeleton;
        var chains = Chains(s, hand);
        if (chains.Count is < Fewest or > 5)
        {
            return;
        }

        var order = FromThumb(s, hand, chains);
        for (var f = 0; f < order.Count; f++)
        {
            var joints = Three(s, order[f], f == 0);
            for (var k = 0; k < joints.Length; k++)
            {
                roles.TryAdd(Enum.Parse<BodyRole>($"{Names[f]}{side}{k + 1}"), joints[k]);
            }
        }
    }

    /// <summary>How far the thumb begins ahead of the other fingers, against how far it is from them; 0 for a hand that says nothing.</summary>
    public static float ThumbAhead(Skeleton s, int hand, Vector3 ahead)
    {
        var chains = Chains(s, hand);
        if (chains.Count is < Fewest or > 5)
        {
            return 0;
        }

        var order = FromThumb(s, hand, chains);
        var others = order.Skip(1).Select(c => s.RestPositions[c[0]]).Aggregate((a, b) => a + b) / (order.Count - 1);
        var off = s.RestPositions[order[0][Math.Min(1, order[0].Count - 1)]] - others;
        return off.LengthSquared() < 1e-12f ? 0 : Vector3.Dot(off, ahead) / off.Length();
    }

    /// <summary>Joints in a row below the hand, at least two in each.</summary>
    private static List<List<int>> Chains(Skeleton s, int hand)
    {
        var chains = new List<List<int>>();
        foreach (var first in s.Children(hand))
        {
            var chain = new List<int> { first };
            while (s.Children(chain[^1]).ToArray() is [var next])
            {
                chain.Add(next);
            }

            if (chain.Count >= 2)
            {
                chains.Add(chain);
            }
        }

        return chains;
    }

    /// <summary>The chains in their order across the hand, the thumb first.</summary>
    private static List<List<int>> FromThumb(Skeleton s, int hand, List<List<int>> chains)
    {
        Vector3 Way(List<int> c) => Vector3.Normalize(s.RestPositions[c[^1]] - s.RestPositions[c[0]] + new Vector3(1e-7f));
        // The one whose way differs most from the mean of the others.
        float Apart(List<int> c)
        {
            var others = chains.Where(o => o != c).Select(Way).Aggregate((a, b) => a + b);
            return 1 - Vector3.Dot(Way(c), Vector3.Normalize(others + new Vector3(1e-7f)));
        }

        var thumb = chains.MaxBy(Apart)!;
        var fingers = chains.Where(c => c != thumb).ToList();
        // Farther from the thumb, farther across: the thumb's own side is where its middle joint is.
        var mean = fingers.Select(Way).Aggregate((a, b) => a + b);
        mean = Vector3.Normalize(mean + new Vector3(1e-7f));
        var at = s.RestPositions[thumb[Math.Min(1, thumb.Count - 1)]];
        float Across(List<int> c)
        {
            var off = s.RestPositions[c[0]] - at;
            return (off - (Vector3.Dot(off, mean) * mean)).Length();
        }

        return [thumb, .. fingers.OrderBy(Across)];
    }

    /// <summary>The three joints of a finger: what lies in the palm before them, and tips behind them, are none.</summary>
    private static int[] Three(Skeleton s, List<int> chain, bool thumb)
    {
        float Long(int k) => (s.RestPositions[chain[k + 1]] - s.RestPositions[chain[k]]).Length();
        var inPalm = !thumb && chain.Count >= 4 && Long(0) > 1.2f * Long(1);
        return [.. chain.Skip(inPalm ? 1 : 0).Take(3)];
    }
}
