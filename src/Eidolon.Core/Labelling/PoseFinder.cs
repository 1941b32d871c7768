using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Labelling;

/// <summary>Fits a known body to nameless dots of one frame: many starts, nearest dots, solve, again with a narrower gate.</summary>
/// <remarks>Iterative closest point (Besl &amp; McKay 1992) with one-to-one matches.</remarks>
internal sealed class PoseFinder
{
    private readonly ArticulatedModel _model;
    private readonly IReadOnlyList<ModelPose> _starts;
    private readonly FrameSolver _solver;
    private readonly Vector3d[] _targets;

    public PoseFinder(Performer performer, IReadOnlyList<ModelPose> starts)
    {
        _model = BodyModel.Create(performer);
        _starts = starts;
        _solver = new FrameSolver(_model, new SolveOptions { RobustScale = 0.08, MaximumSteps = 12, FrameSpread = double.PositiveInfinity });
        _targets = new Vector3d[_model.MarkerCount];
    }

    /// <summary>The best pose, the dot of each marker (−1 for none) and how well it fits: 1 is every marker within a centimetre.</summary>
    public (ModelPose Pose, int[] Dots, double Fit) Find(Vector3[] dots)
    {
        var tries = new List<(ModelPose Pose, double Score)>();
        foreach (var centre in Centres(dots))
        {
            foreach (var start in _starts)
            {
                for (var k = 0; k < 12; k++)
                {
                    tries.Add(Place(start, centre, k * Math.PI / 6, dots));
                }
            }
        }

        (ModelPose, int[], double) best = (tries[0].Pose, [], -1);
        foreach (var t in tries.OrderBy(t => t.Score).Take(14))
        {
            var (matched, fit) = Refine(t.Pose, dots);
            if (fit > best.Item3)
            {
                best = (t.Pose, matched, fit);
            }
        }

        return best;
    }

    /// <summary>Where a body may stand: the middle of all dots, and with more dots than one body has, the middles of two groups of them (Lloyd's k-means on the floor).</summary>
    private List<Vector3> Centres(Vector3[] dots)
    {
        var middle = dots.Aggregate(Vector3.Zero, (s, d) => s + d) / dots.Length;
        if (dots.Length < _model.MarkerCount * 1.3)
        {
            return [middle];
        }

        var far = dots.MaxBy(d => Flat(d - middle));
        var (a, b) = (far, dots.MaxBy(d => Flat(d - far)));
        for (var round = 0; round < 8; round++)
        {
            var near = dots.ToLookup(d => Flat(d - a) <= Flat(d - b));
            if (!near[true].Any() || !near[false].Any())
            {
                return [middle];
            }

            a = near[true].Aggregate(Vector3.Zero, (s, d) => s + d) / near[true].Count();
            b = near[false].Aggregate(Vector3.Zero, (s, d) => s + d) / near[false].Count();
        }

        return [a, b];
    }

    private static float Flat(Vector3 v) => (v.X * v.X) + (v.Z * v.Z);

    /// <summary>One-to-one matches of markers to dots within a gate, cheapest in all.</summary>
    public static int[] Match(ReadOnlySpan<Vector3d> markers, IReadOnlyList<Vector3> dots, double gate)
    {
        var cost = new double[markers.Length, dots.Count];
        for (var i = 0; i < markers.Length; i++)
        {
            for (var j = 0; j < dots.Count; j++)
            {
                var e = markers[i] - dots[j];
                cost[i, j] = Math.Sqrt(Vector3d.Dot(e, e));
            }
        }

        return Hungarian.Assign(cost, gate);
    }

    private (ModelPose, double) Place(ModelPose start, Vector3 centre, double heading, Vector3[] dots)
    {
        var pose = new ModelPose(_model);
        pose.CopyFrom(start);
        // Upright turn and height of the pelvis are kept; heading and place are tried.
        var turn = Rotations.AboutAxis(1, heading);
        var flat = Quaternion.Conjugate(Rotations.Heading(Vector3.Transform(Vector3.UnitZ, start.Turns[0].ToSingle())));
        pose.Turns[0] = (Quaterniond)turn * (Quaterniond)flat * start.Turns[0];
        var kinematics = new ModelKinematics(_model);
        for (var pass = 0; pass < 2; pass++)
        {
            kinematics.Update(pose, false);
            Vector3d mean = default;
            foreach (var m in kinematics.Markers)
            {
                mean += m * (1.0 / kinematics.Markers.Length);
            }

            pose.Values[0] += centre.X - mean.X;
            pose.Values[2] += centre.Z - mean.Z;
        }

        kinematics.Update(pose, false);
        double score = 0;
        foreach (var m in kinematics.Markers)
        {
            var near = double.MaxValue;
            foreach (var d in dots)
            {
                var e = m - d;
                near = Math.Min(near, Vector3d.Dot(e, e));
            }

            score += Math.Min(Math.Sqrt(near), 0.4);
        }

        return (pose, score);
    }

    private (int[] Dots, double Fit) Refine(ModelPose pose, Vector3[] dots)
    {
        int[] matched = [];
        foreach (var gate in new[] { 0.35, 0.30, 0.25, 0.2, 0.15, 0.12, 0.10, 0.08, 0.06, 0.05, 0.05 })
        {
            var kinematics = new ModelKinematics(_model);
            kinematics.Update(pose, false);
            matched = Match(kinematics.Markers, dots, gate);
            for (var i = 0; i < matched.Length; i++)
            {
                _targets[i] = matched[i] < 0 ? new Vector3d(double.NaN, 0, 0) : dots[matched[i]];
            }

            _solver.Solve(pose, _targets);
        }

        double fit = 0;
        for (var i = 0; i < matched.Length; i++)
        {
            if (matched[i] >= 0)
            {
                var e = _solver.Markers[i] - dots[matched[i]];
                fit += Math.Max(0, 1 - (Math.Sqrt(Vector3d.Dot(e, e)) / 0.04));
            }
        }

        return (matched, fit / Math.Max(1, Math.Min(matched.Length, dots.Length)));
    }
}
