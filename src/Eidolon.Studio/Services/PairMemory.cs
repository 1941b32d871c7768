using System.Collections.Concurrent;
using Eidolon.Core.Quality;

namespace Eidolon.Studio.Services;

/// <summary>The last few pairs.</summary>
public sealed class PairMemory
{
    private const int Most = 4;

    private readonly ConcurrentQueue<((UInt128, UInt128, Laying, string) Key, Lazy<SolvePair> Pair)> _known = new();

    internal SolvePair Of((UInt128, UInt128, Laying, string) key, Func<SolvePair> make)
    {
        if (_known.FirstOrDefault(k => k.Key == key) is { Pair: { } known })
        {
            return known.Value;
        }

        var pair = new Lazy<SolvePair>(make);
        _known.Enqueue((key, pair));
        while (_known.Count > Most)
        {
            _known.TryDequeue(out _);
        }

        return pair.Value;
    }
}
