using System.Numerics;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Characters.Binding;

/// <summary>Binds a mesh to the skeleton that was placed in it.</summary>
/// <remarks>
/// Nearest is meant through the body, not through the air (after Dionne and de Lasa, "Geodesic voxel binding for production character
/// meshes", 2013): a hand that hangs beside a thigh does not follow it, though the mesh may be open or of many parts. From there
/// <see cref="SurfaceHeat"/> makes the weights smooth.
/// </remarks>
public static class MeshBinder
{
    /// <summary>A part smaller than this against the figure is loose: it follows one joint whole.</summary>
    private const float LooseSize = .055f;

    /// <summary>
    /// How firmly a vertex stays with its nearest bone; the paper's 1 lets a thigh's heat reach the other buttock, at 3 a bend still is smooth.
    /// </summary>
    private const double Firmness = 3;

    /// <summary>A weight below this is left out.</summary>
    private const double Least = .02;

    /// <param name="mesh">Places in metres; corners of one place may be several vertices.</param>
    /// <param name="placed">In the mesh's own axes.</param>
    /// <param name="progress">From 0 to 1.</param>
    /// <exception cref="OperationCanceledException">It was cancelled.</exception>
    public static SkinWeights Bind(
        BareMesh mesh,
        PlacedSkeleton placed,
        IProgress<double>? progress = null,
        CancellationToken cancel = default
    )
    {
        var (surface, of) = mesh.Welded();
        var bones = placed.Bones();
        var (low, high) = BodyVolume.Bounds(surface.Positions);
        var tall = high.Y - low.Y;
        var (nearest, distance) = Nearest(surface, bones, tall);
        cancel.ThrowIfCancellationRequested();
        progress?.Report(.2);

        var joints = PlacedSkeleton.Joints.Count;
        var n = surface.Positions.Length;
        // Close to a bone nothing but that bone counts; a finger's breadth keeps the numbers in reason.
        var least = .004 * tall;
        var heat = new SurfaceHeat(surface, [.. distance.Select(d => Firmness / Math.Pow(Math.Max(d, least), 2))]);
        var shares = heat.Spread(nearest, joints, new Part(progress), cancel);
        var dense = Array.ConvertAll(shares, w => w < Least ? 0.0 : w);
        for (var i = 0; i < n; i++)
        {
            if (dense.AsSpan(i * joints, joints).IndexOfAnyExcept(0.0) < 0)
            {
                dense[(i * joints) + nearest[i]] = 1;
            }
        }

        var loose = Loose(surface, dense, joints, LooseSize * tall);
        var which = new (ushort, ushort, ushort, ushort)[of.Length];
        var weights = new Vector4[of.Length];
        for (var i = 0; i < of.Length; i++)
        {
            (which[i], weights[i]) = SkinWeights.Heaviest(dense.AsSpan(of[i] * joints, joints));
        }

        return new SkinWeights(which, weights, loose);
    }

    /// <summary>Of each vertex the joint whose bone is nearest through the body, and how far it is, metres.</summary>
    private static (int[] Joint, double[] Distance) Nearest(
        BareMesh surface,
        IReadOnlyList<(int Joint, Vector3 From, Vector3 To)> bones,
        float tall
    )
    {
        var volume = new BodyVolume(surface, tall / SkeletonPlacer.CellsTall);
        var sources = new List<(int, int)>();
        for (var b = 0; b < bones.Count; b++)
        {
            var (_, from, to) = bones[b];
            var steps = Math.Max(1, (int)(Vector3.Distance(from, to) / volume.Cell * 1.5f));
            for (var k = 0; k <= steps; k++)
            {
                if (volume.InnerCell(Vector3.Lerp(from, to, k / (float)steps)) is >= 0 and var cell)
                {
                    sources.Add((cell, b));
                }
            }
        }

        var (away, source) = volume.Spread(sources);
        var joint = new int[surface.Positions.Length];
        var distance = new double[joint.Length];
        for (var i = 0; i < joint.Length; i++)
        {
            var at = surface.Positions[i];
            var cell = volume.InnerCell(at);
            var best = cell >= 0 && source[cell] >= 0 ? source[cell] : Straight(bones, at);
            // Cells are coarse: of the bones that reach the cells around, the truly nearest one.
            var least = Distance(bones[best], at);
            if (cell >= 0)
            {
                foreach (var n in volume.Neighbours(cell))
                {
                    if (source[n] >= 0 && Distance(bones[source[n]], at) is var d && d < least)
                    {
                        (best, least) = (source[n], d);
                    }
                }
            }

            joint[i] = bones[best].Joint;
            distance[i] = cell >= 0 && float.IsFinite(away[cell]) ? Math.Max(least, away[cell] - volume.Cell) : least;
        }

        return (joint, distance);
    }

    /// <summary>The heat's share of the whole work.</summary>
    private sealed class Part(IProgress<double>? whole) : IProgress<double>
    {
        public void Report(double value) => whole?.Report(.2 + (.75 * value));
    }

    private static int Straight(IReadOnlyList<(int Joint, Vector3 From, Vector3 To)> bones, Vector3 at) =>
        Enumerable.Range(0, bones.Count).MinBy(b => Distance(bones[b], at));

    private static float Distance((int Joint, Vector3 From, Vector3 To) bone, Vector3 at) => Segments.Distance(at, at, bone.From, bone.To);

    /// <summary>Small parts of their own (eyes, buttons, buckles) are made to follow the one joint that moves most of them.</summary>
    private static List<(int Joint, int Vertices)> Loose(BareMesh surface, double[] dense, int joints, float size)
    {
        var (part, count) = surface.Parts();
        var members = Enumerable.Range(0, count).Select(_ => new List<int>()).ToArray();
        for (var i = 0; i < part.Length; i++)
        {
            members[part[i]].Add(i);
        }

        var loose = new List<(int, int)>();
        foreach (var own in members.Where(m => m.Count < surface.Positions.Length))
        {
            var (low, high) = BodyVolume.Bounds([.. own.Select(i => surface.Positions[i])]);
            if ((high - low).Length() > size)
            {
                continue;
            }

            var sum = new double[joints];
            foreach (var i in own)
            {
                for (var j = 0; j < joints; j++)
                {
                    sum[j] += dense[(i * joints) + j];
                }
            }

            var joint = Array.IndexOf(sum, sum.Max());
            foreach (var i in own)
            {
                dense.AsSpan(i * joints, joints).Clear();
                dense[(i * joints) + joint] = 1;
            }

            loose.Add((joint, own.Count));
        }

        return loose;
    }
}
