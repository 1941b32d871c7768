using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Operations;

/// <summary>What a take holds after some of its Ledger: markers, the performer's motion, the character's motion. Later ones are null until their step ran.</summary>
public sealed record TakeData(MarkerTake? Markers, Motion? Performer = null, Motion? Character = null, string? CharacterName = null)
{
    /// <summary>The motion furthest along.</summary>
    public Motion? Final => Character ?? Performer;
}
