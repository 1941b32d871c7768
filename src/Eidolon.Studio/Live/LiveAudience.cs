using System.Collections.Concurrent;

namespace Eidolon.Studio.Live;

/// <summary>
/// The open pages and how many frames each still has to draw. A page says when it has drawn one; until then it gets at most two, so that a
/// slow page gets fewer frames instead of ever older ones.
/// </summary>
public sealed class LiveAudience
{
    private const int InFlight = 2;
    private readonly ConcurrentDictionary<string, int> _waiting = new(StringComparer.Ordinal);

    private volatile bool _recording;

    /// <summary>Somebody looks, or a recording runs: the stage is wanted.</summary>
    public bool Wanted => _recording || !_waiting.IsEmpty;

    /// <summary>A recording wants the stage, pages or not.</summary>
    public void Recording(bool on) => _recording = on;

    public void Enter(string connection) => _waiting[connection] = 0;

    public void Leave(string connection) => _waiting.TryRemove(connection, out _);

    /// <summary>The page has drawn a frame.</summary>
    public void Seen(string connection)
    {
        if (_waiting.TryGetValue(connection, out var n))
        {
            _waiting.TryUpdate(connection, Math.Max(0, n - 1), n);
        }
    }

    /// <summary>Pages that can take one more frame; each is counted as having got it.</summary>
    public IReadOnlyList<string> Next()
    {
        var ready = new List<string>();
        foreach (var (connection, n) in _waiting)
        {
            if (n < InFlight && _waiting.TryUpdate(connection, n + 1, n))
            {
                ready.Add(connection);
            }
        }

        return ready;
    }
}
