using Eidolon.Core.Operations;

namespace Eidolon.Storage.Results;

/// <summary>The values used last, up to a number of bytes: a long take must not push the studio out of memory.</summary>
/// <param name="most">Bytes of samples; the value used last always stays.</param>
public sealed class ValueMemory(long most)
{
    private readonly Lock _lock = new();
    private readonly Dictionary<UInt128, LinkedListNode<(UInt128 Content, NodeValue Value, long Bytes)>> _known = [];
    private readonly LinkedList<(UInt128 Content, NodeValue Value, long Bytes)> _order = new();

    /// <summary>Bytes of samples held now.</summary>
    public long Bytes { get; private set; }

    public int Count
    {
        get
        {
            lock (_lock)
            {
                return _order.Count;
            }
        }
    }

    public bool Has(UInt128 content)
    {
        lock (_lock)
        {
            return _known.ContainsKey(content);
        }
    }

    public NodeValue? Find(UInt128 content)
    {
        lock (_lock)
        {
            if (!_known.TryGetValue(content, out var node))
            {
                return null;
            }

            _order.Remove(node);
            _order.AddFirst(node);
            return node.Value.Value;
        }
    }

    public void Keep(UInt128 content, NodeValue value)
    {
        lock (_lock)
        {
            if (_known.ContainsKey(content))
            {
                return;
            }

            var bytes = Size(value);
            _known[content] = _order.AddFirst((content, value, bytes));
            Bytes += bytes;
            while (Bytes > most && _order.Count > 1)
            {
                var (oldest, _, size) = _order.Last!.Value;
                _order.RemoveLast();
                _known.Remove(oldest);
                Bytes -= size;
            }
        }
    }

    /// <summary>Bytes a value takes in memory.</summary>
    public static long Size(NodeValue value) =>
        1024
        + value switch
        {
            MarkerValue m => 12L * m.Take.Positions.Length,
            MotionValue m => 28L * m.Motion.Rotations.Length,
            PlacesValue p => 28L * p.Places.FrameCount,
            SuitValue s => 4L * s.Take.Samples.Length,
            FilmValue f => f.Films.Sum(t => 4L * t.Values.Length),
            RecordedValue r => (r.Suit is { } s ? Size(s) : 0) + (r.Films is { } f ? Size(f) : 0),
            _ => 0,
        };
}
