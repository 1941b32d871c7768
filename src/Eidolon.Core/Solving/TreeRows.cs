using System.Numerics;

namespace Eidolon.Core.Solving;

/// <summary>
/// How a symmetric matrix with the sparsity of a kinematic tree lies in memory: a row for each degree of freedom, in it its ancestors from
/// the root down and itself last. The row of an ancestor is laid out as the beginning of the row of whatever hangs on it.
/// </summary>
/// <remarks>Rows begin at whole SIMD vectors; what fills the last one up is never looked at.</remarks>
internal sealed class TreeRows
{
    public TreeRows(IReadOnlyList<int> parents)
    {
        var lanes = Vector<double>.Count;
        (Chains, Starts) = (new int[parents.Count][], new int[parents.Count]);
        for (var k = 0; k < parents.Count; k++)
        {
            Chains[k] = parents[k] is >= 0 and var up ? [.. Chains[up], k] : [k];
            Starts[k] = Length;
            Length += (Chains[k].Length + lanes - 1) / lanes * lanes;
        }
    }

    /// <summary>Ancestors of each degree of freedom from the root down, itself last.</summary>
    public int[][] Chains { get; }

    /// <summary>Where each row begins.</summary>
    public int[] Starts { get; }

    /// <summary>Numbers in all rows.</summary>
    public int Length { get; }

    /// <summary>Where the diagonal's entry of a row lies.</summary>
    public int Diagonal(int k) => Starts[k] + Chains[k].Length - 1;
}
