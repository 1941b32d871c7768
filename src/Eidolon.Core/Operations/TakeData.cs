using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Operations;

/// <summary>What a take holds after some of its Ledger: markers, the performer's motion, the character's motion. Later ones are null until their step ran.</summary>
public sealed record TakeData(MarkerTake? Markers, Motion? Performer = null, Motion? Character = null, string? CharacterName = null)
{
    /// <summary>What a person has decided about contacts, in order; it outlives every new solve.</summary>
    public IReadOnlyList<ContactEdit> Contacts { get; init; } = [];

    /// <summary>Names given by hand, each for the frames of the dot that got it; no pass changes them.</summary>
    public IReadOnlyList<PinnedLabel> Pinned { get; init; } = [];

    /// <summary>Names that the automatic labels gave; the next pass may give them anew.</summary>
    public IReadOnlyList<string> Automatic { get; init; } = [];

    /// <summary>The motion furthest along.</summary>
    public Motion? Final => Character ?? Performer;

    /// <summary>New markers: motions made from the old ones are gone, decisions stay.</summary>
    public TakeData With(MarkerTake markers) =>
        new(markers)
        {
            Contacts = Contacts,
            Pinned = Pinned,
            Automatic = Automatic,
        };
}
