using Eidolon.Core.Quality;

namespace Eidolon.Studio.Services;

/// <summary>The last few pairs of solves that were compared.</summary>
public sealed class PairMemory
{
    /// <summary>Bytes: some pairs of ten minutes.</summary>
    private const long Most = 200_000_000;

    private readonly MemoCache<(UInt128 A, UInt128 B, Laying Laying, string Keys), SolvePair> _pairs = new(Most, p => p.Bytes);

    internal SolvePair Of((UInt128 A, UInt128 B, Laying Laying, string Keys) key, Func<SolvePair> work) => _pairs.Of(key, work);
}
