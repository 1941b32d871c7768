using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Labelling;

/// <summary>
/// How badly a body explains its dots when they carry these names: squared distances in units of a centimetre, twelve for a dot without a name;
/// per frame.
/// </summary>
/// <param name="carried">Where each body carries its markers as far as is known; the poses that are compared begin there.</param>
internal sealed class NamingCost(MarkerTake take, IReadOnlyList<LabelSubject> subjects, IReadOnlyList<MarkerTake> carried)
{
    private readonly Dictionary<(int Subject, int Frame), ModelPose> _starts = [];
    private readonly ArticulatedModel?[] _models = new ArticulatedModel?[subjects.Count];
    private readonly FrameSolver?[] _solvers = new FrameSolver?[subjects.Count];

    /// <summary>Solves the body in a few frames with the names as they would be.</summary>
    /// <param name="limit">More than this is of no interest: the rest of the frames is not looked at.</param>
    /// <param name="turns">Tries forearms turned about their lengths too, where a frame fits badly.</param>
    public double Of(List<LabelDecider.Decision> list, int s, int[] frames, double limit = double.PositiveInfinity, bool turns = false)
    {
        var model = _models[s] ??= BodyModel.Create(subjects[s].Performer);
        var solver = _solvers[s] ??= new FrameSolver(model);
        var targets = new Vector3d[model.MarkerCount];
        var pose = new ModelPose(model);
        double cost = 0;
        foreach (var f in frames)
        {
            cost += LabelDecider.Nameless * Targets(list, s, f, targets);
            cost += Least(s, f, model, solver, targets, pose, turns);
            if (cost > limit * frames.Length)
            {
                return double.PositiveInfinity;
            }
        }

        return cost / frames.Length;
    }

    /// <summary>A frame that fits worse than this may have a forearm turned the wrong way about its length; squared centimetres.</summary>
    private const double Twisted = 3;

    private static readonly double[] Turns = [2 * Math.PI / 3, -2 * Math.PI / 3];

    /// <summary>
    /// The body as near to the dots as it comes, from where it is carried, and where that is not near, from its forearms turned about their
    /// lengths.
    /// </summary>
    private double Least(int s, int f, ArticulatedModel model, FrameSolver solver, Vector3d[] targets, ModelPose pose, bool turns)
    {
        var start = Start(s, f, model, solver, targets);
        pose.CopyFrom(start);
        var least = Fit(solver, pose, targets);
        for (var j = 0; j < model.JointCount && turns && least > Twisted; j++)
        {
            // A forearm's last turn is the one about its length, X.
            if (model.Freedoms[j].Ball || model.Freedoms[j].Axes.Count != 3 || model.Freedoms[j].Axes[2] != 0)
            {
                continue;
            }

            foreach (var turn in Turns)
            {
                pose.CopyFrom(start);
                pose.Values[model.FirstDof[j] + 2] += turn;
                least = Math.Min(least, Fit(solver, pose, targets));
            }
        }

        return least;
    }

    private static double Fit(FrameSolver solver, ModelPose pose, Vector3d[] targets)
    {
        solver.Solve(pose, targets);
        double cost = 0;
        for (var m = 0; m < targets.Length; m++)
        {
            if (!double.IsNaN(targets[m].X))
            {
                var e = solver.Markers[m] - targets[m];
                cost += Math.Min(LabelDecider.Farthest, Vector3d.Dot(e, e) / (LabelDecider.Usual * LabelDecider.Usual));
            }
        }

        return cost;
    }

    /// <summary>The dots of a frame by the names they would have; returns how many have none.</summary>
    private int Targets(List<LabelDecider.Decision> list, int s, int frame, Vector3d[] targets)
    {
        Array.Fill(targets, new Vector3d(double.NaN, 0, 0));
        var nameless = 0;
        foreach (var d in list)
        {
            if (d.Start > frame || frame > d.End)
            {
                continue;
            }

            if (d.Subject == s)
            {
                targets[d.Marker] = take[frame, d.Fragment.Column];
            }
            else if (d.Subject < 0)
            {
                nameless++;
            }
        }

        return nameless;
    }

    /// <summary>The pose in which the body carries its markers there, whatever the names are; all that are compared begin from it.</summary>
    private ModelPose Start(int s, int frame, ArticulatedModel model, FrameSolver solver, Vector3d[] targets)
    {
        if (_starts.TryGetValue((s, frame), out var known))
        {
            return known;
        }

        var places = targets;
        if (MarkerTake.Seen(carried[s][frame, 0]))
        {
            places = new Vector3d[targets.Length];
            for (var m = 0; m < places.Length; m++)
            {
                places[m] = carried[s][frame, m];
            }
        }

        // A pose that is known of another frame, moved here, mostly leads to this one; where it does not, all starts are tried.
        var near = _starts.Where(x => x.Key.Subject == s).OrderBy(x => Math.Abs(x.Key.Frame - frame)).Select(x => x.Value).FirstOrDefault();
        if (near is not null)
        {
            var moved = new ModelPose(model);
            moved.CopyFrom(near);
            solver.Solve(moved, places);
            if (TakeSolver.Rms(solver, places) < Found)
            {
                return _starts[(s, frame)] = moved;
            }
        }

        var pose = TakeSolver.BestStart(subjects[s].Performer, model, places);
        solver.Solve(pose, places);
        return _starts[(s, frame)] = pose;
    }

    /// <summary>A body that lies this near to where it is carried is found, metres.</summary>
    private const double Found = 0.025;
}
