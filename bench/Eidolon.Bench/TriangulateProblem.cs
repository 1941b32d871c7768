using System.Runtime.InteropServices;
using System.Text.Json;
using Eidolon.Core.Geometry;
using Eidolon.Core.Optical;

namespace Eidolon.Bench;

/// <summary>The triangulation problem with a known best answer: 12 cameras, 53 points, 1000 frames, 0.2 px noise.</summary>
internal sealed class TriangulateProblem
{
    private readonly CameraModel[] _cameras;
    private readonly ushort[] _pixels;
    private readonly float[] _truth;
    private readonly double _scale;

    private TriangulateProblem(CameraModel[] cameras, ushort[] pixels, float[] truth, double scale) =>
        (_cameras, _pixels, _truth, _scale) = (cameras, pixels, truth, scale);

    public int Points => _truth.Length / 3;

    public static TriangulateProblem Load(string folder)
    {
        using var json = JsonDocument.Parse(File.ReadAllBytes(Path.Combine(folder, "triangulate-problem.json")));
        var cameras = json
            .RootElement.GetProperty("cameras")
            .EnumerateArray()
            .Select(c =>
            {
                double[] D(string name) => [.. c.GetProperty(name).EnumerateArray().Select(v => v.GetDouble())];
                double[] r = D("R"),
                    t = D("t"),
                    centre = D("centre");
                var rotation = Matrix3d.FromRows(new(r[0], r[1], r[2]), new(r[3], r[4], r[5]), new(r[6], r[7], r[8]));
                return new CameraModel(
                    c.GetProperty("name").GetString()!,
                    2048,
                    2048,
                    c.GetProperty("focal").GetDouble(),
                    centre[0],
                    centre[1],
                    0,
                    0,
                    rotation,
                    new(t[0], t[1], t[2])
                );
            })
            .ToArray();
        var pixels = MemoryMarshal.Cast<byte, ushort>(File.ReadAllBytes(Path.Combine(folder, "triangulate-pixels.u16"))).ToArray();
        var truth = MemoryMarshal.Cast<byte, float>(File.ReadAllBytes(Path.Combine(folder, "triangulate-truth.f32"))).ToArray();
        return new TriangulateProblem(cameras, pixels, truth, json.RootElement.GetProperty("pixelScale").GetDouble());
    }

    /// <summary>Root mean square distance from the truth, millimetres, of all points.</summary>
    public double Solve()
    {
        var t = new Triangulator(_cameras);
        var n = _cameras.Length;
        Span<double> x = stackalloc double[t.Lanes],
            y = stackalloc double[t.Lanes],
            seen = stackalloc double[t.Lanes],
            h = stackalloc double[6];
        seen[..n].Fill(1);
        double sum = 0;
        for (var p = 0; p < Points; p++)
        {
            var at = _pixels.AsSpan(p * n * 2, n * 2);
            for (var c = 0; c < n; c++)
            {
                var camera = _cameras[c];
                x[c] = ((at[2 * c] / _scale) - camera.CentreX) / camera.Focal;
                y[c] = ((at[(2 * c) + 1] / _scale) - camera.CentreY) / camera.Focal;
            }

            var e = t.Solve(x, y, seen, h) - new Vector3d(_truth[3 * p], _truth[(3 * p) + 1], _truth[(3 * p) + 2]);
            sum += Vector3d.Dot(e, e);
        }

        return Math.Sqrt(sum / Points) * 1000;
    }
}
