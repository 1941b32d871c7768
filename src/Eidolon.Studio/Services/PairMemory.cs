using Eidolon.Core.Quality;

namespace Eidolon.Studio.Services;

/// <summary>The last few pairs of solves that were compared.</summary>
public sealed class PairMemory
{
    private const int Most = 4;

    private readonly Kept<(UInt128 A, UInt128 B, Laying Laying, string Keys), SolvePair> _pairs = new(Most);

    internal SolvePair Of((UInt128 A, UInt128 B, Laying Laying, string Keys) key, Func<SolvePair> work) => _pairs.Of(key, work);
}
