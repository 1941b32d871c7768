using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Geometry;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>One motion on its way to another skeleton: the buffers of all frames and the steps over them.</summary>
internal sealed class RetargetWork
{
    private static readonly (BodyRole Upper, BodyRole Lower, BodyRole End)[] Limbs =
    [
        (BodyRole.ThighL, BodyRole.ShinL, BodyRole.FootL),
        (BodyRole.ThighR, BodyRole.ShinR, BodyRole.FootR),
        (BodyRole.UpperArmL, BodyRole.ForearmL, BodyRole.HandL),
        (BodyRole.UpperArmR, BodyRole.ForearmR, BodyRole.HandR),
    ];

    private readonly Motion _source;
    private readonly Skeleton _target;
    private readonly RetargetSetup _setup;
    private readonly Vector3[] _sourceWorld;
    private readonly Quaternion[] _sourceTurns;
    private readonly IReadOnlyList<Contact> _contacts;
    private readonly TurnTransfer _transfer;
    private readonly int _n;
    private readonly int _frames;
    private readonly float _scale;
    private readonly Quaternion[] _turns;
    private readonly Vector3[] _places;
    private readonly LimbReach[] _limbs;
    private readonly Quaternion[] _before;
    private readonly List<string> _warnings = [];

    public RetargetWork(
        Motion source,
        Skeleton target,
        RetargetSetup setup,
        Vector3[] sourceWorld,
        Quaternion[] sourceTurns,
        IReadOnlyList<Contact> contacts
    )
    {
        (_source, _target, _setup, _sourceWorld, _sourceTurns) = (source, target, setup, sourceWorld, sourceTurns);
        _contacts = contacts.Where(c => target.IndexOf(c.Role) >= 0).ToList();
        _transfer = new TurnTransfer(source.Skeleton, target);
        _n = target.Count;
        _frames = source.FrameCount;
        _scale = _transfer.TargetLeg / _transfer.SourceLeg;
        _turns = new Quaternion[_frames * _n];
        _places = new Vector3[_frames * _n];
        _before = new Quaternion[_n];
        _limbs = Array.ConvertAll(Limbs, l => new LimbReach(target, l.Upper, l.Lower, l.End));
    }

    public (Motion, RetargetReport) Run(CancellationToken cancel, IProgress<double>? progress)
    {
        var hips = new Vector3[_frames];
        for (var f = 0; f < _frames; f++)
        {
            if ((f & 127) == 0)
            {
                cancel.ThrowIfCancellationRequested();
                progress?.Report(0.5 * f / _frames);
            }

            _transfer.Apply(_sourceTurns.AsSpan(f * _source.Skeleton.Count, _source.Skeleton.Count), TurnsAt(f));
            hips[f] = HipsGoal(f);
            PlaceFrom(f, hips[f]);
        }

        var holds = new[] { Plan(0), Plan(1) };
        KeepInReach(holds, hips);
        var errors = new Dictionary<BodyRole, double>
        {
            [BodyRole.HandL] = 0,
            [BodyRole.HandR] = 0,
            [BodyRole.FootL] = 0,
            [BodyRole.FootR] = 0,
        };
        for (var f = 0; f < _frames; f++)
        {
            if ((f & 127) == 0)
            {
                cancel.ThrowIfCancellationRequested();
                progress?.Report(0.5 + (0.4 * f / _frames));
            }

            PlaceFrom(f, hips[f]);
            for (var side = 0; side < 2; side++)
            {
                HoldFoot(f, side, holds[side], errors);
                HoldHand(f, side, errors);
            }
        }

        return Finish(errors);
    }

    private Span<Quaternion> TurnsAt(int f) => _turns.AsSpan(f * _n, _n);

    private Span<Vector3> PlacesAt(int f) => _places.AsSpan(f * _n, _n);

    private Vector3 SourceAt(int f, BodyRole role) => _sourceWorld[(f * _source.Skeleton.Count) + _source.Skeleton.IndexOf(role)];

    /// <summary>A place of the performer as the character should take it: travel scaled or kept, heights scaled and stood on the character's ankles.</summary>
    private Vector3 Goal(Vector3 p)
    {
        var travel = _setup.ScaleTravel ? _scale : 1;
        return new Vector3(
            p.X * travel,
            ((p.Y - AnkleHeight(_source.Skeleton)) * _scale) + AnkleHeight(_target) + _setup.FloorHeight,
            p.Z * travel
        );
    }

    /// <summary>Middle of the hip joints.</summary>
    private Vector3 HipsGoal(int f)
    {
        var feet = (SourceAt(f, BodyRole.ThighL) + SourceAt(f, BodyRole.ThighR)) / 2;
        return Goal(feet);
    }

    /// <summary>Height of the ankles over the floor at rest; the floor is at zero when the lowest joint is near it.</summary>
    internal static float AnkleHeight(Skeleton s)
    {
        var ankle = MathF.Min(s.RestPositions[s.IndexOf(BodyRole.FootL)].Y, s.RestPositions[s.IndexOf(BodyRole.FootR)].Y);
        var low = ankle;
        for (var j = 0; j < s.Count; j++)
        {
            low = MathF.Min(low, s.RestPositions[j].Y);
            if (s[j].EndSite is { } e)
            {
                low = MathF.Min(low, (s.RestPositions[j] + Vector3.Transform(e, s.RestRotations[j])).Y);
            }
        }

        return MathF.Abs(low) < 0.06f ? ankle : ankle - low;
    }

    /// <summary>World places from world turns, the middle of the hips at a place.</summary>
    private void PlaceFrom(int f, Vector3 hips)
    {
        var turns = TurnsAt(f);
        var places = PlacesAt(f);
        var pelvis = _target.IndexOf(BodyRole.Pelvis);
        for (var j = 0; j < _n; j++)
        {
            var p = _target.Parents[j];
            places[j] = p < 0 ? _target[j].Offset : places[p] + Vector3.Transform(_target[j].Offset, turns[p]);
        }

        var middle = (places[_target.IndexOf(BodyRole.ThighL)] + places[_target.IndexOf(BodyRole.ThighR)]) / 2;
        var shift = hips - middle;
        for (var j = 0; j < _n; j++)
        {
            if (j == pelvis || IsUnder(j, pelvis))
            {
                places[j] += shift;
            }
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

    private FootHold Plan(int side)
    {
        var (foot, toes) = side == 0 ? (BodyRole.FootL, BodyRole.ToesL) : (BodyRole.FootR, BodyRole.ToesR);
        var joint = _target.IndexOf(foot);
        var toe = _target.IndexOf(toes);
        var ankle = new Vector3[_frames];
        var goal = new Vector3[_frames];
        var turns = new Quaternion[_frames];
        for (var f = 0; f < _frames; f++)
        {
            ankle[f] = _places[(f * _n) + joint];
            turns[f] = _turns[(f * _n) + joint];
            goal[f] = Goal(SourceAt(f, foot));
        }

        var hold = new FootHold(foot, _frames, _source.FrameRate);
        if (_setup.Place.GetValueOrDefault(foot, 1) > 0)
        {
            hold.Plan(_contacts, ankle, turns, toe >= 0 ? _target[toe].Offset : null, goal);
        }

        return hold;
    }

    /// <summary>Lowers the hips, smoothly, where a planted foot would be out of the leg's reach.</summary>
    private void KeepInReach(FootHold[] holds, Vector3[] hips)
    {
        var drop = new float[_frames];
        for (var f = 0; f < _frames; f++)
        {
            var places = PlacesAt(f);
            for (var side = 0; side < 2; side++)
            {
                var limb = _limbs[side];
                var hip = places[limb.Root];
                var goal = places[limb.End] + holds[side].Offset[f];
                var reach = limb.Length(places) * 0.9995f;
                var d = goal - hip;
                var flat = (d.X * d.X) + (d.Z * d.Z);
                if (d.LengthSquared() > reach * reach && flat < reach * reach)
                {
                    drop[f] = MathF.Max(drop[f], -d.Y - MathF.Sqrt((reach * reach) - flat));
                }
            }
        }

        var smooth = SmoothUpper(drop, Math.Max(2, (int)(_source.FrameRate * 0.08)));
        for (var f = 0; f < _frames; f++)
        {
            hips[f] -= new Vector3(0, smooth[f], 0);
        }
    }

    /// <summary>A smooth curve that is nowhere below the given one: a running maximum, then a moving mean twice.</summary>
    private static float[] SmoothUpper(float[] values, int radius)
    {
        var n = values.Length;
        if (Array.TrueForAll(values, v => v <= 0))
        {
            return values;
        }

        var max = new float[n];
        for (var i = 0; i < n; i++)
        {
            for (var k = Math.Max(0, i - (2 * radius)); k <= Math.Min(n - 1, i + (2 * radius)); k++)
            {
                max[i] = MathF.Max(max[i], values[k]);
            }
        }

        for (var pass = 0; pass < 2; pass++)
        {
            var mean = new float[n];
            for (var i = 0; i < n; i++)
            {
                float sum = 0;
                for (var k = i - radius; k <= i + radius; k++)
                {
                    sum += max[Math.Clamp(k, 0, n - 1)];
                }

                mean[i] = sum / ((2 * radius) + 1);
            }

            max = mean;
        }

        return max;
    }

    private void HoldFoot(int f, int side, FootHold hold, Dictionary<BodyRole, double> errors)
    {
        var turns = TurnsAt(f);
        var places = PlacesAt(f);
        var limb = _limbs[side];
        var foot = limb.End;
        var original = ((f * _n) + foot, turns[foot]);
        var weight = _setup.Place.GetValueOrDefault(Limbs[side].End, 1);
        if (weight <= 0)
        {
            return;
        }

        // The plan was made on the transferred ankle; the hips may have sunk since, so the goal is rebuilt from the hips' own shift.
        var goal = TransferredAnkle(f, side) + (hold.Offset[f] * weight);
        turns.CopyTo(_before);
        var shortfall = limb.Reach(turns, places, goal);
        turns[foot] = hold.Turn[f] is { } turn ? Rotations.Slerp(original.Item2, turn, weight) : original.Item2;
        FollowThrough(f, limb);
        if (_contacts.Any(c => (c.Role == Limbs[side].End) && c.Start <= f && f <= c.End))
        {
            errors[Limbs[side].End] = Math.Max(errors[Limbs[side].End], shortfall * 1000);
        }
    }

    private Vector3 TransferredAnkle(int f, int side)
    {
        // Hips as transferred plus the leg as transferred: independent of any later lowering.
        var limb = _limbs[side];
        var places = PlacesAt(f);
        var middle = (places[_limbs[0].Root] + places[_limbs[1].Root]) / 2;
        return places[limb.End] + (HipsGoal(f) - middle);
    }

    private void HoldHand(int f, int side, Dictionary<BodyRole, double> errors)
    {
        var role = Limbs[side + 2].End;
        var weight = _setup.Place.GetValueOrDefault(role, 0);
        if (weight <= 0)
        {
            return;
        }

        var limb = _limbs[side + 2];
        var turns = TurnsAt(f);
        var places = PlacesAt(f);
        var hand = turns[limb.End];
        var goal = Vector3.Lerp(places[limb.End], Goal(SourceAt(f, role)), weight);
        turns.CopyTo(_before);
        var shortfall = limb.Reach(turns, places, goal);
        turns[limb.End] = hand;
        FollowThrough(f, limb);
        errors[role] = Math.Max(errors[role], shortfall * 1000);
    }

    /// <summary>Joints that hang from a moved bone (twist joints, helpers) keep their turn against it; everything below the limb is placed anew.</summary>
    private void FollowThrough(int f, LimbReach limb)
    {
        var turns = TurnsAt(f);
        var places = PlacesAt(f);
        var (upper, lower, end) = limb.Joints;
        for (var j = upper + 1; j < _n; j++)
        {
            if (j == lower || !IsUnder(j, upper))
            {
                continue;
            }

            var p = _target.Parents[j];
            if (j != end && !IsUnder(j, end))
            {
                turns[j] = Quaternion.Normalize(turns[p] * (Quaternion.Conjugate(_before[p]) * _before[j]));
            }

            places[j] = places[p] + Vector3.Transform(_target[j].Offset, turns[p]);
        }
    }

    private (Motion, RetargetReport) Finish(Dictionary<BodyRole, double> errors)
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

        var world = ForwardKinematics.WorldPositions(motion);
        var held = _contacts.Select(c => Retargeter.Held(_target, c, world)).ToList();
        if (errors[BodyRole.FootL] > 1 || errors[BodyRole.FootR] > 1)
        {
            _warnings.Add(
                $"a planted foot stays {Math.Max(errors[BodyRole.FootL], errors[BodyRole.FootR]):0} mm short of its place: the leg is not long enough there"
            );
        }

        return (motion, new RetargetReport(_scale, held, errors, Drift(world), ClippingMeasure.Measure(motion, world), _warnings));
    }

    private Dictionary<BodyRole, float[]> Drift(Vector3[] world) =>
        new[] { BodyRole.HandL, BodyRole.HandR, BodyRole.FootL, BodyRole.FootR }.ToDictionary(
            r => r,
            r =>
            {
                var joint = _target.IndexOf(r);
                return Enumerable.Range(0, _frames).Select(f => (world[(f * _n) + joint] - Goal(SourceAt(f, r))).Length() * 1000).ToArray();
            }
        );
}
