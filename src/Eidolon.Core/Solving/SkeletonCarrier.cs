using System.Collections.Concurrent;
using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Solving;

/// <summary>One marker as the skeleton carries it through some frames: its place and the turn of the bone under it, frame by frame.</summary>
/// <param name="First">The frame of the first sample.</param>
public sealed record CarriedMarker(int First, Vector3[] Places, Quaternion[] Turns);

/// <summary>
/// Carries the markers of a take's performers through gaps. Joints that no marker tells of go from where they were before to where they are
/// afterwards, each in its own parent's frame, so that an arm that is hidden as a whole keeps its lengths and goes with the body; what is seen of it
/// pulls it from there. Safe for several threads.
/// </summary>
public sealed class SkeletonCarrier
{
    /// <summary>Frames beside a gap that are carried too.</summary>
    public const int Edge = 4;

    /// <summary>Every so many frames a pose is kept to begin from.</summary>
    private const int Stride = 16;

    /// <summary>How far a joint strays from the way it is expected to take where one marker says otherwise, radians.</summary>
    private const double Stray = 0.2;

    /// <summary>A joint goes on as it went for so long, seconds; then it is on its way to where it is seen next.</summary>
    private const double Momentum = 0.2;

    private const int Fewest = 3;
    private const int Kept = 96;

    /// <summary>Frames of all stretches that are remembered together: a marker that is never seen is carried through the whole take.</summary>
    private const int KeptFrames = 120_000;
    private readonly MarkerTake _take;
    private readonly List<Body> _bodies = [];
    private int _frames;
    private readonly ConcurrentDictionary<(int Body, Gap Gap, int Shift, int Hidden), Lazy<Window?>> _windows = [];

    /// <summary>Solves every performer that has markers enough in the take; the others carry nothing.</summary>
    public SkeletonCarrier(IReadOnlyList<TakePerformer> performers, MarkerTake take, CancellationToken cancel = default)
    {
        _take = take;
        foreach (var who in performers.Where(p => performers.Count == 1 || take.Names.Any(n => MarkerNames.Split(n).Performer == p.Prefix)))
        {
            var own = CarriedMarkers.Own(who.Prefix, take);
            var prefix = ReferenceEquals(own, take)
                ? null
                : who.Prefix ?? take.Names.Select(n => MarkerNames.Split(n).Performer).First(p => p is not null);
            int[] columns = [.. who.Body.Markers.Select(m => take.IndexOf(MarkerNames.Join(prefix, m.Name)))];
            if (columns.Count(c => c >= 0) < Fewest * 2)
            {
                continue;
            }

            _bodies.Add(new Body(BodyModel.Create(who.Body), columns, [.. TakeSolver.Follow(who.Body, own, Stride, cancel)]));
        }
    }

    private sealed record Body(ArticulatedModel Model, int[] Columns, (int Frame, ModelPose Pose)[] Poses);

    private sealed record Window(int First, Vector3[][] Places, Quaternion[][] Turns);

    /// <summary>A marker through a gap and <see cref="Edge"/> frames at either side; null when no skeleton carries it there.</summary>
    /// <param name="marker">Column in the take.</param>
    /// <param name="shift">Carries it through the stretch so many frames later instead, with everything hidden there that is hidden in the gap.</param>
    /// <param name="hide">As if the marker were hidden in the gap.</param>
    public CarriedMarker? Carry(int marker, Gap gap, int shift = 0, bool hide = false)
    {
        for (var b = 0; b < _bodies.Count; b++)
        {
            var m = Array.IndexOf(_bodies[b].Columns, marker);
            if (m < 0)
            {
                continue;
            }

            if (_windows.Count > Kept || Interlocked.Add(ref _frames, gap.Length) > KeptFrames)
            {
                _windows.Clear();
                Interlocked.Exchange(ref _frames, 0);
            }

            var body = _bodies[b];
            var window = _windows
                .GetOrAdd((b, gap, shift, hide ? marker : -1), k => new Lazy<Window?>(() => Solve(body, k.Gap, k.Shift, k.Hidden)))
                .Value;
            return window is null
                ? null
                : new CarriedMarker(
                    window.First,
                    Array.ConvertAll(window.Places, p => p[m]),
                    Array.ConvertAll(window.Turns, t => t[body.Model.MarkerJoints[m]])
                );
        }

        return null;
    }

    /// <summary>The other markers of the body that carries this one, those of its own bone first.</summary>
    public IEnumerable<int> Beside(int marker)
    {
        foreach (var body in _bodies)
        {
            if (Array.IndexOf(body.Columns, marker) is var m and >= 0)
            {
                var joints = body.Model.MarkerJoints;
                return Enumerable
                    .Range(0, joints.Length)
                    .Where(i => i != m && body.Columns[i] >= 0)
                    .OrderBy(i => joints[i] == joints[m] ? 0 : 1)
                    .Select(i => body.Columns[i]);
            }
        }

        return [];
    }

    private Window? Solve(Body body, Gap gap, int shift, int hidden)
    {
        int first = gap.Start + shift - Edge,
            last = gap.End + shift + Edge;
        bool start = gap.Start == 0,
            end = gap.End == _take.FrameCount - 1;
        if (shift == 0)
        {
            (first, last) = (start ? 0 : first, end ? _take.FrameCount - 1 : last);
        }

        if (first < 0 || last >= _take.FrameCount)
        {
            return null;
        }

        var model = body.Model;
        var poses = new ModelPose[last - first + 1];
        if (start || end)
        {
            return OneWay(body, start && !end, (first, last), shift, hidden, poses) ? Look(model, first, poses) : null;
        }

        var solver = new FrameSolver(model);
        var targets = new Vector3d[body.Columns.Length];
        // Both edges, each from the nearest pose that is known outside the gap.
        var before = Array.FindLastIndex(body.Poses, p => p.Frame <= first);
        var after = Array.FindIndex(body.Poses, p => p.Frame >= last);
        if (
            before < 0
            || !Along(body, solver, targets, body.Poses[before].Pose, first, first + Edge - 1, first, poses)
            || !Along(body, solver, targets, (after < 0 ? body.Poses[^1] : body.Poses[after]).Pose, last, last - Edge + 1, first, poses)
        )
        {
            return null;
        }

        var expecting = new FrameSolver(
            model,
            new SolveOptions { FrameSpread = Stray },
            [.. model.Freedoms.Select(f => f with { Spread = [] })]
        );
        var (a, b) = (Edge - 1, poses.Length - Edge);
        var way = new JointWay(model, poses[0], poses[a], poses[b], poses[^1], Edge - 1, b - a, Momentum * _take.FrameRate);
        for (var k = a + 1; k < b; k++)
        {
            var expected = way.At(k - a);
            poses[k] = new ModelPose(model);
            poses[k].CopyFrom(expected);
            if (Targets(body, targets, first + k, shift, hidden) >= Fewest)
            {
                expecting.Solve(poses[k], targets, expected);
            }
        }

        return Look(model, first, poses);
    }

    /// <summary>Follows the body towards an end of the take, where nothing says where what is hidden goes: it keeps its way on the body.</summary>
    private bool OneWay(Body body, bool backwards, (int First, int Last) range, int shift, int hidden, ModelPose[] poses)
    {
        var solver = new FrameSolver(body.Model);
        var targets = new Vector3d[body.Columns.Length];
        var (from, to) = backwards ? (range.Last, range.First) : range;
        var near = backwards ? Array.FindIndex(body.Poses, p => p.Frame >= from) : Array.FindLastIndex(body.Poses, p => p.Frame <= from);
        var known = near >= 0 ? body.Poses[near] : body.Poses[backwards ? ^1 : 0];
        return Along(body, solver, targets, known.Pose, from, to, range.First, poses, shift, hidden);
    }

    /// <summary>Where the markers are in some poses.</summary>
    private static Window Look(ArticulatedModel model, int first, ModelPose[] poses)
    {
        var kinematics = new ModelKinematics(model);
        var window = new Window(first, new Vector3[poses.Length][], new Quaternion[poses.Length][]);
        for (var k = 0; k < poses.Length; k++)
        {
            kinematics.Update(poses[k], false);
            window.Places[k] = Array.ConvertAll(kinematics.Markers, m => m.ToSingle());
            window.Turns[k] = Turns(model, poses[k]);
        }

        return window;
    }

    private static Quaternion[] Turns(ArticulatedModel model, ModelPose pose)
    {
        var turns = new Quaternion[model.JointCount];
        for (var j = 0; j < turns.Length; j++)
        {
            var own = pose.TurnOf(model, j).ToSingle();
            turns[j] = model.Parents[j] < 0 ? own : turns[model.Parents[j]] * own;
        }

        return turns;
    }

    /// <summary>Follows the body from a known pose to some frames in a row; false where too little of it is seen.</summary>
    private bool Along(
        Body body,
        FrameSolver solver,
        Vector3d[] targets,
        ModelPose known,
        int from,
        int to,
        int first,
        ModelPose[] poses,
        int shift = 0,
        int hidden = -1
    )
    {
        var pose = new ModelPose(body.Model);
        pose.CopyFrom(known);
        var step = Math.Sign(to - from);
        for (var f = from; f != to + step; f += step)
        {
            if (Targets(body, targets, f, shift, hidden) < Fewest)
            {
                return false;
            }

            solver.Solve(pose, targets);
            poses[f - first] = new ModelPose(body.Model);
            poses[f - first].CopyFrom(pose);
        }

        return true;
    }

    private bool HiddenAt(int frame, int column) => frame >= 0 && frame < _take.FrameCount && !MarkerTake.Seen(_take[frame, column]);

    private int Targets(Body body, Vector3d[] targets, int frame, int shift, int hidden)
    {
        var seen = 0;
        for (var i = 0; i < targets.Length; i++)
        {
            var c = body.Columns[i];
            targets[i] = c < 0 || c == hidden || (shift != 0 && HiddenAt(frame - shift, c)) ? MarkerTake.Hidden : _take[frame, c];
            seen += double.IsNaN(targets[i].X) ? 0 : 1;
        }

        return seen;
    }
}
