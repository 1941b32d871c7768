using System.Collections.Concurrent;

namespace Eidolon.Storage.Ledger;

/// <summary>Parsed resources by their content: what holds the same bytes is parsed once, whatever it is called and whenever it changes.</summary>
public sealed class ResourceMemory
{
    private const int Most = 64;

    private readonly ConcurrentDictionary<(Type Kind, string Content), Lazy<object>> _known = new();

    /// <summary>The resource of a content; parsed now if it must be.</summary>
    public T Of<T>(string content, Func<T> parse)
        where T : class
    {
        if (_known.Count > Most)
        {
            _known.Clear();
        }

        var lazy = _known.GetOrAdd((typeof(T), content), _ => new Lazy<object>(parse));
        try
        {
            return (T)lazy.Value;
        }
        catch
        {
            // What could not be read now may be read later.
            _known.TryRemove((typeof(T), content), out _);
            throw;
        }
    }
}
