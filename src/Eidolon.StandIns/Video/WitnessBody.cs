using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.StandIns.Video;

/// <summary>Where the points of a witness camera's tracker are on a body.</summary>
internal static class WitnessBody
{
    /// <summary>Body points: name, joint, place against the joint as a share of the stature.</summary>
    public static IReadOnlyList<(string Name, BodyRole Joint, Vector3 Offset)> Body { get; } =
    [
        ("Crown", BodyRole.Head, new(0, .10f, 0)),
        ("Nose", BodyRole.Head, new(0, .035f, .062f)),
        ("EarL", BodyRole.Head, new(.043f, .045f, 0)),
        ("EarR", BodyRole.Head, new(-.043f, .045f, 0)),
        ("Neck", BodyRole.Neck, default),
        ("Chest", BodyRole.Chest, default),
        ("Pelvis", BodyRole.Pelvis, default),
        ("ShoulderL", BodyRole.UpperArmL, default),
        ("ShoulderR", BodyRole.UpperArmR, default),
        ("ElbowL", BodyRole.ForearmL, default),
        ("ElbowR", BodyRole.ForearmR, default),
        ("WristL", BodyRole.HandL, default),
        ("WristR", BodyRole.HandR, default),
        ("KnuckleL", BodyRole.HandL, new(.05f, 0, 0)),
        ("KnuckleR", BodyRole.HandR, new(-.05f, 0, 0)),
        ("HipL", BodyRole.ThighL, default),
        ("HipR", BodyRole.ThighR, default),
        ("KneeL", BodyRole.ShinL, default),
        ("KneeR", BodyRole.ShinR, default),
        ("AnkleL", BodyRole.FootL, default),
        ("AnkleR", BodyRole.FootR, default),
        ("HeelL", BodyRole.FootL, new(0, -.03f, -.03f)),
        ("HeelR", BodyRole.FootR, new(0, -.03f, -.03f)),
        ("ToeL", BodyRole.ToesL, new(0, 0, .035f)),
        ("ToeR", BodyRole.ToesR, new(0, 0, .035f)),
    ];
}
