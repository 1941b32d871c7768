using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>
/// A performer drives a character frame by frame, while it happens: turns between T-pose frames, travel scaled by the legs, and feet held where they
/// stand as far as the moment tells. Nothing waits for what comes next, so it adds no delay of its own.
/// </summary>
/// <remarks>Not thread-safe; one for each performer and character.</remarks>
public sealed class LiveRetarget
{
    /// <summary>A foot is planted below this speed and height above its rest, and free above the others: m/s, metres.</summary>
    private const float PlantedSpeed = 0.22f,
        FreeSpeed = 0.45f,
        PlantedHeight = 0.03f,
        FreeHeight = 0.05f;

    /// <summary>How long a held foot takes to go back to where the leg has it, seconds (time constant).</summary>
    private const float LetGo = 0.09f;

    /// <summary>A foot is not held farther than this from where the leg has it, metres.</summary>
    private const float Farthest = 0.15f;

    /// <summary>A gap in the frames longer than this begins anew, seconds.</summary>
    private const double Gap = 0.25;

    private readonly Skeleton _source;
    private readonly TurnTransfer _transfer;
    private readonly Leg[] _legs;
    private readonly Quaternion[] _sourceTurns;
    private readonly Vector3[] _sourcePlaces;
    private readonly Quaternion[] _turns;
    private readonly Vector3[] _places;
    private readonly Quaternion[] _local;
    private readonly float _sourceAnkle;
    private readonly float _targetAnkle;
    private readonly int _pelvis;
    private readonly int[] _body;
    private double _last = double.NaN;

    /// <param name="source">The performer's skeleton, with roles.</param>
    /// <param name="target">The character's, with roles.</param>
    public LiveRetarget(Skeleton source, Skeleton target)
    {
        (_source, Target) = (source, target);
        _transfer = new TurnTransfer(source, target, new RetargetSetup());
        Scale = _transfer.TargetLeg / _transfer.SourceLeg;
        _legs =
        [
            new(source, target, BodyRole.ThighL, BodyRole.ShinL, BodyRole.FootL),
            new(source, target, BodyRole.ThighR, BodyRole.ShinR, BodyRole.FootR),
        ];
        (_sourceTurns, _sourcePlaces) = (new Quaternion[source.Count], new Vector3[source.Count]);
        (_turns, _places, _local) = (new Quaternion[target.Count], new Vector3[target.Count], new Quaternion[target.Count]);
        _sourceAnkle = GroundLevel.AnkleHeight(source);
        _targetAnkle = GroundLevel.AnkleHeight(target);
        _pelvis = target.IndexOf(BodyRole.Pelvis);
        _body = target.Branch(_pelvis);
    }

    /// <summary>The character's skeleton.</summary>
    public Skeleton Target { get; }

    /// <summary>The character's legs against the performer's; the way through the room is as much longer.</summary>
    public float Scale { get; }

    /// <summary>Local turns of the character's joints after the last step.</summary>
    public ReadOnlyMemory<Quaternion> Turns => _local;

    /// <summary>Local place of the character's pelvis after the last step, metres.</summary>
    public Vector3 Root { get; private set; }

    /// <summary>Takes one frame of the performer.</summary>
    /// <param name="root">Place of the performer's pelvis.</param>
    /// <param name="turns">Local turns of the performer's joints.</param>
    /// <param name="seconds">When it was, on any clock that goes on.</param>
    public void Step(Vector3 root, ReadOnlySpan<Quaternion> turns, double seconds)
    {
        Stand(_source, root, turns);
        _transfer.Apply(_sourceTurns, _turns);
        var hips = (_sourcePlaces[_legs[0].SourceThigh] + _sourcePlaces[_legs[1].SourceThigh]) / 2;
        Place(Goal(hips));
        var step = double.IsNaN(_last) || seconds <= _last || seconds - _last > Gap ? 0 : (float)(seconds - _last);
        _last = seconds;
        foreach (var leg in _legs)
        {
            Hold(leg, step);
        }

        for (var j = 0; j < Target.Count; j++)
        {
            var p = Target.Parents[j];
            _local[j] = Quaternion.Normalize(p < 0 ? _turns[j] : Quaternion.Conjugate(_turns[p]) * _turns[j]);
        }

        var above = Target.Parents[_pelvis];
        Root = above < 0 ? _places[_pelvis] : Vector3.Transform(_places[_pelvis] - _places[above], Quaternion.Conjugate(_turns[above]));
    }

    /// <summary>World turns and places of the performer.</summary>
    private void Stand(Skeleton s, Vector3 root, ReadOnlySpan<Quaternion> turns)
    {
        for (var j = 0; j < s.Count; j++)
        {
            var p = s.Parents[j];
            _sourceTurns[j] = p < 0 ? turns[j] : _sourceTurns[p] * turns[j];
            _sourcePlaces[j] = p < 0 ? root : _sourcePlaces[p] + Vector3.Transform(s[j].Offset, _sourceTurns[p]);
        }
    }

    /// <summary>A place of the performer as the character takes it.</summary>
    private Vector3 Goal(Vector3 p) => new(p.X * Scale, ((p.Y - _sourceAnkle) * Scale) + _targetAnkle, p.Z * Scale);

    /// <summary>Stands the character so that the middle of its hips is at a place.</summary>
    private void Place(Vector3 hips)
    {
        for (var j = 0; j < Target.Count; j++)
        {
            var p = Target.Parents[j];
            _places[j] = p < 0 ? Target[j].Offset : _places[p] + Vector3.Transform(Target[j].Offset, _turns[p]);
        }

        var off = hips - ((_places[_legs[0].Thigh] + _places[_legs[1].Thigh]) / 2);
        // Joints above the pelvis stay where they are.
        foreach (var j in _body)
        {
            _places[j] += off;
        }
    }

    /// <summary>Holds a foot that stands where it came down; lets a free one go back to where the leg has it.</summary>
    private void Hold(Leg leg, float step)
    {
        var (ankle, own) = (_sourcePlaces[leg.SourceFoot], _places[leg.Foot]);
        var height = ankle.Y - _sourceAnkle;
        if (step <= 0)
        {
            (leg.Planted, leg.Off, leg.Speed) = (false, Vector3.Zero, 1);
        }
        else
        {
            var speed = (ankle - leg.Before).Length() / step;
            leg.Speed += (speed - leg.Speed) * MathF.Min(1, step / 0.03f);
            var was = leg.Planted;
            leg.Planted = leg.Planted ? leg.Speed < FreeSpeed && height < FreeHeight : leg.Speed < PlantedSpeed && height < PlantedHeight;
            if (leg.Planted && !was)
            {
                leg.Anchor = own + leg.Off;
            }

            leg.Off = leg.Planted ? leg.Anchor - own : leg.Off * MathF.Exp(-step / LetGo);
            if (leg.Planted && leg.Off.Length() > Farthest)
            {
                (leg.Planted, leg.Off) = (false, leg.Off * (Farthest / leg.Off.Length()));
            }
        }

        leg.Before = ankle;
        if (leg.Off.LengthSquared() > 1e-10f)
        {
            leg.Limb.Reach(_turns, _places, own + leg.Off);
        }
    }

    private sealed class Leg(Skeleton source, Skeleton target, BodyRole thigh, BodyRole shin, BodyRole foot)
    {
        public LimbReach Limb { get; } = new(target, thigh, shin, foot);

        public int SourceThigh { get; } = source.IndexOf(thigh);

        public int SourceFoot { get; } = source.IndexOf(foot);

        public int Thigh { get; } = target.IndexOf(thigh);

        public int Foot { get; } = target.IndexOf(foot);

        public bool Planted { get; set; }

        public Vector3 Anchor { get; set; }

        public Vector3 Off { get; set; }

        public Vector3 Before { get; set; }

        public float Speed { get; set; } = 1;
    }
}
