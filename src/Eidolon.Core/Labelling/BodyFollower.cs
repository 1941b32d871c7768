using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Labelling;

/// <summary>
/// Follows one known body from frame to frame through points that keep an id while they are seen: foresees the pose, keeps what it
/// holds, matches the rest to the nearest free points, solves, lets strays go. Live labels and the labels of a take both use it.
/// </summary>
public sealed class BodyFollower
{
    /// <summary>Farthest that a new point may lie from a foreseen marker, metres.</summary>
    public const double Gate = 0.07;

    /// <summary>A held point farther from the solved marker is a stray, metres.</summary>
    public const double Stray = 0.05;

    private readonly ArticulatedModel _model;
    private readonly FrameSolver _solver;
    private readonly ModelKinematics _kinematics;
    private readonly Vector3d[] _targets;
    private readonly bool[] _taken;
    private readonly Dictionary<int, int> _held = [];
    private readonly ModelPose _previous;
    private readonly List<int> _free = [];
    private readonly double _momentum;
    private readonly double _surprise;
    private bool _foreseen;

    /// <summary>So many points tell where the whole body is; with fewer than that it is lost.</summary>
    private const int Enough = 12,
        Fewest = 6;

    /// <summary>
    /// At this many frames a second the last pose says where limbs are; below, they keep on turning, the more the fewer frames there are. Speeds of joints
    /// that few markers tell of are mostly noise, so they are not used where they are not needed.
    /// </summary>
    private const double Often = 90;

    /// <summary>A hand that strikes leaves where it was foreseen by half of this times the frame's time squared, m/s².</summary>
    private const double Hardest = 80;

    /// <param name="rate">Frames a second: what comes seldom moves far in between.</param>
    /// <param name="options">When not given: a thousandth of the cost is near enough to know which dot is which.</param>
    public BodyFollower(ArticulatedModel model, double rate, SolveOptions? options = null)
    {
        _model = model;
        _solver = new FrameSolver(model, options ?? new SolveOptions { RobustScale = 0.04, Tolerance = 1e-3 });
        _kinematics = new ModelKinematics(model);
        _targets = new Vector3d[model.MarkerCount];
        _taken = new bool[model.MarkerCount];
        (Pose, _previous) = (new ModelPose(model), new ModelPose(model));
        _momentum = Math.Max(0, 1 - (rate / Often));
        _surprise = Hardest / (2 * rate * rate);
    }

    /// <summary>The pose the body has now; radians and metres.</summary>
    public ModelPose Pose { get; }

    /// <summary>The marker of each point id that is held.</summary>
    public IReadOnlyDictionary<int, int> Held => _held;

    /// <summary>Where the solved body carries its markers, metres.</summary>
    public ReadOnlySpan<Vector3d> Markers => _solver.Markers;

    /// <summary>Starts from a pose; nothing is held yet.</summary>
    public void Begin(ModelPose pose)
    {
        Pose.CopyFrom(pose);
        _previous.CopyFrom(pose);
        _held.Clear();
        _foreseen = false;
    }

    /// <summary>Holds a point by its marker from the next frame on.</summary>
    public void Hold(int id, int marker) => _held[id] = marker;

    /// <summary>Where the next frame is expected; done by <see cref="Step"/> unless it was asked for before.</summary>
    public void Foresee()
    {
        if (!_foreseen)
        {
            Predict();
            _kinematics.Update(Pose, false);
            _foreseen = true;
        }
    }

    /// <summary>Distance from the nearest foreseen marker, metres.</summary>
    public double Nearest(Vector3 place)
    {
        var least = double.PositiveInfinity;
        foreach (var m in _kinematics.Markers)
        {
            var e = m - place;
            least = Math.Min(least, Vector3d.Dot(e, e));
        }

        return Math.Sqrt(least);
    }

    /// <summary>One frame. False when too little of the body is seen where it should be.</summary>
    /// <param name="ids">Of the points that may be this body's.</param>
    /// <param name="pinned">The marker a person gave a point, −1 for none.</param>
    public bool Step(IReadOnlyList<int> ids, IReadOnlyList<Vector3> points, Func<int, int>? pinned = null)
    {
        Foresee();
        _foreseen = false;
        Array.Clear(_taken);
        Array.Fill(_targets, new Vector3d(double.NaN, 0, 0));
        Forget(ids);
        _free.Clear();
        for (var i = 0; i < ids.Count; i++)
        {
            var given = pinned?.Invoke(ids[i]) ?? -1;
            var marker = given >= 0 ? given : _held.GetValueOrDefault(ids[i], -1);
            if (
                marker >= 0
                && !_taken[marker]
                && (given >= 0 || Distance(_kinematics.Markers[marker], points[i]) < (Gate * 1.6) + (2 * _surprise))
            )
            {
                _taken[marker] = true;
                _targets[marker] = points[i];
                _held[ids[i]] = marker;
            }
            else
            {
                _held.Remove(ids[i]);
                _free.Add(i);
            }
        }

        // What is held says best where the rest is to be expected.
        ReadOnlySpan<Vector3d> expected = _kinematics.Markers;
        if (_held.Count >= Enough && _free.Count > 0 && _surprise > Gate / 10)
        {
            _solver.Solve(Pose, _targets, _previous);
            expected = _solver.Markers;
        }

        MatchFree(ids, points, expected);
        if (_held.Count < Fewest)
        {
            return false;
        }

        _solver.Solve(Pose, _targets, _previous);
        return Judge(ids, points, pinned) > 0.35 * Math.Min(ids.Count, _model.MarkerCount);
    }

    private void Forget(IReadOnlyList<int> ids)
    {
        if (_held.Count == 0)
        {
            return;
        }

        var here = new HashSet<int>(ids);
        foreach (var gone in _held.Keys.Where(id => !here.Contains(id)).ToArray())
        {
            _held.Remove(gone);
        }
    }

    private void MatchFree(IReadOnlyList<int> ids, IReadOnlyList<Vector3> points, ReadOnlySpan<Vector3d> expected)
    {
        var open = Enumerable.Range(0, _taken.Length).Where(m => !_taken[m]).ToArray();
        var places = new Vector3d[open.Length];
        for (var k = 0; k < open.Length; k++)
        {
            places[k] = expected[open[k]];
        }

        var gate = Gate + _surprise;
        var near = _free.Where(i => places.Any(p => Distance(p, points[i]) < gate)).ToArray();
        if (open.Length == 0 || near.Length == 0)
        {
            return;
        }

        var match = DotMatch.Find(places, Array.ConvertAll(near, i => points[i]), gate);
        for (var k = 0; k < open.Length; k++)
        {
            if (match[k] >= 0)
            {
                _held[ids[near[match[k]]]] = open[k];
                _targets[open[k]] = points[near[match[k]]];
            }
        }
    }

    /// <summary>Every held point is judged by how near the solved body carries its marker; strays are let go.</summary>
    private int Judge(IReadOnlyList<int> ids, IReadOnlyList<Vector3> points, Func<int, int>? pinned)
    {
        var good = 0;
        for (var i = 0; i < ids.Count; i++)
        {
            if (!_held.TryGetValue(ids[i], out var marker))
            {
                continue;
            }

            var d = Distance(_solver.Markers[marker], points[i]);
            if (d <= Stray)
            {
                good++;
            }
            else if ((pinned?.Invoke(ids[i]) ?? -1) < 0)
            {
                _held.Remove(ids[i]);
            }
        }

        return good;
    }

    /// <summary>Constant speed of the hips; limbs keep on turning for a moment, the more of it the longer a frame lasts.</summary>
    private void Predict()
    {
        for (var j = 0; j < _model.JointCount; j++)
        {
            var d = _model.FirstDof[j];
            var free = _model.Freedoms[j];
            if (free.Translates)
            {
                for (var k = 0; k < 3; k++, d++)
                {
                    Foresee(d, 1);
                }
            }

            if (free.Ball)
            {
                var step = (_previous.Turns[j].Conjugate() * Pose.Turns[j]).Log() * _momentum;
                _previous.Turns[j] = Pose.Turns[j];
                Pose.Turns[j] = (Pose.Turns[j] * Quaterniond.Exp(step.X, step.Y, step.Z)).Normalized();
                continue;
            }

            for (var k = 0; k < free.Axes.Count; k++, d++)
            {
                Foresee(d, _momentum);
            }
        }
    }

    private void Foresee(int d, double share)
    {
        var step = Pose.Values[d] - _previous.Values[d];
        _previous.Values[d] = Pose.Values[d];
        Pose.Values[d] += share * step;
    }

    private static double Distance(Vector3d a, Vector3 b)
    {
        var e = a - b;
        return Math.Sqrt(Vector3d.Dot(e, e));
    }
}
