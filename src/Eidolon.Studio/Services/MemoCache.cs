namespace Eidolon.Studio.Services;

/// <summary>
/// Results by what they were made of, up to a number of bytes, least recently used first out. Each is worked out once, however many ask for it at the
/// same time; one that failed is not kept: whoever asks next tries again.
/// </summary>
/// <param name="most">Bytes of results; the one used last always stays.</param>
/// <param name="size">Bytes of a result; what it takes beside its samples is added.</param>
internal sealed class MemoCache<TKey, T>(long most, Func<T, long>? size = null)
    where TKey : notnull
{
    /// <summary>Bytes of a key and of what holds an entry.</summary>
    private const long Each = 512;

    private readonly Lock _lock = new();
    private readonly Dictionary<TKey, LinkedListNode<Entry>> _known = [];
    private readonly LinkedList<Entry> _order = new();
    private long _bytes;

    /// <summary>Bytes of results that are kept now.</summary>
    public long Bytes
    {
        get
        {
            lock (_lock)
            {
                return _bytes;
            }
        }
    }

    /// <summary>It is there, worked out.</summary>
    public bool Has(TKey key)
    {
        lock (_lock)
        {
            return _known.TryGetValue(key, out var node) && node.Value.Work.IsValueCreated;
        }
    }

    /// <exception cref="Exception">Whatever the work throws; nothing is kept of it then.</exception>
    public T Of(TKey key, Func<T> work)
    {
        var entry = Find(key, work);
        try
        {
            var value = entry.Work.Value;
            Keep(entry, value);
            return value;
        }
        catch
        {
            Forget(entry);
            throw;
        }
    }

    private Entry Find(TKey key, Func<T> work)
    {
        lock (_lock)
        {
            if (_known.TryGetValue(key, out var node))
            {
                _order.Remove(node);
                _order.AddFirst(node);
            }
            else
            {
                _known[key] = node = _order.AddFirst(new Entry(key, new Lazy<T>(work)));
            }

            return node.Value;
        }
    }

    private void Keep(Entry entry, T value)
    {
        lock (_lock)
        {
            if (entry.Bytes > 0 || !_known.TryGetValue(entry.Key, out var node) || node.Value != entry)
            {
                return;
            }

            entry.Bytes = Each + (size?.Invoke(value) ?? 0);
            _bytes += entry.Bytes;
            for (var last = _order.Last; _bytes > most && last is not null && last != _order.First; )
            {
                var before = last.Previous;
                // What is still being worked out has no size yet, and stays.
                if (last.Value.Bytes > 0 && last.Value != entry)
                {
                    Drop(last);
                }

                last = before;
            }
        }
    }

    private void Forget(Entry entry)
    {
        lock (_lock)
        {
            if (_known.TryGetValue(entry.Key, out var node) && node.Value == entry)
            {
                Drop(node);
            }
        }
    }

    private void Drop(LinkedListNode<Entry> node)
    {
        _order.Remove(node);
        _known.Remove(node.Value.Key);
        _bytes -= node.Value.Bytes;
    }

    private sealed class Entry(TKey key, Lazy<T> work)
    {
        public TKey Key => key;

        public Lazy<T> Work => work;

        public long Bytes { get; set; }
    }
}
