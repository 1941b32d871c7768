using Eidolon.Core.Cleaning;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Video;

/// <summary>
/// All poses of a film together: each frame by what is seen in it, the row of them smooth, standing feet where they stand. Frames and smoothness
/// take turns until they agree.
/// </summary>
/// <remarks>Consensus by the alternating direction method of multipliers (Boyd et al. 2011): the frames' part runs on all cores.</remarks>
internal sealed class FilmFit
{
    /// <summary>How far a frame may be from the smooth row, radians and metres.</summary>
    private const double Spread = 0.06;

    /// <summary>What stands is off by so much along the floor, and in height, metres.</summary>
    private const double StandFloor = 0.012,
        StandHeight = 0.006;

    /// <summary>A standing foot no higher than this above the floor stands on the floor, metres.</summary>
    private const double OnFloor = 0.13;

    private readonly FilmBody _body;
    private readonly FilmClock _clock;
    private readonly IReadOnlyList<ContactEdit> _edits;
    private readonly ModelPose[] _own;
    private readonly ModelPose[] _off;
    private IReadOnlyList<FilmStand>[] _stands;

    public FilmFit(FilmBody body, FilmClock clock, ModelPose[] start, IReadOnlyList<ContactEdit> edits)
    {
        (_body, _clock, _edits, _own) = (body, clock, edits, start);
        _off = [.. start.Select(_ => new ModelPose(body.Model))];
        _stands = [.. start.Select(_ => Array.Empty<FilmStand>())];
        Smooth = PosePath.Smooth(body.Model, start, clock.Rate, Spread);
    }

    /// <summary>The smooth row.</summary>
    public ModelPose[] Smooth { get; private set; }

    /// <summary>So many rounds of frames and smoothness.</summary>
    public void Run(int rounds, IProgress<double>? progress, CancellationToken cancel)
    {
        for (var r = 0; r < rounds; r++)
        {
            Parallel.For(
                0,
                _own.Length,
                new ParallelOptions { CancellationToken = cancel },
                () => new FilmFrame(_body),
                (f, _, solver) =>
                {
                    var near = new ModelPose(_body.Model);
                    Shift(near, Smooth[f], _off[f], -1);
                    solver.Solve(_own[f], _clock.At(f), near, Spread, _stands[f], steps: 4);
                    return solver;
                },
                _ => { }
            );
            var shifted = _own.Select((p, f) => Shifted(p, _off[f])).ToArray();
            Smooth = PosePath.Smooth(_body.Model, shifted, _clock.Rate, Spread);
            for (var f = 0; f < _own.Length; f++)
            {
                Difference(_off[f], Smooth[f], shifted[f]);
            }

            progress?.Report((r + 1.0) / rounds);
        }
    }

    /// <summary>Takes the smooth row as where the frames begin anew: what was learnt of their disagreement is forgotten.</summary>
    public void Restart()
    {
        for (var f = 0; f < _own.Length; f++)
        {
            _own[f].CopyFrom(Smooth[f]);
            _off[f] = new ModelPose(_body.Model);
        }
    }

    /// <summary>Chooses anew on which side of their rays the arms lie.</summary>
    public void Arms(CancellationToken cancel)
    {
        ArmSides.Choose(_body, _clock, _own, cancel);
        Smooth = PosePath.Smooth(_body.Model, _own, _clock.Rate, Spread);
    }

    /// <summary>Looks a second time where a limb is off.</summary>
    public void LookAgain(CancellationToken cancel)
    {
        var better = FilmSecondLook.Find(_body, _clock, Smooth, cancel);
        if (better.Count == 0)
        {
            return;
        }

        Restart();
        foreach (var (f, pose) in better)
        {
            _own[f].CopyFrom(pose);
        }

        Smooth = PosePath.Smooth(_body.Model, _own, _clock.Rate, Spread);
    }

    /// <summary>Which joints stand when: as the motion shows it, or, of one film, as its picture does. They are held there from now on.</summary>
    public void Stand()
    {
        var one = _clock.Used.Count(u => u) == 1;
        var contacts = one ? ContactEdits.Apply(StillPoints.Find(_body, _clock), _edits) : BodyContacts.Find(Motion(), _edits).Joints;
        var solver = new FilmFrame(_body);
        var stands = _own.Select(_ => new List<FilmStand>()).ToArray();
        foreach (var c in contacts)
        {
            var i = _body.Standing.IndexOf(c.Role);
            if (i < 0)
            {
                continue;
            }

            var place = Place(solver, c, i, one);
            for (var f = c.Start; f <= c.End; f++)
            {
                stands[f].Add(new FilmStand(_body.Points.Count + i, place, 1 / (StandFloor * StandFloor), 1 / (StandHeight * StandHeight)));
            }
        }

        _stands = stands;
    }

    /// <summary>
    /// Where a contact stands: the mean of its frames, put onto the floor where it is near it. One film says how deep in the picture only by
    /// where its rays meet the floor.
    /// </summary>
    private Vector3d Place(FilmFrame solver, Contact c, int standing, bool alongRays)
    {
        var rest = _body.RestHeight(standing);
        var eye = _clock.Cameras[0].Position;
        Vector3d sum = default;
        for (var f = c.Start; f <= c.End; f++)
        {
            sum += solver.Place(Smooth[f])[_body.Points.Count + standing];
        }

        var mean = sum * (1.0 / c.Length);
        if (Math.Abs(mean.Y - rest) > (alongRays ? 2 * OnFloor : OnFloor))
        {
            return mean;
        }

        var ray = mean - eye;
        var t = (rest - eye.Y) / ray.Y;
        return alongRays && t is > 0.6 and < 1.6 ? eye + (ray * t) : mean with { Y = rest };
    }

    /// <summary>The smooth row as a motion at the first film's rate.</summary>
    public Motion Motion() => Motion(_clock.Rate);

    /// <summary>The smooth row as a motion at any rate: between frames it stays smooth.</summary>
    public Motion Motion(double rate)
    {
        var same = Math.Abs(rate - _clock.Rate) < 1e-9;
        var count = same ? Smooth.Length : MotionEdits.WholeFrames(Smooth.Length, _clock.Rate, rate);
        SampleBudget.Check($"the motion at {rate:0.###} frames a second", count, _body.Skeleton.Count);
        var motion = new Motion(_body.Skeleton, rate, count);
        var between = new ModelPose(_body.Model);
        for (var f = 0; f < count; f++)
        {
            var at = Math.Min(f / rate * _clock.Rate, Smooth.Length - 1);
            var before = Math.Min((int)at, Smooth.Length - 1);
            if (same || at - before < 1e-9)
            {
                BodyModel.WriteFrame(_body.Model, Smooth[before], motion, f);
                continue;
            }

            PosePath.Between(_body.Model, Smooth, before, at - before, between);
            BodyModel.WriteFrame(_body.Model, between, motion, f);
        }

        return motion;
    }

    private ModelPose Shifted(ModelPose pose, ModelPose by)
    {
        var result = new ModelPose(_body.Model);
        Shift(result, pose, by, 1);
        return result;
    }

    /// <summary>A pose moved by an amount whose ball joints hold rotation vectors as turns.</summary>
    private void Shift(ModelPose to, ModelPose from, ModelPose by, int sign)
    {
        for (var d = 0; d < to.Values.Length; d++)
        {
            to.Values[d] = from.Values[d] + (sign * by.Values[d]);
        }

        for (var j = 0; j < to.Turns.Length; j++)
        {
            to.Turns[j] = from.Turns[j] * (sign > 0 ? by.Turns[j] : by.Turns[j].Conjugate());
        }
    }

    private void Difference(ModelPose to, ModelPose from, ModelPose until)
    {
        for (var d = 0; d < to.Values.Length; d++)
        {
            to.Values[d] = until.Values[d] - from.Values[d];
        }

        for (var j = 0; j < to.Turns.Length; j++)
        {
            to.Turns[j] = (from.Turns[j].Conjugate() * until.Turns[j]).Normalized();
        }
    }
}
