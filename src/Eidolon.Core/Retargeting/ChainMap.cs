using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>Spreads the turns of one chain of joints (a spine, a neck) over another with a different count.</summary>
internal sealed class ChainMap
{
    private readonly int[] _source;
    private readonly int[] _target;
    private readonly (int Low, int High, float Share)[] _mix;

    private ChainMap(int[] source, int[] target, (int, int, float)[] mix) => (_source, _target, _mix) = (source, target, mix);

    public IReadOnlyList<int> Target => _target;

    /// <summary>Joints from just above the lower end up to the upper one, matched by their share of the chain's length.</summary>
    /// <param name="bend">-1 to 1: below 0 more of the turn lower down, above 0 higher up; the upper end turns the same.</param>
    public static ChainMap? Create(
        Skeleton source,
        Skeleton target,
        int sourceFrom,
        int sourceTo,
        int targetFrom,
        int targetTo,
        float bend = 0
    )
    {
        var a = Path(source, sourceFrom, sourceTo);
        var b = Path(target, targetFrom, targetTo);
        if (a.Length == 0 || b.Length == 0)
        {
            return null;
        }

        // Ends of the source include the joint below the chain, so that a turn can begin there.
        float[] sa = [0, .. Shares(source, sourceFrom, a)];
        var sb = Shares(target, targetFrom, b);
        var mix = sb.Select(
                (own, i) =>
                {
                    var s = MathF.Pow(own, MathF.Pow(2, bend));
                    if (a.Length == b.Length && bend == 0)
                    {
                        return (i + 1, i + 1, 0f);
                    }

                    var k = Array.FindIndex(sa, x => x >= s - 1e-5f);
                    k = k < 0 ? sa.Length - 1 : Math.Max(1, k);
                    var length = sa[k] - sa[k - 1];
                    return (k - 1, k, length < 1e-6f ? 1 : Math.Clamp((s - sa[k - 1]) / length, 0, 1));
                }
            )
            .ToArray();
        return new ChainMap([sourceFrom, .. a], b, mix);
    }

    /// <summary>World turns away from the T-pose for the target chain, from the source's.</summary>
    public void Apply(ReadOnlySpan<Quaternion> sourceDelta, Span<Quaternion> targetDelta)
    {
        for (var i = 0; i < _target.Length; i++)
        {
            var (low, high, share) = _mix[i];
            targetDelta[_target[i]] =
                low == high ? sourceDelta[_source[high]] : Rotations.Slerp(sourceDelta[_source[low]], sourceDelta[_source[high]], share);
        }
    }

    private static int[] Path(Skeleton s, int from, int to)
    {
        var list = new List<int>();
        for (var j = to; j >= 0 && j != from; j = s.Parents[j])
        {
            list.Add(j);
            if (s.Parents[j] < 0)
            {
                return [];
            }
        }

        list.Reverse();
        return [.. list];
    }

    private static float[] Shares(Skeleton s, int from, int[] chain)
    {
        var shares = new float[chain.Length];
        float sum = 0;
        var below = from;
        for (var i = 0; i < chain.Length; i++)
        {
            sum += (s.RestPositions[chain[i]] - s.RestPositions[below]).Length();
            shares[i] = sum;
            below = chain[i];
        }

        return sum < 1e-6f ? [.. chain.Select((_, i) => (i + 1f) / chain.Length)] : Array.ConvertAll(shares, x => x / sum);
    }
}
