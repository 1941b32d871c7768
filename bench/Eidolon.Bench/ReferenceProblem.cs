using System.Runtime.InteropServices;
using System.Text.Json;
using Eidolon.Core.Geometry;
using Eidolon.Core.Solving;

namespace Eidolon.Bench;

/// <summary>The marker-solve problem with a known best answer: 2000 frames, 53 markers, 61 degrees of freedom.</summary>
internal sealed class ReferenceProblem
{
    private ReferenceProblem(ArticulatedModel model, Vector3d[] observed, double[] initial) =>
        (Model, Observed, Initial) = (model, observed, initial);

    public ArticulatedModel Model { get; }

    public Vector3d[] Observed { get; }

    public double[] Initial { get; }

    public int Frames => Observed.Length / Model.MarkerCount;

    /// <summary>Finds the folder beside the checkout, or null.</summary>
    public static string? Folder()
    {
        for (var d = new DirectoryInfo(AppContext.BaseDirectory); d is not null; d = d.Parent)
        {
            var f = Path.Combine(d.FullName, "shared", "reference");
            if (Directory.Exists(f))
            {
                return f;
            }
        }

        return null;
    }

    public static ReferenceProblem Load(string folder)
    {
        using var doc = JsonDocument.Parse(File.ReadAllBytes(Path.Combine(folder, "markersolve-problem.json")));
        static Vector3d V(JsonElement e) => new(e[0].GetDouble(), e[1].GetDouble(), e[2].GetDouble());
        var joints = doc.RootElement.GetProperty("joints").EnumerateArray().ToArray();
        var freedoms = joints.Select(j =>
        {
            var channels = j.GetProperty("channels").EnumerateArray().Select(c => c.GetString()!).ToArray();
            return new JointFreedom(channels.Contains("tx"), false, [.. channels.Where(c => c[0] == 'r').Select(c => c[1] - 'x')]);
        });
        var markers = doc.RootElement.GetProperty("markers").EnumerateArray().ToArray();
        var model = new ArticulatedModel(
            [.. joints.Select(j => j.GetProperty("parent").GetInt32())],
            [.. joints.Select(j => V(j.GetProperty("offset")))],
            [.. freedoms],
            [.. markers.Select(m => m.GetProperty("joint").GetInt32())],
            [.. markers.Select(m => V(m.GetProperty("offset")))]
        );
        var raw = MemoryMarshal.Cast<byte, float>(File.ReadAllBytes(Path.Combine(folder, "markersolve-observed.f32")));
        var observed = new Vector3d[raw.Length / 3];
        for (var i = 0; i < observed.Length; i++)
        {
            observed[i] = new Vector3d(raw[i * 3], raw[(i * 3) + 1], raw[(i * 3) + 2]);
        }

        return new ReferenceProblem(
            model,
            observed,
            [.. doc.RootElement.GetProperty("initialParameters").EnumerateArray().Select(v => v.GetDouble())]
        );
    }

    /// <summary>Solves all frames with warm start; returns residual RMS a coordinate (mm) and linear solves a frame.</summary>
    public (double RmsMillimetres, double SolvesPerFrame) Solve()
    {
        var solver = new FrameSolver(
            Model,
            new SolveOptions { RobustScale = double.PositiveInfinity, FrameSpread = double.PositiveInfinity }
        );
        var pose = new ModelPose(Model);
        Initial.CopyTo(pose.Values, 0);
        double sum = 0;
        var n = Model.MarkerCount;
        for (var f = 0; f < Frames; f++)
        {
            sum += 2 * solver.Solve(pose, Observed.AsSpan(f * n, n));
        }

        return (Math.Sqrt(sum / (Frames * n * 3)) * 1000, solver.LinearSolves / (double)Frames);
    }
}
