using System.Numerics;

namespace Eidolon.Core.Characters.Binding;

/// <summary>One connected piece of a layer of a body.</summary>
/// <param name="Middle">Of its cells.</param>
/// <param name="Cells">How many.</param>
/// <param name="Low">Of its cells, along X and Z.</param>
/// <param name="High">Of its cells, along X and Z.</param>
internal sealed record BodySlice(Vector3 Middle, int Cells, Vector3 Low, Vector3 High)
{
    /// <summary>True where it lies on both sides of the middle.</summary>
    public bool Central => Low.X < 0 && High.X > 0;
}

/// <summary>A body cut into level layers.</summary>
internal sealed class BodySlices(BodyVolume volume)
{
    private readonly BodySlice[]?[] _layers = new BodySlice[]?[volume.Height];

    /// <summary>The pieces of the layer at a height.</summary>
    public BodySlice[] At(float y)
    {
        var layer = volume.Layer(y);
        return _layers[layer] ??= Cut(layer);
    }

    private BodySlice[] Cut(int layer)
    {
        var found = new List<BodySlice>();
        var seen = new HashSet<int>();
        var stack = new Stack<int>();
        for (var z = 0; z < volume.Depth; z++)
        {
            for (var x = 0; x < volume.Width; x++)
            {
                var start = volume.At(x, layer, z);
                if (!volume.Inside[start] || !seen.Add(start))
                {
                    continue;
                }

                var (sum, count) = (Vector3.Zero, 0);
                var (low, high) = (new Vector3(float.PositiveInfinity), new Vector3(float.NegativeInfinity));
                stack.Push(start);
                while (stack.TryPop(out var c))
                {
                    var p = volume.Middle(c);
                    (sum, count) = (sum + p, count + 1);
                    (low, high) = (Vector3.Min(low, p), Vector3.Max(high, p));
                    foreach (var n in new[] { c - 1, c + 1, c - volume.Width, c + volume.Width })
                    {
                        if (volume.Inside[n] && seen.Add(n))
                        {
                            stack.Push(n);
                        }
                    }
                }

                found.Add(new BodySlice(sum / count, count, low, high));
            }
        }

        return [.. found];
    }
}
