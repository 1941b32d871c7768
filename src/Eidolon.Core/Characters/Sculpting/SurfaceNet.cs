using System.Numerics;

namespace Eidolon.Core.Characters.Sculpting;

/// <summary>Surface of a distance field as a net of quads: one vertex a cell that the surface crosses.</summary>
/// <remarks>Gibson, "Constrained Elastic Surface Nets", 1998 (the naive form, vertices at the mean of the edge crossings).</remarks>
internal static class SurfaceNet
{
    public static (Vector3[] Positions, int[] Triangles) Extract(Func<Vector3, float> distance, Vector3 low, Vector3 high, float cell)
    {
        int nx = (int)((high.X - low.X) / cell) + 2,
            ny = (int)((high.Y - low.Y) / cell) + 2,
            nz = (int)((high.Z - low.Z) / cell) + 2;
        var field = new float[nx * ny * nz];
        Parallel.For(0, nz, z =>
        {
            for (var y = 0; y < ny; y++)
            {
                for (var x = 0; x < nx; x++)
                {
                    field[(((z * ny) + y) * nx) + x] = distance(low + (new Vector3(x, y, z) * cell));
                }
            }
        });
        var index = new int[field.Length];
        Array.Fill(index, -1);
        var positions = new List<Vector3>();
        for (var z = 0; z < nz - 1; z++)
        {
            for (var y = 0; y < ny - 1; y++)
            {
                for (var x = 0; x < nx - 1; x++)
                {
                    if (Vertex(field, nx, ny, x, y, z) is { } v)
                    {
                        index[(((z * ny) + y) * nx) + x] = positions.Count;
                        positions.Add(low + ((new Vector3(x, y, z) + v) * cell));
                    }
                }
            }
        }

        return ([.. positions], Quads(field, index, nx, ny, nz));
    }

    /// <summary>Mean of the crossings on the twelve edges of a cell, in cell units; null when the surface does not cross it.</summary>
    private static Vector3? Vertex(float[] field, int nx, int ny, int x, int y, int z)
    {
        Span<float> v = stackalloc float[8];
        var inside = 0;
        for (var c = 0; c < 8; c++)
        {
            v[c] = field[((((z + (c >> 2)) * ny) + y + ((c >> 1) & 1)) * nx) + x + (c & 1)];
            inside += v[c] < 0 ? 1 : 0;
        }

        if (inside is 0 or 8)
        {
            return null;
        }

        Vector3 sum = default;
        var n = 0;
        for (var a = 0; a < 8; a++)
        {
            for (var bit = 1; bit < 8; bit <<= 1)
            {
                var b = a | bit;
                if (b == a || (v[a] < 0) == (v[b] < 0))
                {
                    continue;
                }

                var t = v[a] / (v[a] - v[b]);
                sum += Vector3.Lerp(Corner(a), Corner(b), t);
                n++;
            }
        }

        return sum / n;
    }

    private static Vector3 Corner(int c) => new(c & 1, (c >> 1) & 1, c >> 2);

    private static int[] Quads(float[] field, int[] index, int nx, int ny, int nz)
    {
        var triangles = new List<int>();
        int At(int x, int y, int z) => (((z * ny) + y) * nx) + x;
        void Quad(int a, int b, int c, int d, bool flip)
        {
            if (a < 0 || b < 0 || c < 0 || d < 0)
            {
                return;
            }

            triangles.AddRange(flip ? [a, c, b, a, d, c] : [a, b, c, a, c, d]);
        }

        for (var z = 1; z < nz - 1; z++)
        {
            for (var y = 1; y < ny - 1; y++)
            {
                for (var x = 1; x < nx - 1; x++)
                {
                    var here = field[At(x, y, z)] < 0;
                    if (here != field[At(x + 1, y, z)] < 0)
                    {
                        Quad(index[At(x, y - 1, z - 1)], index[At(x, y, z - 1)], index[At(x, y, z)], index[At(x, y - 1, z)], !here);
                    }

                    if (here != field[At(x, y + 1, z)] < 0)
                    {
                        Quad(index[At(x - 1, y, z - 1)], index[At(x - 1, y, z)], index[At(x, y, z)], index[At(x, y, z - 1)], !here);
                    }

                    if (here != field[At(x, y, z + 1)] < 0)
                    {
                        Quad(index[At(x - 1, y - 1, z)], index[At(x, y - 1, z)], index[At(x, y, z)], index[At(x - 1, y, z)], !here);
                    }
                }
            }
        }

        return [.. triangles];
    }
}
