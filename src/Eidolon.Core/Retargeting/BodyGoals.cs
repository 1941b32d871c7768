using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>Places of the performer as the character takes them: travel scaled or kept, heights scaled and stood on the character's own feet.</summary>
internal sealed class BodyGoals(Motion source, Skeleton target, RetargetSetup setup, Vector3[] world, float ground, float scale)
{
    private readonly float _sourceAnkle = GroundLevel.AnkleHeight(source.Skeleton) + ground;
    private readonly float _targetAnkle = GroundLevel.AnkleHeight(target) + setup.FloorHeight;
    private readonly float _travel = setup.ScaleTravel ? scale : 1;

    /// <summary>Where a part of the performer is, metres.</summary>
    public Vector3 Source(int frame, BodyRole role) => world[(frame * source.Skeleton.Count) + source.Skeleton.IndexOf(role)];

    /// <summary>Where that part of the character belongs.</summary>
    public Vector3 Of(int frame, BodyRole role) => Of(Source(frame, role));

    /// <summary>Where the middle of the character's hips belongs.</summary>
    public Vector3 Hips(int frame) => Of((Source(frame, BodyRole.ThighL) + Source(frame, BodyRole.ThighR)) / 2);

    /// <summary>How high something the performer stands on is for the character, metres.</summary>
    /// <param name="level">Over the performer's ground.</param>
    public float Level(float level) => (level * scale) + setup.FloorHeight;

    private Vector3 Of(Vector3 p) => new(p.X * _travel, ((p.Y - _sourceAnkle) * scale) + _targetAnkle, p.Z * _travel);
}
