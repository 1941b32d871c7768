using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Video;

/// <summary>Where the points that a body tracker names are on a body of usual build.</summary>
public static class FilmPoints
{
    /// <summary>
    /// Name, the joint that carries it, its place against the joint as a share of the stature (T-pose, facing +Z), and how far it may be off on a
    /// person, metres.
    /// </summary>
    public static IReadOnlyList<FilmPoint> All { get; } =
    [
        new("Crown", BodyRole.Head, new(0, .102f, .004f), 0.02f),
        new("Nose", BodyRole.Head, new(0, .034f, .060f), 0.015f),
        new("EarL", BodyRole.Head, new(.043f, .042f, .002f), 0.015f),
        new("EarR", BodyRole.Head, new(-.043f, .042f, .002f), 0.015f),
        new("Neck", BodyRole.Neck, default, 0.01f),
        new("Chest", BodyRole.Chest, default, 0.015f),
        new("Pelvis", BodyRole.Pelvis, default, 0.01f),
        .. Side("L", 1),
        .. Side("R", -1),
    ];

    private static IEnumerable<FilmPoint> Side(string side, float sign)
    {
        BodyRole Of(string stem) => Enum.Parse<BodyRole>(stem + side);
        yield return new($"Shoulder{side}", Of("UpperArm"), default, 0.01f);
        yield return new($"Elbow{side}", Of("Forearm"), default, 0.005f);
        yield return new($"Wrist{side}", Of("Hand"), default, 0.005f);
        yield return new($"Knuckle{side}", Of("Hand"), new(.050f * sign, 0, 0), 0.015f);
        yield return new($"Index{side}1", Of("Hand"), new(.046f * sign, 0, .012f), 0.02f);
        yield return new($"Little{side}1", Of("Hand"), new(.042f * sign, 0, -.016f), 0.02f);
        yield return new($"Hip{side}", Of("Thigh"), default, 0.01f);
        yield return new($"Knee{side}", Of("Shin"), default, 0.005f);
        yield return new($"Ankle{side}", Of("Foot"), default, 0.005f);
        yield return new($"Heel{side}", Of("Foot"), new(0, -.030f, -.030f), 0.015f);
        yield return new($"Toe{side}", Of("Toes"), new(0, -.002f, .034f), 0.015f);
    }
}
