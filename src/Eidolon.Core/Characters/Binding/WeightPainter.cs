using System.Numerics;

namespace Eidolon.Core.Characters.Binding;

/// <summary>Mends how a skin follows its bones, by strokes of a brush. Every vertex keeps at most four bones and a sum of one.</summary>
public static class WeightPainter
{
    /// <summary>A weight below this is left out.</summary>
    private const double Least = .004;

    /// <summary>One stroke.</summary>
    /// <param name="weights">Of the surface's vertices; not changed.</param>
    /// <param name="bone">The bone that is painted; of no meaning to <see cref="WeightBrush.Smooth"/>.</param>
    /// <param name="path">Vertices the brush went over, in order.</param>
    /// <param name="radius">Of the brush, metres.</param>
    /// <param name="strength">0 to 1: how much of the way one stroke goes.</param>
    /// <returns>The weights after it, and the vertices that changed.</returns>
    /// <exception cref="RefusedException">A vertex or bone is none of the surface's.</exception>
    public static (SkinWeights Weights, IReadOnlyList<int> Changed) Stroke(
        SkinSurface surface,
        SkinWeights weights,
        WeightBrush brush,
        int bone,
        IReadOnlyList<int> path,
        float radius,
        float strength
    )
    {
        if (bone < 0 || bone >= surface.Bones.Count || path.Any(v => v < 0 || v >= surface.Places.Length))
        {
            throw new RefusedException("the stroke is not on this character's skin");
        }

        var joints = weights.Joints.ToArray();
        var values = weights.Weights.ToArray();
        var changed = new List<int>();
        var (dense, around) = (new double[surface.Bones.Count], new double[surface.Bones.Count]);
        foreach (var (place, near) in surface.Around(path, radius))
        {
            var share = near * Math.Clamp(strength, 0, 1);
            if (share <= 0)
            {
                continue;
            }

            Array.Clear(dense);
            Gather(weights, surface.Corners(place)[0], dense, 1);
            switch (brush)
            {
                case WeightBrush.Add:
                    Scale(dense, 1 - share);
                    dense[bone] += share;
                    break;
                case WeightBrush.Remove:
                    Remove(dense, bone, surface.Parents[bone], share);
                    break;
                default:
                    Around(surface, weights, place, around);
                    Scale(dense, 1 - share);
                    for (var k = 0; k < dense.Length; k++)
                    {
                        dense[k] += around[k] * share;
                    }

                    break;
            }

            Leave(dense);
            var (which, weight) = SkinWeights.Heaviest(dense);
            foreach (var v in surface.Corners(place))
            {
                if (joints[v] != which || values[v] != weight)
                {
                    (joints[v], values[v]) = (which, weight);
                    changed.Add(v);
                }
            }
        }

        return (weights with { Joints = joints, Weights = values }, changed);
    }

    private static void Scale(double[] dense, double by)
    {
        for (var k = 0; k < dense.Length; k++)
        {
            dense[k] *= by;
        }
    }

    /// <summary>Adds what a vertex follows, times a factor, to weights over all bones.</summary>
    private static void Gather(SkinWeights weights, int vertex, double[] dense, double by)
    {
        var (j, w) = (weights.Joints[vertex], weights.Weights[vertex]);
        dense[j.A] += w.X * by;
        dense[j.B] += w.Y * by;
        dense[j.C] += w.Z * by;
        dense[j.D] += w.W * by;
    }

    private static void Remove(double[] dense, int bone, int above, double share)
    {
        var taken = dense[bone] * share;
        dense[bone] -= taken;
        var rest = dense.Sum() - dense[bone];
        if (rest > 1e-6)
        {
            for (var k = 0; k < dense.Length; k++)
            {
                dense[k] += k == bone ? 0 : taken * dense[k] / rest;
            }
        }
        else
        {
            // Nothing else is followed: the bone above takes over; the root keeps what is its own.
            dense[above >= 0 ? above : bone] += taken;
        }
    }

    private static void Around(SkinSurface surface, SkinWeights weights, int place, double[] around)
    {
        Array.Clear(around);
        var beside = surface.Beside(place);
        foreach (var b in beside)
        {
            Gather(weights, surface.Corners(b)[0], around, 1.0 / beside.Length);
        }

        if (beside.Length == 0)
        {
            Gather(weights, surface.Corners(place)[0], around, 1);
        }
    }

    private static void Leave(double[] dense)
    {
        for (var k = 0; k < dense.Length; k++)
        {
            dense[k] = dense[k] < Least ? 0 : dense[k];
        }
    }
}
