using System.Numerics;

namespace Eidolon.Core.Characters.Binding;

/// <summary>How a skin follows joints: at most four a vertex, the heaviest first, weights that sum to one.</summary>
/// <param name="Joints">Of each vertex.</param>
/// <param name="Weights">Of each vertex; zero where there are fewer than four.</param>
/// <param name="LooseParts">Pieces apart from the body that follow one joint: that joint, and how many vertices they have.</param>
public sealed record SkinWeights(
    (ushort A, ushort B, ushort C, ushort D)[] Joints,
    Vector4[] Weights,
    IReadOnlyList<(int Joint, int Vertices)> LooseParts
)
{
    /// <summary>The four heaviest of dense weights.</summary>
    /// <param name="dense">One for each joint, none negative.</param>
    internal static ((ushort, ushort, ushort, ushort) Joints, Vector4 Weights) Heaviest(ReadOnlySpan<double> dense)
    {
        Span<int> which = [0, 0, 0, 0];
        Span<double> weight = [0, 0, 0, 0];
        for (var j = 0; j < dense.Length; j++)
        {
            var at = 4;
            while (at > 0 && dense[j] > weight[at - 1])
            {
                at--;
            }

            if (at == 4)
            {
                continue;
            }

            for (var k = 3; k > at; k--)
            {
                (which[k], weight[k]) = (which[k - 1], weight[k - 1]);
            }

            (which[at], weight[at]) = (j, dense[j]);
        }

        var sum = weight[0] + weight[1] + weight[2] + weight[3];
        var scale = sum > 0 ? 1 / sum : 0;
        return (
            ((ushort)which[0], (ushort)which[1], (ushort)which[2], (ushort)which[3]),
            sum > 0
                ? new Vector4(
                    (float)(weight[0] * scale),
                    (float)(weight[1] * scale),
                    (float)(weight[2] * scale),
                    (float)(weight[3] * scale)
                )
                : Vector4.UnitX
        );
    }
}
