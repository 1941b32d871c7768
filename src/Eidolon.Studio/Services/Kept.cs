using System.Collections.Concurrent;

namespace Eidolon.Studio.Services;

/// <summary>The last so many of one kind; each is worked out once, however many ask for it at the same time.</summary>
internal sealed class Kept<TKey, T>(int most)
    where TKey : notnull
{
    private readonly ConcurrentDictionary<TKey, Lazy<T>> _known = new();
    private readonly ConcurrentQueue<TKey> _order = new();

    public bool Has(TKey key) => _known.TryGetValue(key, out var lazy) && lazy.IsValueCreated;

    public T Of(TKey key, Func<T> work)
    {
        var lazy = _known.GetOrAdd(key, _ =>
        {
            _order.Enqueue(key);
            return new Lazy<T>(work);
        });
        while (_order.Count > most && _order.TryDequeue(out var oldest))
        {
            _known.TryRemove(oldest, out _);
        }

        return lazy.Value;
    }
}
