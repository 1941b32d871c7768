using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Clipping;
using Eidolon.Core.Geometry;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>
/// One motion on its way to another skeleton: turns carried over, hips placed, feet planned, hips moved to where the feet are within reach; then, frame by
/// frame, legs, head, shoulders and arms brought to what they are held to.
/// </summary>
internal sealed class RetargetWork
{
    /// <summary>What a foot stands on is the floor when it is no farther from it than this, metres.</summary>
    private const float OnFloor = 0.025f;

    /// <summary>
    /// A held limb is straightened so far by itself, and to the last only where the performer's is as straight; hips come no nearer to a foot than
    /// a share of the leg.
    /// </summary>
    private const float LegStraight = 0.995f,
        ArmStraight = 0.985f,
        LegBent = 0.3f,
        Straightest = 0.9995f;

    /// <summary>Shoulders and spine ease in and out over so much time to either side, seconds.</summary>
    private const double LeanEase = 0.1;

    /// <summary>A shoulder drawn near by less than about this is already on its way to being let go, metres.</summary>
    private const float Slack = 0.01f;

    private readonly Motion _source;
    private readonly Skeleton _target;
    private readonly RetargetSetup _setup;
    private readonly Vector3[] _sourceWorld;
    private readonly Quaternion[] _sourceTurns;
    private readonly float _ground;
    private readonly IReadOnlyList<Contact> _contacts;
    private readonly TurnTransfer _transfer;
    private readonly int _frames;
    private readonly BodyGoals _goals;
    private readonly BodyFrames _body;
    private readonly Limb[] _legs;
    private readonly Limb[] _arms;
    private readonly Holding _head;
    private readonly int _headJoint;
    private readonly TPose _pose;
    private readonly Dictionary<BodyRole, double> _errors = LimbRoles.All.ToDictionary(l => l.End, _ => 0.0);

    /// <param name="ground">How much higher the performer stands than at rest, metres.</param>
    public RetargetWork(
        Motion source,
        Skeleton target,
        RetargetSetup setup,
        Vector3[] sourceWorld,
        Quaternion[] sourceTurns,
        IReadOnlyList<Contact> contacts,
        float ground
    )
    {
        (_source, _target, _setup, _sourceWorld, _sourceTurns, _ground) = (source, target, setup, sourceWorld, sourceTurns, ground);
        _contacts = contacts.Where(c => target.IndexOf(c.Role) >= 0).ToList();
        _transfer = new TurnTransfer(source.Skeleton, target, setup);
        _pose = TPose.Of(target);
        _frames = source.FrameCount;
        _goals = new BodyGoals(source, target, setup, sourceWorld, ground);
        _body = new BodyFrames(target, _frames);
        _legs = Array.ConvertAll(LimbRoles.Legs, l => new Limb(target, l, setup));
        _arms = Array.ConvertAll(LimbRoles.Arms, l => new Limb(target, l, setup));
        (_head, _headJoint) = (setup.Hold(BodyRole.Head), target.IndexOf(BodyRole.Head));
    }

    public (Motion, RetargetReport) Run(BodyVolumes? volumes, CancellationToken cancel, IProgress<double>? progress)
    {
        var hips = new Vector3[_frames];
        for (var f = 0; f < _frames; f++)
        {
            Step(f, 0, cancel, progress);
            _transfer.Apply(_sourceTurns.AsSpan(f * _source.Skeleton.Count, _source.Skeleton.Count), _body.Turns(f));
            hips[f] = _goals.Hips(f);
            _body.Stand(f, hips[f]);
        }

        var fastest = FastestTurn.Find(_source.Skeleton, _sourceTurns).Angle;
        var feet = Array.ConvertAll(_legs, leg => PlanFoot(leg, fastest));
        Vector3[][] soles = [Soles(_legs[0], feet[0]), Soles(_legs[1], feet[1])];
        var held = _arms.Where(a => !a.Hold.IsFree).ToArray();
        var leaning = _setup.Lean > 0 && held.Length > 0;
        var lean = new Lean(_target);
        var shift = BodyShift.Find(
            [LegNeed(_legs[0], soles[0]), LegNeed(_legs[1], soles[1])],
            leaning ? Array.ConvertAll(held, a => ArmNeed(a, lean)) : [],
            _source.FrameRate
        );
        for (var f = 0; f < _frames; f++)
        {
            _body.Stand(f, hips[f] + shift[f]);
        }

        var within = leaning ? Array.ConvertAll(_arms, a => Within(a, lean)) : [];
        // The turns hands are held to are the performer's, whatever the body does before the arms follow.
        var hands = Array.ConvertAll(_arms, a => _body.TurnsOf(a.Reach.End));
        var planted = Array.ConvertAll(_legs, Planted);
        for (var f = 0; f < _frames; f++)
        {
            Step(f, 0.4, cancel, progress);
            for (var side = 0; side < 2; side++)
            {
                HoldFoot(f, _legs[side], soles[side][f], feet[side].Turn[f], planted[side][f]);
            }

            HoldBody(f, lean, within);
        }

        for (var side = 0; side < 2; side++)
        {
            if (_arms[side] is { Hold.IsFree: true, Middle.IsFree: true })
            {
                continue;
            }

            var reaches = ArmReaches(_arms[side], hands[side], fastest);
            for (var f = 0; f < _frames; f++)
            {
                Step(f, 0.6 + (0.2 * side), cancel, progress);
                HoldArm(f, _arms[side], hands[side][f], reaches[f]);
            }
        }

        return Finish(volumes, fastest);
    }

    private void Step(int f, double done, CancellationToken cancel, IProgress<double>? progress)
    {
        if ((f & 127) == 0)
        {
            cancel.ThrowIfCancellationRequested();
            progress?.Report(done + (0.2 * f / _frames));
        }
    }

    /// <param name="fastest">The performer's fastest turn, radians a frame.</param>
    private FootHold PlanFoot(Limb leg, float fastest)
    {
        var joint = leg.Reach.End;
        var toes = leg.End == BodyRole.FootL ? BodyRole.ToesL : BodyRole.ToesR;
        var toe = _target.IndexOf(toes);
        var hold = new FootHold(leg.End, _frames, _source.FrameRate, fastest);
        if (!leg.Hold.IsFree)
        {
            float Level(Contact c)
            {
                var level = GroundLevel.Level(_source.Skeleton, _sourceWorld, c) - _ground;
                return _goals.Level(MathF.Abs(level) < OnFloor ? 0 : level);
            }

            hold.Plan(
                _contacts,
                _body.Path(joint),
                _body.TurnsOf(joint),
                toe >= 0 ? _target[toe].Offset : null,
                [.. Enumerable.Range(0, _frames).Select(f => _goals.Of(f, leg.End))],
                new FootGround(
                    GroundLevel.Height(_target, leg.End),
                    toe >= 0 ? GroundLevel.Height(_target, toes) : 0,
                    Level,
                    _setup.FeetFlat ? _pose.Turns[joint] : null
                )
            );
        }

        return hold;
    }

    /// <summary>Frames in which a foot's ankle stands.</summary>
    private bool[] Planted(Limb leg)
    {
        var planted = new bool[_frames];
        foreach (var c in _contacts.Where(c => c.Role == leg.End))
        {
            planted.AsSpan(c.Start, c.Length).Fill(true);
        }

        return planted;
    }

    /// <summary>Where the ankle of a leg belongs, a frame each.</summary>
    private Vector3[] Soles(Limb leg, FootHold hold)
    {
        var joint = leg.Reach.End;
        var soles = new Vector3[_frames];
        for (var f = 0; f < _frames; f++)
        {
            var turn = hold.Turn[f] ?? _body.Turns(f)[joint];
            soles[f] = _body.Places(f)[joint] + (hold.Offset[f] * leg.Hold.At(f).Place) + _goals.Offset(leg.End, turn);
        }

        return soles;
    }

    /// <summary>How far a limb may reach: nearly straight, and straighter only where it is straighter by itself.</summary>
    private float[] Reaches(Limb limb, float straight)
    {
        var reaches = new float[_frames];
        for (var f = 0; f < _frames; f++)
        {
            var places = _body.Places(f);
            var length = limb.Reach.Length(places);
            var own = Vector3.Distance(places[limb.Reach.Root], places[limb.Reach.End]) / length;
            reaches[f] = length * Math.Clamp(own, straight, Straightest);
        }

        return reaches;
    }

    private BodyShift.Need LegNeed(Limb leg, Vector3[] soles)
    {
        var least = new float[_frames];
        for (var f = 0; f < _frames; f++)
        {
            var places = _body.Places(f);
            var own = Vector3.Distance(places[leg.Reach.Root], places[leg.Reach.End]);
            least[f] = MathF.Min(own, LegBent * leg.Reach.Length(places));
        }

        return new BodyShift.Need(_body.Path(leg.Reach.Root), soles, Reaches(leg, LegStraight), least);
    }

    /// <summary>Where the hips must bring a shoulder that leaning alone does not bring near enough to its hand's place.</summary>
    private BodyShift.Need ArmNeed(Limb arm, Lean lean)
    {
        var easily = lean.Easily(arm.End) * _setup.Lean;
        return new BodyShift.Need(
            _body.Path(arm.Reach.Root),
            [.. Enumerable.Range(0, _frames).Select(f => HandGoal(f, arm))],
            Array.ConvertAll(Reaches(arm, ArmStraight), r => r + easily),
            new float[_frames]
        );
    }

    /// <summary>How near each shoulder must be to what its hand is held to, smooth over time, metres.</summary>
    private float[] Within(Limb arm, Lean lean)
    {
        var reaches = Reaches(arm, ArmStraight);
        var (amounts, apart) = (new float[_frames], new float[_frames]);
        for (var f = 0; f < _frames; f++)
        {
            apart[f] = Vector3.Distance(HandGoal(f, arm), _body.Places(f)[arm.Reach.Root]);
            var off = arm.Hold.At(f).Place > 0 ? apart[f] - reaches[f] : 0;
            amounts[f] = off > 0 ? lean.Most(arm.End, off) * _setup.Lean : 0;
        }

        amounts = Smoothing.Above(amounts, Math.Max(2, (int)(_source.FrameRate * LeanEase)));
        for (var f = 0; f < _frames; f++)
        {
            // What is drawn near is let go to the arm's own reach, and to anywhere as its hand is let go.
            var free = MathF.Max(0, reaches[f] - apart[f]) * Slack / (amounts[f] + Slack);
            apart[f] += free - amounts[f] + ((1 - arm.Hold.At(f).Place) * reaches[f]);
        }

        return apart;
    }

    /// <summary>How far an arm reaches, frame by frame: bent as fast as arms bend, where what it is held to goes out of its reach.</summary>
    private float[] ArmReaches(Limb arm, Quaternion[] hands, float fastest)
    {
        var wanted = new float[_frames];
        var (first, second) = arm.Reach.Lengths(_body.Places(0));
        for (var f = 0; f < _frames; f++)
        {
            wanted[f] = Vector3.Distance(_body.Places(f)[arm.Reach.Root], HandGoal(f, arm, hands[f]));
        }

        return ArmStretch.Reaches(wanted, first, second, fastest);
    }

    /// <summary>Where a hand belongs while the body is as the performer has it.</summary>
    private Vector3 HandGoal(int f, Limb arm) => HandGoal(f, arm, _body.Turns(f)[arm.Reach.End]);

    /// <param name="turn">The hand's turn from the performer alone.</param>
    private Vector3 HandGoal(int f, Limb arm, Quaternion turn) =>
        Vector3.Lerp(_body.Places(f)[arm.Reach.End], _goals.Held(f, arm.End, turn), arm.Hold.At(f).Place);

    private void HoldFoot(int f, Limb leg, Vector3 goal, Quaternion? flat, bool planted)
    {
        if (leg is { Hold: { IsFree: true, Offset: var offset }, Middle.IsFree: true } && offset == Vector3.Zero)
        {
            return;
        }

        var turns = _body.Turns(f);
        var original = turns[leg.Reach.End];
        _body.Remember(f);
        var shortfall = leg.Reach.Reach(turns, _body.Places(f), goal);
        Aim(f, leg);
        var (place, turn) = leg.Hold.At(f);
        var kept = _body.Kept(f, leg, original, turn);
        turns[leg.Reach.End] = flat is { } lies ? Rotations.Slerp(kept, lies, place) : kept;
        _body.FollowThrough(f, leg);
        if (planted)
        {
            _errors[leg.End] = Math.Max(_errors[leg.End], shortfall * 1000);
        }
    }

    /// <summary>Head and spine.</summary>
    private void HoldBody(int f, Lean lean, float[][] within)
    {
        var turns = _body.Turns(f);
        var places = _body.Places(f);
        var looks = turns[_headJoint];
        var (place, turn) = _head.At(f);
        if (place > 0)
        {
            lean.Head(turns, places, _goals.Held(f, BodyRole.Head, looks), place);
        }

        if (within.Length > 0)
        {
            lean.Shoulders(turns, places, [HandGoal(f, _arms[0]), HandGoal(f, _arms[1])], [within[0][f], within[1][f]]);
        }

        if ((place > 0 || within.Length > 0) && turn > 0)
        {
            lean.Look(turns, places, Rotations.Slerp(turns[_headJoint], looks, turn));
        }
    }

    /// <param name="original">The hand's turn from the performer alone, whatever the body has done since.</param>
    /// <param name="reach">No farther from the shoulder than this, metres.</param>
    private void HoldArm(int f, Limb arm, Quaternion original, float reach)
    {
        var (place, turn) = arm.Hold.At(f);
        var elbow = arm.Middle.At(f).Place;
        if (place <= 0 && elbow <= 0)
        {
            return;
        }

        var turns = _body.Turns(f);
        var places = _body.Places(f);
        var (root, lower, end) = arm.Reach.Joints;
        _body.Remember(f);
        if (place <= 0)
        {
            arm.Reach.Draw(turns, places, _goals.Held(f, arm.Lower, turns[lower]), elbow);
        }
        else
        {
            var goal = HandGoal(f, arm, original);
            var way = goal - places[root];
            var near = way.Length() > reach ? places[root] + (way * (reach / way.Length())) : goal;
            arm.Reach.Reach(turns, places, near);
            _errors[arm.End] = Math.Max(_errors[arm.End], Vector3.Distance(goal, places[end]) * 1000);
            Aim(f, arm);
        }

        turns[end] = _body.Kept(f, arm, original, turn);
        _body.FollowThrough(f, arm);
    }

    /// <summary>Draws a knee or elbow to its own place where that is held as well.</summary>
    private void Aim(int f, Limb limb)
    {
        if (limb.Middle.At(f).Place is > 0 and var share)
        {
            var turns = _body.Turns(f);
            limb.Reach.Swivel(turns, _body.Places(f), _goals.Held(f, limb.Lower, turns[limb.Reach.Joints.Lower]), share);
        }
    }

    private (Motion, RetargetReport) Finish(BodyVolumes? volumes, float fastest)
    {
        var motion = _body.ToMotion(_source);
        var turns = new Quaternion[motion.Rotations.Length];
        var world = ForwardKinematics.WorldPositions(motion, turns);
        var drift = HoldDrift.Of(_goals, _target, world, turns, _frames);
        var report = new RetargetReport(
            _goals.Scale,
            [.. _contacts.Select(c => Retargeter.Held(_target, c, world))],
            _errors,
            drift,
            BendFinder.Find(_source, _sourceWorld, motion, world, _setup, drift),
            FastestTurn.Of(fastest, _target, turns),
            ClippingMeasure.Measure(motion, world, turns, volumes),
            []
        );
        return (
            motion,
            report with
            {
                Ground = _ground,
                Warnings = [.. RetargetWarnings.Of(report)],
                Findings = [.. RetargetFindings.Of(report, _setup, _source.FrameRate)],
            }
        );
    }
}
