using Eidolon.Core.Skeletons;

namespace Eidolon.Studio.Lanes;

/// <summary>The parts of a character that can be held, as a person calls them.</summary>
internal static class HoldParts
{
    /// <summary>Left and right of each, from the hands down, and whether a Turn belongs to it.</summary>
    public static IReadOnlyList<(BodyRole Left, BodyRole Right, bool Turns)> Pairs { get; } =
    [
        (BodyRole.HandL, BodyRole.HandR, true),
        (BodyRole.ForearmL, BodyRole.ForearmR, false),
        (BodyRole.ShinL, BodyRole.ShinR, false),
        (BodyRole.FootL, BodyRole.FootR, true),
    ];

    /// <summary>Hand, Elbow, Knee, Foot, Head.</summary>
    public static string Name(BodyRole role) =>
        role switch
        {
            BodyRole.ForearmL or BodyRole.ForearmR => "Elbow",
            BodyRole.ShinL or BodyRole.ShinR => "Knee",
            BodyRole.Head => "Head",
            _ => role.ToString()[..^1],
        };
}
