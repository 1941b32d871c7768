using Eidolon.Core.Cleaning;
using Eidolon.Core.Inertial;
using Eidolon.Core.Markers;
using Eidolon.Core.Optical;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Video;

namespace Eidolon.Core.Operations;

/// <summary>What a node of a Ledger gives.</summary>
public abstract record NodeValue
{
    private protected NodeValue() { }

    /// <summary>Frames of the value.</summary>
    public abstract int FrameCount { get; }
}

/// <summary>Markers with what a person and the automatic labels decided about their names.</summary>
public sealed record MarkerValue(MarkerTake Take) : NodeValue
{
    /// <summary>Names given by hand, each for the frames of the dot that got it; no pass changes them.</summary>
    public IReadOnlyList<PinnedLabel> Pinned { get; init; } = [];

    /// <summary>Names that the automatic labels gave; the next pass may give them anew.</summary>
    public IReadOnlyList<string> Automatic { get; init; } = [];

    /// <summary>Frames of the markers.</summary>
    public override int FrameCount => Take.FrameCount;
}

/// <summary>A motion, and what a person decided about when its feet, hands and knees are planted.</summary>
public sealed record MotionValue(Motion Motion) : NodeValue
{
    /// <summary>A person's word about contacts.</summary>
    public IReadOnlyList<ContactEdit> Contacts { get; init; } = [];

    /// <summary>Frames of the motion.</summary>
    public override int FrameCount => Motion.FrameCount;
}

/// <summary>What a suit's sensors measured: a solve stands on it.</summary>
public sealed record SuitValue(SuitTake Take) : NodeValue
{
    /// <summary>A person's word about contacts: the way through the room is made of them.</summary>
    public IReadOnlyList<ContactEdit> Contacts { get; init; } = [];

    /// <summary>Frames of the recording.</summary>
    public override int FrameCount => Take.FrameCount;
}

/// <summary>What trackers saw of a performer in one to three films: a solve stands on it.</summary>
/// <param name="Cameras">One a film, in the same order; one that is not placed is placed when it is solved.</param>
public sealed record FilmValue(IReadOnlyList<FilmTake> Films, IReadOnlyList<CameraModel> Cameras) : NodeValue
{
    /// <summary>Points that a person put right, in the order it was done.</summary>
    public IReadOnlyList<FilmFix> Fixes { get; init; } = [];

    /// <summary>A person's word about contacts, in frames of the first film.</summary>
    public IReadOnlyList<ContactEdit> Contacts { get; init; } = [];

    /// <summary>Frames of the first film.</summary>
    public override int FrameCount => Films[0].FrameCount;
}

/// <summary>
/// A performance that was recorded in more than one way: a solve is made from one of them at a time, and stands on the take's own clock. Markers,
/// where there are any, are what the node stands on.
/// </summary>
/// <param name="Suit">What the suit measured; null where none was worn.</param>
/// <param name="Films">What trackers saw in films; null where there are none.</param>
/// <param name="FrameRate">Of the take, frames a second.</param>
/// <param name="Frames">Of the take.</param>
public sealed record RecordedValue(SuitValue? Suit, FilmValue? Films, double FrameRate, int Frames) : NodeValue
{
    /// <summary>A person's word about contacts, in frames of the take.</summary>
    public IReadOnlyList<ContactEdit> Contacts { get; init; } = [];

    /// <summary>Frames of the take.</summary>
    public override int FrameCount => Frames;
}

/// <summary>Where a prop is.</summary>
public sealed record PlacesValue(PropPlaces Places) : NodeValue
{
    /// <summary>Frames of the places.</summary>
    public override int FrameCount => Places.FrameCount;
}
