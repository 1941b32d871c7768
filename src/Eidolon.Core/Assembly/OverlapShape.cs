using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>How an overlap goes from the earlier clip to the later one.</summary>
public enum BlendShape
{
    /// <summary>Slowly, fast, slowly: minimum jerk.</summary>
    Smooth,

    /// <summary>As much in every frame.</summary>
    Even,

    /// <summary>Most of it at the beginning.</summary>
    Early,

    /// <summary>Most of it at the end.</summary>
    Late,
}

/// <summary>A part of the body that can go over at a time of its own; legs go with their feet.</summary>
public enum BlendPart
{
    /// <summary>Pelvis, spine and chest, and everything that has no part of its own.</summary>
    Trunk,

    /// <summary>Neck and head.</summary>
    Head,

    /// <summary>The left arm with its hand.</summary>
    ArmL,

    /// <summary>The right arm with its hand.</summary>
    ArmR,
}

/// <summary>The way of an overlap over its length, part by part.</summary>
/// <param name="Parts">Share of the overlap in which a part goes over, from and to, 0 to 1; a part that is not named takes all of it.</param>
public sealed record OverlapShape(BlendShape Shape, IReadOnlyDictionary<BlendPart, (float From, float To)> Parts)
{
    /// <summary>How much faster than even an early or late one begins or ends.</summary>
    private const float Lean = 1.6f;

    /// <summary>Slowly, fast, slowly, all parts at once.</summary>
    public static OverlapShape Usual { get; } = new(BlendShape.Smooth, new Dictionary<BlendPart, (float, float)>());

    /// <summary>How far a part has gone over, 0 to 1.</summary>
    /// <param name="along">How much of the overlap has passed, 0 to 1.</param>
    public float Weight(BlendPart part, float along)
    {
        var (from, to) = Parts.TryGetValue(part, out var range) ? range : (0, 1);
        var u = Math.Clamp((along - from) / Math.Max(1e-6f, to - from), 0, 1);
        return Shape switch
        {
            BlendShape.Even => u,
            BlendShape.Early => CubicSpline.MinimumJerk(1 - MathF.Pow(1 - u, Lean)),
            BlendShape.Late => CubicSpline.MinimumJerk(MathF.Pow(u, Lean)),
            _ => CubicSpline.MinimumJerk(u),
        };
    }

    /// <summary>The part that each joint of a skeleton belongs to; one without a role goes with the joint above it.</summary>
    public static BlendPart[] PartsOf(Skeleton s)
    {
        var parts = new BlendPart[s.Count];
        for (var j = 0; j < s.Count; j++)
        {
            parts[j] =
                s[j].Role is { } role
                    ? BodyRoles.Section(role) switch
                    {
                        BodySection.Head => BlendPart.Head,
                        BodySection.Arm or BodySection.Hand => BodyRoles.Side(role) == 'L' ? BlendPart.ArmL : BlendPart.ArmR,
                        _ => BlendPart.Trunk,
                    }
                : s.Parents[j] >= 0 ? parts[s.Parents[j]]
                : BlendPart.Trunk;
        }

        return parts;
    }
}
