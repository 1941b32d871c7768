using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>Places of the performer as the character takes them: travel scaled or kept, heights scaled and stood on the character's own feet.</summary>
internal sealed class BodyGoals
{
    private readonly Skeleton _source;
    private readonly Skeleton _target;
    private readonly RetargetSetup _setup;
    private readonly Vector3[] _world;
    private readonly TPose _pose;
    private readonly float _sourceAnkle;
    private readonly float _targetAnkle;
    private readonly float _travel;

    /// <param name="world">World places of the performer's joints, all frames.</param>
    /// <param name="ground">How much higher the performer stands than at rest, metres.</param>
    public BodyGoals(Motion source, Skeleton target, RetargetSetup setup, Vector3[] world, float ground)
    {
        (_source, _target, _setup, _world) = (source.Skeleton, target, setup, world);
        _pose = TPose.Of(target);
        Scale = TurnTransfer.Leg(target) / TurnTransfer.Leg(source.Skeleton);
        _sourceAnkle = GroundLevel.AnkleHeight(source.Skeleton) + ground;
        _targetAnkle = GroundLevel.AnkleHeight(target) + setup.FloorHeight;
        _travel = setup.ScaleTravel ? Scale : 1;
    }

    /// <summary>The character's legs over the performer's.</summary>
    public float Scale { get; }

    /// <summary>Where a part of the character belongs.</summary>
    public Vector3 Of(int frame, BodyRole role) => Of(Source(frame, role));

    /// <summary>Where a part is held to at 100 %, with its offset.</summary>
    /// <param name="turn">Its turn in the world.</param>
    public Vector3 Held(int frame, BodyRole role, Quaternion turn) => Of(frame, role) + Offset(role, turn);

    /// <summary>The offset of a part, given in its own axes as they lie in the T-pose, turned along with it.</summary>
    public Vector3 Offset(BodyRole role, Quaternion turn)
    {
        var offset = _setup.Hold(role).Offset;
        return offset == Vector3.Zero ? offset : Vector3.Transform(offset, turn * Quaternion.Conjugate(_pose.Turns[_target.IndexOf(role)]));
    }

    /// <summary>Where the middle of the character's hips belongs.</summary>
    public Vector3 Hips(int frame) => Of((Source(frame, BodyRole.ThighL) + Source(frame, BodyRole.ThighR)) / 2);

    /// <summary>How high something the performer stands on is for the character, metres.</summary>
    /// <param name="level">Over the performer's ground.</param>
    public float Level(float level) => (level * Scale) + _setup.FloorHeight;

    private Vector3 Source(int frame, BodyRole role) => _world[(frame * _source.Count) + _source.IndexOf(role)];

    private Vector3 Of(Vector3 p) => new(p.X * _travel, ((p.Y - _sourceAnkle) * Scale) + _targetAnkle, p.Z * _travel);
}
