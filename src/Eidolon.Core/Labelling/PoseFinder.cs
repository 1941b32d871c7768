using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Labelling;

/// <summary>
/// Fits a known body to nameless dots of one frame. Pelvis, chest and head are looked for by the distances between their markers; each place
/// found anchors the body, whose trunk, arms and legs then take the known poses that fit best, each for itself; the best are refined by nearest dots.
/// Where no segment can be told, the body is stood on the floor in many headings.
/// </summary>
/// <remarks>Refining is iterative closest point (Besl &amp; McKay 1992) with one-to-one matches and narrowing gates.</remarks>
internal sealed class PoseFinder
{
    private const int AnchorsPerSegment = 6;
    private const int Trunks = 16;
    private const int Refined = 7;
    private const double Far = 0.3;

    /// <summary>Below this more than a limb is wrong.</summary>
    private const double Repairable = 0.5;

    /// <summary>A fit in which no limb can be a wrong one.</summary>
    private const double Perfect = 0.965;

    private static readonly double[] Gates = [0.25, 0.20, 0.16, 0.13, 0.11, 0.09, 0.07, 0.06, 0.05, 0.05];
    private static readonly double[] TwistSteps = [60, -60, 120, -120, 180];
    private readonly ArticulatedModel _model;
    private readonly IReadOnlyList<ModelPose> _starts;
    private readonly FrameSolver _solver;
    private readonly ModelKinematics _kinematics;
    private readonly Vector3d[] _targets;

    /// <summary>Joints of the trunk and of each limb, and the markers they carry.</summary>
    private readonly List<(int[] Joints, int[] Markers)> _parts = [];
    private readonly List<(int Joint, int[] Markers)> _anchors = [];

    public PoseFinder(Performer performer, IReadOnlyList<ModelPose> starts)
    {
        _model = BodyModel.Create(performer);
        _starts = [.. starts, .. Postures.Of(performer, _model)];
        _solver = new FrameSolver(
            _model,
            new SolveOptions
            {
                RobustScale = 0.08,
                MaximumSteps = 12,
                FrameSpread = double.PositiveInfinity,
            }
        );
        _kinematics = new ModelKinematics(_model);
        _targets = new Vector3d[_model.MarkerCount];
        var part = Enumerable.Range(0, _model.JointCount).Select(j => Part(performer.Skeleton[j].Role)).ToArray();
        for (var j = 0; j < part.Length; j++)
        {
            // Joints without a role go with their parent.
            part[j] = part[j] < 0 ? (_model.Parents[j] < 0 ? 0 : part[_model.Parents[j]]) : part[j];
        }

        for (var p = 0; p < 5; p++)
        {
            int[] joints = [.. Enumerable.Range(0, part.Length).Where(j => part[j] == p)];
            _parts.Add((joints, [.. Enumerable.Range(0, _model.MarkerCount).Where(m => part[_model.MarkerJoints[m]] == p)]));
        }

        foreach (var j in _parts[0].Joints)
        {
            int[] own = [.. Enumerable.Range(0, _model.MarkerCount).Where(m => _model.MarkerJoints[m] == j)];
            if (own.Length >= 3)
            {
                _anchors.Add((j, own));
            }
        }
    }

    /// <summary>0 trunk and head, 1 and 2 arms, 3 and 4 legs.</summary>
    private static int Part(BodyRole? role) =>
        role is not { } r ? -1
        : BodyRoles.Side(r) == 'C' ? 0
        : (BodyRoles.Stem(r) is "Thigh" or "Shin" or "Foot" or "Toes" ? 3 : 1) + (BodyRoles.Side(r) == 'L' ? 0 : 1);

    /// <summary>The best pose, the dot of each marker (−1 for none) and how well it fits: 1 is every marker where it should be.</summary>
    /// <param name="pins">Dots whose marker is known.</param>
    public (ModelPose Pose, int[] Dots, double Fit) Find(Vector3[] dots, IReadOnlyList<(int Dot, int Marker)>? pins = null)
    {
        pins ??= [];
        (ModelPose Pose, int[] Dots, double Fit) best = (_starts[0], [], -1);
        void Try(IEnumerable<(ModelPose Pose, double Score)> tries)
        {
            foreach (var t in tries.OrderBy(t => t.Score).Take(Refined))
            {
                var (matched, fit) = Refine(t.Pose, dots, pins);
                if (fit > best.Fit)
                {
                    best = (t.Pose, matched, fit);
                }

                if (fit > Perfect)
                {
                    break;
                }
            }
        }

        Try(Anchored(dots, pins));
        if (best.Fit < 0.5)
        {
            Try(Standing(dots, pins));
        }

        return best.Fit is > Repairable and < Perfect ? Repair(best, dots, pins) : best;
    }

    /// <summary>Poses hung on the segments that were found.</summary>
    private List<(ModelPose Pose, double Score)> Anchored(Vector3[] dots, IReadOnlyList<(int Dot, int Marker)> pins)
    {
        var trunks = new List<(ModelPose Pose, double Score)>();
        foreach (var (joint, markers) in _anchors)
        {
            foreach (
                var place in SegmentFinder.Find(Array.ConvertAll(markers, m => _model.MarkerOffsets[m].ToSingle()), dots, AnchorsPerSegment)
            )
            {
                foreach (var start in _starts)
                {
                    var pose = Hang(start, joint, place);
                    trunks.Add((pose, Near(pose, _parts[0].Markers, dots, pins)));
                }
            }
        }

        var whole = new List<(ModelPose Pose, double Score)>();
        foreach (var (pose, score) in trunks.OrderBy(t => t.Score).Take(Trunks))
        {
            var sum = score;
            for (var p = 1; p < _parts.Count; p++)
            {
                sum += BestLimb(pose, _parts[p].Joints, _parts[p].Markers, dots, pins);
            }

            whole.Add((pose, sum));
        }

        return whole;
    }

    /// <summary>A start pose moved as a whole so that one joint lies where its segment was found.</summary>
    private ModelPose Hang(ModelPose start, int joint, SegmentFinder.Placement place)
    {
        var pose = new ModelPose(_model);
        pose.CopyFrom(start);
        var turn = Quaterniond.Identity;
        var chain = new List<int>();
        for (var j = joint; j >= 0; j = _model.Parents[j])
        {
            chain.Add(j);
        }

        var at = new Vector3d(pose.Values[0], pose.Values[1], pose.Values[2]);
        for (var i = chain.Count - 1; i >= 0; i--)
        {
            at += i == chain.Count - 1 ? default : turn.ToMatrix() * _model.Offsets[chain[i]];
            turn *= pose.TurnOf(_model, chain[i]);
        }

        var move = (Quaterniond)place.Turn * turn.Conjugate();
        var root = (Vector3d)place.Place + (move.ToMatrix() * (new Vector3d(pose.Values[0], pose.Values[1], pose.Values[2]) - at));
        (pose.Values[0], pose.Values[1], pose.Values[2]) = (root.X, root.Y, root.Z);
        pose.Turns[0] = (move * pose.Turns[0]).Normalized();
        return pose;
    }

    /// <summary>Gives a limb the known pose that comes nearest to dots; returns how near.</summary>
    private double BestLimb(ModelPose pose, int[] joints, int[] markers, Vector3[] dots, IReadOnlyList<(int Dot, int Marker)> pins)
    {
        if (markers.Length == 0)
        {
            return 0;
        }

        var (best, least) = (_starts[0], double.PositiveInfinity);
        foreach (var start in _starts)
        {
            Take(pose, start, joints);
            var near = Near(pose, markers, dots, pins);
            if (near < least)
            {
                (best, least) = (start, near);
            }
        }

        Take(pose, best, joints);
        // A forearm or a foot may be turned in any way about its length while the limb lies as known.
        foreach (var (dof, angle) in Twists(joints))
        {
            var before = pose.Values[dof];
            pose.Values[dof] = before + angle;
            var near = Near(pose, markers, dots, pins);
            if (near < least)
            {
                least = near;
            }
            else
            {
                pose.Values[dof] = before;
            }
        }

        return least;
    }

    /// <summary>Turns about the length of an arm's lower bone (its X axis): degree of freedom and radians, one after another.</summary>
    private IEnumerable<(int Dof, double Angle)> Twists(int[] joints)
    {
        foreach (var j in joints)
        {
            var axes = _model.Freedoms[j].Ball ? [] : _model.Freedoms[j].Axes;
            if (axes.Count == 3 && axes[2] == 0)
            {
                foreach (var degrees in TwistSteps)
                {
                    yield return (_model.FirstDof[j] + 2, degrees * Math.PI / 180);
                }
            }
        }
    }

    private void Take(ModelPose pose, ModelPose from, int[] joints)
    {
        foreach (var j in joints)
        {
            pose.Turns[j] = from.Turns[j];
            var d = _model.FirstDof[j];
            for (var k = 0; k < _model.Freedoms[j].Turns; k++)
            {
                pose.Values[d + k] = from.Values[d + k];
            }
        }
    }

    /// <summary>Sum of the distances of markers from their nearest dots, metres; a known dot counts as several.</summary>
    private double Near(ModelPose pose, int[] markers, Vector3[] dots, IReadOnlyList<(int Dot, int Marker)> pins)
    {
        _kinematics.Update(pose, false);
        double sum = 0;
        foreach (var m in markers)
        {
            var at = _kinematics.Markers[m].ToSingle();
            var least = float.PositiveInfinity;
            foreach (var d in dots)
            {
                least = MathF.Min(least, (at - d).LengthSquared());
            }

            sum += Math.Min(Math.Sqrt(least), Far);
        }

        foreach (var (dot, marker) in pins)
        {
            if (Array.IndexOf(markers, marker) >= 0)
            {
                sum += 4 * Math.Min((_kinematics.Markers[marker].ToSingle() - dots[dot]).Length(), 1);
            }
        }

        return sum;
    }

    /// <summary>Start poses on the floor in twelve headings over the middle of the dots.</summary>
    private List<(ModelPose Pose, double Score)> Standing(Vector3[] dots, IReadOnlyList<(int Dot, int Marker)> pins)
    {
        var all = Enumerable.Range(0, _model.MarkerCount).ToArray();
        var tries = new List<(ModelPose Pose, double Score)>();
        foreach (var centre in Centres(dots))
        {
            foreach (var start in _starts)
            {
                for (var k = 0; k < 12; k++)
                {
                    var pose = Stand(start, centre, k * Math.PI / 6);
                    tries.Add((pose, Near(pose, all, dots, pins)));
                }
            }
        }

        return tries;
    }

    /// <summary>
    /// Where a body may stand: the middle of all dots, and with more dots than one body has, the middles of two groups of them (Lloyd's k-means
    /// on the floor).
    /// </summary>
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

    /// <summary>Upright turn and height of the pelvis are kept; heading and place are given.</summary>
    private ModelPose Stand(ModelPose start, Vector3 centre, double heading)
    {
        var pose = new ModelPose(_model);
        pose.CopyFrom(start);
        var turn = Rotations.AboutAxis(1, heading);
        var flat = Quaternion.Conjugate(Rotations.Heading(Vector3.Transform(Vector3.UnitZ, start.Turns[0].ToSingle())));
        pose.Turns[0] = (Quaterniond)turn * (Quaterniond)flat * start.Turns[0];
        _kinematics.Update(pose, false);
        Vector3d mean = default;
        foreach (var m in _kinematics.Markers)
        {
            mean += m * (1.0 / _kinematics.Markers.Length);
        }

        pose.Values[0] += centre.X - mean.X;
        pose.Values[2] += centre.Z - mean.Z;
        return pose;
    }

    /// <summary>A limb that fits badly while the rest is right hangs in a wrong pose: it takes others, and the best of all stays.</summary>
    private (ModelPose Pose, int[] Dots, double Fit) Repair(
        (ModelPose Pose, int[] Dots, double Fit) best,
        Vector3[] dots,
        IReadOnlyList<(int Dot, int Marker)> pins
    )
    {
        for (var p = 1; p < _parts.Count; p++)
        {
            if (_parts[p].Markers.Length == 0 || PartFit(best, _parts[p].Markers, dots) > 0.9)
            {
                continue;
            }

            var tries = _starts
                .Select(start =>
                {
                    var pose = new ModelPose(_model);
                    pose.CopyFrom(best.Pose);
                    Take(pose, start, _parts[p].Joints);
                    return (Pose: pose, Score: Near(pose, _parts[p].Markers, dots, pins));
                })
                .Concat(
                    Twists(_parts[p].Joints)
                        .Select(t =>
                        {
                            var pose = new ModelPose(_model);
                            pose.CopyFrom(best.Pose);
                            pose.Values[t.Dof] += t.Angle;
                            return (Pose: pose, Score: Near(pose, _parts[p].Markers, dots, pins));
                        })
                )
                .OrderBy(t => t.Score)
                .Take(6)
                .ToArray();
            foreach (var t in tries)
            {
                var (matched, fit) = Refine(t.Pose, dots, pins);
                best = fit > best.Fit ? (t.Pose, matched, fit) : best;
            }
        }

        return best;
    }

    private double PartFit((ModelPose Pose, int[] Dots, double Fit) found, int[] markers, Vector3[] dots)
    {
        _kinematics.Update(found.Pose, false);
        double fit = 0;
        foreach (var m in markers)
        {
            fit += found.Dots[m] < 0 ? 0 : Math.Max(0, 1 - ((_kinematics.Markers[m].ToSingle() - dots[found.Dots[m]]).Length() / 0.04));
        }

        return fit / markers.Length;
    }

    private (int[] Dots, double Fit) Refine(ModelPose pose, Vector3[] dots, IReadOnlyList<(int Dot, int Marker)> pins)
    {
        int[] matched = [];
        foreach (var gate in Gates)
        {
            _kinematics.Update(pose, false);
            matched = DotMatch.Find(_kinematics.Markers, dots, gate);
            foreach (var (dot, marker) in pins)
            {
                var other = Array.IndexOf(matched, dot);
                if (other >= 0)
                {
                    matched[other] = -1;
                }

                matched[marker] = dot;
            }

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
