using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>Where in an overlap two clips meet.</summary>
public enum MeetMoment
{
    /// <summary>At its first frame.</summary>
    Start,

    /// <summary>Half way.</summary>
    Middle,

    /// <summary>At its last frame.</summary>
    End,
}

/// <summary>How much of a place the later clip takes from the earlier one.</summary>
public enum MeetPlace
{
    /// <summary>On the floor; its height stays its own.</summary>
    Floor,

    /// <summary>With height, as for steps.</summary>
    Full,

    /// <summary>None: it stays where it is.</summary>
    None,
}

/// <summary>How much of a turn the later clip takes from the earlier one.</summary>
public enum MeetTurn
{
    /// <summary>About the vertical alone.</summary>
    Heading,

    /// <summary>All of it, which can tilt the whole clip.</summary>
    Full,

    /// <summary>None.</summary>
    None,
}

/// <summary>How a later clip is laid on the one before it: at which joint, when, and how far.</summary>
/// <param name="Joint">Null for the best one: a foot that stands in both, otherwise all joints together.</param>
public sealed record Meet(
    BodyRole? Joint = null,
    MeetMoment Moment = MeetMoment.Middle,
    MeetPlace Place = MeetPlace.Floor,
    MeetTurn Turn = MeetTurn.Heading
)
{
    /// <summary>The frame of the overlap at which they meet, instead of <see cref="Moment"/>; counted from 0. Null for that.</summary>
    public int? Frame { get; init; }

    /// <summary>The frame of an overlap of so many frames at which they meet.</summary>
    public int At(int length) =>
        Frame is { } frame
            ? Math.Clamp(frame, 0, length - 1)
            : Moment switch
            {
                MeetMoment.Start => 0,
                MeetMoment.End => length - 1,
                _ => length / 2,
            };

    /// <summary>What is done when nothing is said.</summary>
    public static Meet Best { get; } = new();
}
