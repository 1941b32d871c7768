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
    private static readonly (BodyRole Upper, BodyRole Lower, BodyRole End)[] Limbs =
    [
        (BodyRole.ThighL, BodyRole.ShinL, BodyRole.FootL),
        (BodyRole.ThighR, BodyRole.ShinR, BodyRole.FootR),
        (BodyRole.UpperArmL, BodyRole.ForearmL, BodyRole.HandL),
        (BodyRole.UpperArmR, BodyRole.ForearmR, BodyRole.HandR),
    ];

    /// <summary>What a foot stands on is the floor when it is no farther from it than this, metres.</summary>
    private const float OnFloor = 0.025f;

    /// <summary>A held limb is straightened so far by itself, and to the last only where the performer's is as straight; hips come no nearer to a foot than a
    /// share of the leg.</summary>
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
    private readonly int _n;
    private readonly int _frames;
    private readonly float _scale;
    private readonly BodyGoals _goals;
    private readonly Quaternion[] _turns;
    private readonly Vector3[] _places;
    private readonly LimbReach[] _limbs;
    private readonly Holding[] _ends;
    private readonly Holding[] _middles;
    private readonly Holding _head;
    private readonly TPose _pose;
    private readonly Quaternion[] _before;
    private readonly int[] _body;
    private readonly Lazy<float> _fastest;
    private readonly Dictionary<BodyRole, double> _errors = Limbs.ToDictionary(l => l.End, _ => 0.0);

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
        _transfer = new TurnTransfer(source.Skeleton, target);
        _pose = TPose.Of(target);
        _n = target.Count;
        _frames = source.FrameCount;
        _goals = new BodyGoals(source, target, setup, sourceWorld, ground);
        _scale = _goals.Scale;
        _turns = new Quaternion[_frames * _n];
        _places = new Vector3[_frames * _n];
        _before = new Quaternion[_n];
        _limbs = Array.ConvertAll(Limbs, l => new LimbReach(target, l.Upper, l.Lower, l.End));
        _ends = Array.ConvertAll(Limbs, l => setup.Hold(l.End));
        _middles = Array.ConvertAll(Limbs, l => setup.Hold(l.Lower));
        _head = setup.Hold(BodyRole.Head);
        _fastest = new(() => FastestTurn.Find(source.Skeleton, sourceTurns).Angle);
        var pelvis = target.IndexOf(BodyRole.Pelvis);
        _body = [.. Enumerable.Range(0, _n).Where(j => j == pelvis || IsUnder(j, pelvis))];
    }

    public (Motion, RetargetReport) Run(BodyVolumes? volumes, CancellationToken cancel, IProgress<double>? progress)
    {
        var hips = new Vector3[_frames];
        for (var f = 0; f < _frames; f++)
        {
            Step(f, 0, cancel, progress);
            _transfer.Apply(_sourceTurns.AsSpan(f * _source.Skeleton.Count, _source.Skeleton.Count), TurnsAt(f));
            hips[f] = _goals.Hips(f);
            PlaceFrom(f, hips[f]);
        }

        FootHold[] feet = [PlanFoot(0), PlanFoot(1)];
        var soles = Array.ConvertAll([0, 1], side => Soles(side, feet[side]));
        var leaning = _setup.Lean > 0 && !(_ends[2].IsFree && _ends[3].IsFree);
        var lean = new Lean(_target);
        var shift = BodyShift.Find(
            [.. new[] { 0, 1 }.Select(side => LegNeed(side, soles[side]))],
            leaning ? [.. new[] { 2, 3 }.Where(arm => !_ends[arm].IsFree).Select(arm => ArmNeed(arm, lean))] : [],
            _source.FrameRate
        );
        for (var f = 0; f < _frames; f++)
        {
            PlaceFrom(f, hips[f] + shift[f]);
        }

        float[][] within = leaning ? [Within(2, lean), Within(3, lean)] : [];
        // The turns hands are held to are the performer's, whatever the body does before the arms follow.
        var hands = new Quaternion[2 * _frames];
        for (var f = 0; f < _frames; f++)
        {
            Step(f, 0.4, cancel, progress);
            for (var side = 0; side < 2; side++)
            {
                HoldFoot(f, side, soles[side][f], feet[side].Turn[f]);
                hands[(2 * f) + side] = TurnsAt(f)[_limbs[side + 2].End];
            }

            HoldBody(f, lean, within);
        }

        for (var side = 0; side < 2; side++)
        {
            var reaches = ArmReaches(side + 2, hands);
            for (var f = 0; f < _frames; f++)
            {
                Step(f, 0.6 + (0.2 * side), cancel, progress);
                HoldArm(f, side + 2, hands[(2 * f) + side], reaches[f]);
            }
        }

        return Finish(volumes);
    }

    private void Step(int f, double done, CancellationToken cancel, IProgress<double>? progress)
    {
        if ((f & 127) == 0)
        {
            cancel.ThrowIfCancellationRequested();
            progress?.Report(done + (0.2 * f / _frames));
        }
    }

    private Span<Quaternion> TurnsAt(int f) => _turns.AsSpan(f * _n, _n);

    private Span<Vector3> PlacesAt(int f) => _places.AsSpan(f * _n, _n);

    private Vector3[] Path(int joint) => [.. Enumerable.Range(0, _frames).Select(f => _places[(f * _n) + joint])];

    /// <summary>World places from world turns, the middle of the hips at a place.</summary>
    private void PlaceFrom(int f, Vector3 hips)
    {
        var turns = TurnsAt(f);
        var places = PlacesAt(f);
        for (var j = 0; j < _n; j++)
        {
            var p = _target.Parents[j];
            places[j] = p < 0 ? _target[j].Offset : places[p] + Vector3.Transform(_target[j].Offset, turns[p]);
        }

        var shift = hips - ((places[_limbs[0].Root] + places[_limbs[1].Root]) / 2);
        foreach (var j in _body)
        {
            places[j] += shift;
        }
    }

    private bool IsUnder(int joint, int ancestor)
    {
        for (var j = _target.Parents[joint]; j >= 0; j = _target.Parents[j])
        {
            if (j == ancestor)
            {
                return true;
            }
        }

        return false;
    }

    private FootHold PlanFoot(int side)
    {
        var (foot, toes) = side == 0 ? (BodyRole.FootL, BodyRole.ToesL) : (BodyRole.FootR, BodyRole.ToesR);
        var joint = _target.IndexOf(foot);
        var toe = _target.IndexOf(toes);
        var hold = new FootHold(foot, _frames, _source.FrameRate);
        if (!_ends[side].IsFree)
        {
            float Level(Contact c)
            {
                var level = GroundLevel.Level(_source.Skeleton, _sourceWorld, c) - _ground;
                return _goals.Level(MathF.Abs(level) < OnFloor ? 0 : level);
            }

            hold.Plan(
                _contacts,
                Path(joint),
                [.. Enumerable.Range(0, _frames).Select(f => _turns[(f * _n) + joint])],
                toe >= 0 ? _target[toe].Offset : null,
                [.. Enumerable.Range(0, _frames).Select(f => _goals.Of(f, foot))],
                new FootGround(
                    GroundLevel.Height(_target, foot),
                    toe >= 0 ? GroundLevel.Height(_target, toes) : 0,
                    Level,
                    _setup.FeetFlat ? _pose.Turns[joint] : null
                )
            );
        }

        return hold;
    }

    /// <summary>Where the ankle of a leg belongs, a frame each.</summary>
    private Vector3[] Soles(int side, FootHold hold)
    {
        var joint = _limbs[side].End;
        var soles = new Vector3[_frames];
        for (var f = 0; f < _frames; f++)
        {
            var turn = hold.Turn[f] ?? _turns[(f * _n) + joint];
            soles[f] = _places[(f * _n) + joint] + (hold.Offset[f] * _ends[side].At(f).Place) + _goals.Offset(Limbs[side].End, turn);
        }

        return soles;
    }

    /// <summary>How far a limb may reach: nearly straight, and straighter only where it is straighter by itself.</summary>
    private float[] Reaches(int limb, float straight)
    {
        var reaches = new float[_frames];
        for (var f = 0; f < _frames; f++)
        {
            var places = PlacesAt(f);
            var length = _limbs[limb].Length(places);
            var own = Vector3.Distance(places[_limbs[limb].Root], places[_limbs[limb].End]) / length;
            reaches[f] = length * Math.Clamp(own, straight, Straightest);
        }

        return reaches;
    }

    private BodyShift.Need LegNeed(int side, Vector3[] soles)
    {
        var least = new float[_frames];
        for (var f = 0; f < _frames; f++)
        {
            var places = PlacesAt(f);
            var own = Vector3.Distance(places[_limbs[side].Root], places[_limbs[side].End]);
            least[f] = MathF.Min(own, LegBent * _limbs[side].Length(places));
        }

        return new BodyShift.Need(Path(_limbs[side].Root), soles, Reaches(side, LegStraight), least);
    }

    /// <summary>Where the hips must bring a shoulder that leaning alone does not bring near enough to its hand's place.</summary>
    private BodyShift.Need ArmNeed(int arm, Lean lean)
    {
        var reaches = Reaches(arm, ArmStraight);
        for (var f = 0; f < _frames; f++)
        {
            // What is free, or held by half, asks for nothing or for half: its goal is as near as that.
            reaches[f] += lean.Easily(arm - 2) * _setup.Lean;
        }

        return new BodyShift.Need(
            Path(_limbs[arm].Root),
            [.. Enumerable.Range(0, _frames).Select(f => HandGoal(f, arm))],
            reaches,
            new float[_frames]
        );
    }

    /// <summary>How near each shoulder must be to what its hand is held to, smooth over time, metres.</summary>
    private float[] Within(int arm, Lean lean)
    {
        var reaches = Reaches(arm, ArmStraight);
        var (amounts, apart) = (new float[_frames], new float[_frames]);
        for (var f = 0; f < _frames; f++)
        {
            apart[f] = Vector3.Distance(HandGoal(f, arm), _places[(f * _n) + _limbs[arm].Root]);
            var off = _ends[arm].At(f).Place > 0 ? apart[f] - reaches[f] : 0;
            amounts[f] = off > 0 ? lean.Most(arm - 2, off) * _setup.Lean : 0;
        }

        amounts = Smoothing.Above(amounts, Math.Max(2, (int)(_source.FrameRate * LeanEase)));
        for (var f = 0; f < _frames; f++)
        {
            // What is drawn near is let go to the arm's own reach, and to anywhere as its hand is let go.
            var free = MathF.Max(0, reaches[f] - apart[f]) * Slack / (amounts[f] + Slack);
            apart[f] += free - amounts[f] + ((1 - _ends[arm].At(f).Place) * reaches[f]);
        }

        return apart;
    }

    /// <summary>How far an arm reaches, frame by frame: bent as fast as arms bend, where what it is held to goes out of its reach.</summary>
    private float[] ArmReaches(int arm, Quaternion[] hands)
    {
        var wanted = new float[_frames];
        var (first, second) = _limbs[arm].Lengths(PlacesAt(0));
        for (var f = 0; f < _frames; f++)
        {
            var place = _ends[arm].At(f).Place;
            var places = PlacesAt(f);
            var goal = Vector3.Lerp(places[_limbs[arm].End], _goals.Held(f, Limbs[arm].End, hands[(2 * f) + arm - 2]), place);
            wanted[f] = Vector3.Distance(places[_limbs[arm].Root], goal);
        }

        return ArmStretch.Reaches(wanted, first, second, _fastest.Value);
    }

    /// <summary>Where a hand belongs while the body is as the performer has it.</summary>
    private Vector3 HandGoal(int f, int arm)
    {
        var at = (f * _n) + _limbs[arm].End;
        return Vector3.Lerp(_places[at], _goals.Held(f, Limbs[arm].End, _turns[at]), _ends[arm].At(f).Place);
    }

    private void HoldFoot(int f, int side, Vector3 goal, Quaternion? held)
    {
        if (_ends[side].IsFree && _middles[side].IsFree && _ends[side].Offset == Vector3.Zero)
        {
            return;
        }

        var turns = TurnsAt(f);
        var places = PlacesAt(f);
        var limb = _limbs[side];
        var original = turns[limb.End];
        turns.CopyTo(_before);
        var shortfall = limb.Reach(turns, places, goal);
        Aim(f, side);
        var (place, turn) = _ends[side].At(f);
        turns[limb.End] = Kept(turns, limb, original, turn);
        turns[limb.End] = held is { } flat ? Rotations.Slerp(turns[limb.End], flat, place) : turns[limb.End];
        FollowThrough(f, limb);
        if (_contacts.Any(c => (c.Role == Limbs[side].End) && c.Start <= f && f <= c.End))
        {
            _errors[Limbs[side].End] = Math.Max(_errors[Limbs[side].End], shortfall * 1000);
        }
    }

    /// <summary>Head and spine.</summary>
    private void HoldBody(int f, Lean lean, float[][] within)
    {
        var turns = TurnsAt(f);
        var places = PlacesAt(f);
        var head = _target.IndexOf(BodyRole.Head);
        var looks = turns[head];
        var (place, turn) = _head.At(f);
        if (place > 0)
        {
            lean.Head(turns, places, _goals.Held(f, BodyRole.Head, looks), place);
        }

        if (within.Length == 2)
        {
            lean.Shoulders(turns, places, [HandGoal(f, 2), HandGoal(f, 3)], [within[0][f], within[1][f]]);
        }

        if ((place > 0 || within.Length == 2) && turn > 0)
        {
            lean.Look(turns, places, Rotations.Slerp(turns[head], looks, turn));
        }
    }

    /// <param name="original">The hand's turn from the performer alone, whatever the body has done since.</param>
    /// <param name="reach">No farther from the shoulder than this, metres.</param>
    private void HoldArm(int f, int arm, Quaternion original, float reach)
    {
        var limb = _limbs[arm];
        var (place, turn) = _ends[arm].At(f);
        var elbow = _middles[arm].At(f).Place;
        if (place <= 0 && elbow <= 0)
        {
            return;
        }

        var turns = TurnsAt(f);
        var places = PlacesAt(f);
        turns.CopyTo(_before);
        if (place <= 0)
        {
            limb.Draw(turns, places, _goals.Held(f, Limbs[arm].Lower, turns[limb.Joints.Lower]), elbow);
        }
        else
        {
            var role = Limbs[arm].End;
            var goal = Vector3.Lerp(places[limb.End], _goals.Held(f, role, original), place);
            var way = goal - places[limb.Root];
            var near = way.Length() > reach ? places[limb.Root] + (way * (reach / way.Length())) : goal;
            limb.Reach(turns, places, near);
            _errors[role] = Math.Max(_errors[role], Vector3.Distance(goal, places[limb.End]) * 1000);
            Aim(f, arm);
        }

        turns[limb.End] = Kept(turns, limb, original, turn);
        FollowThrough(f, limb);
    }

    /// <summary>Draws a knee or elbow to its own place where that is held as well.</summary>
    private void Aim(int f, int limb)
    {
        var share = _middles[limb].At(f).Place;
        if (share > 0)
        {
            var goal = _goals.Held(f, Limbs[limb].Lower, TurnsAt(f)[_limbs[limb].Joints.Lower]);
            _limbs[limb].Swivel(TurnsAt(f), PlacesAt(f), goal, share);
        }
    }

    /// <summary>The turn of a hand or foot between what its limb carries it to and what it was.</summary>
    private Quaternion Kept(Span<Quaternion> turns, LimbReach limb, Quaternion original, float share)
    {
        var (_, lower, end) = limb.Joints;
        var carried = Quaternion.Normalize(turns[lower] * Quaternion.Conjugate(_before[lower]) * _before[end]);
        return share >= 1 ? original : Rotations.Slerp(carried, original, share);
    }

    /// <summary>Joints that hang from a moved bone (twist joints, helpers) keep their turn against it; everything below the limb is placed anew.</summary>
    private void FollowThrough(int f, LimbReach limb)
    {
        var turns = TurnsAt(f);
        var places = PlacesAt(f);
        var (upper, lower, end) = limb.Joints;
        var foot = _target[end].Role is BodyRole.FootL or BodyRole.FootR;
        for (var j = upper + 1; j < _n; j++)
        {
            if (j == lower || !IsUnder(j, upper))
            {
                continue;
            }

            var p = _target.Parents[j];
            // Toes keep their turn in the world, fingers go with the hand.
            if (j != end && (!foot || !IsUnder(j, end)))
            {
                turns[j] = Quaternion.Normalize(turns[p] * (Quaternion.Conjugate(_before[p]) * _before[j]));
            }

            places[j] = places[p] + Vector3.Transform(_target[j].Offset, turns[p]);
        }
    }

    private (Motion, RetargetReport) Finish(BodyVolumes? volumes)
    {
        var motion = new Motion(_target, _source.FrameRate, _frames) { FirstFrame = _source.FirstFrame, Morphs = _source.Morphs };
        var pelvis = _target.IndexOf(BodyRole.Pelvis);
        for (var f = 0; f < _frames; f++)
        {
            ForwardKinematics.Local(_target, TurnsAt(f), motion.RotationsAt(f));
            var t = motion.TranslationsAt(f);
            var places = PlacesAt(f);
            for (var j = 0; j < _n; j++)
            {
                t[j] = _target[j].Offset;
            }

            var p = _target.Parents[pelvis];
            t[pelvis] = p < 0 ? places[pelvis] : Vector3.Transform(places[pelvis] - places[p], Quaternion.Conjugate(TurnsAt(f)[p]));
            for (var j = 0; f > 0 && j < _n; j++)
            {
                if (Quaternion.Dot(motion.Rotations[((f - 1) * _n) + j], motion.Rotations[(f * _n) + j]) < 0)
                {
                    motion.Rotations[(f * _n) + j] = -motion.Rotations[(f * _n) + j];
                }
            }
        }

        var turns = new Quaternion[_turns.Length];
        var world = ForwardKinematics.WorldPositions(motion, turns);
        var report = new RetargetReport(
            _scale,
            [.. _contacts.Select(c => Retargeter.Held(_target, c, world))],
            _errors,
            HoldDrift.Of(_goals, _target, world, turns, _frames),
            BendFinder.Find(_source, _sourceWorld, motion, world, _setup, _goals),
            FastestTurn.Of(_source.Skeleton, _sourceTurns, _target, turns),
            ClippingMeasure.Measure(motion, world, turns, volumes),
            []
        );
        return (
            motion,
            report with
            {
                Warnings = [.. RetargetWarnings.Of(report)],
                Findings = [.. RetargetFindings.Of(report, _setup, _source.FrameRate)],
            }
        );
    }
}
