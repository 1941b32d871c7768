using System.Collections.Concurrent;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Formats.Json;

namespace Eidolon.Studio.Services;

/// <summary>Files that were dropped and not taken in yet. They live here only: nothing of the production changes before a person says so.</summary>
public sealed class ImportDesk
{
    private const int Most = 40;

    /// <summary>Bytes of samples that may wait, all files together.</summary>
    private const long MostBytes = 1L << 30;

    private readonly ConcurrentDictionary<string, Item> _items = new(StringComparer.Ordinal);
    private long _order;

    /// <summary>A file that waits.</summary>
    /// <param name="Performers">Who performed it, in order; null when nobody has said so yet.</param>
    public sealed record Item(string Id, long Order, ImportedFile File, ImportSettings Settings, IReadOnlyList<int>? Performers = null);

    public IReadOnlyList<Item> Items => [.. _items.Values.OrderBy(i => i.Order)];

    /// <summary>Reads a file and keeps it waiting; the oldest make room.</summary>
    /// <exception cref="Core.InvalidInputException">It cannot be read; nothing is kept.</exception>
    public Item Put(byte[] bytes, string name)
    {
        var item = new Item(
            Guid.NewGuid().ToString("N"),
            Interlocked.Increment(ref _order),
            ImportedFile.Read(bytes, name),
            new ImportSettings()
        );
        _items[item.Id] = item;
        var (count, size) = (0, 0L);
        foreach (var waiting in Items.Reverse())
        {
            (count, size) = (count + 1, size + waiting.File.Bytes);
            if (waiting != item && (count > Most || size > MostBytes))
            {
                _items.TryRemove(waiting.Id, out _);
            }
        }

        return item;
    }

    /// <summary>Films that were dropped together are of one performance: each after the first joins it.</summary>
    /// <exception cref="Core.InvalidInputException">It cannot be read, or the cameras do not fit the films; nothing is changed.</exception>
    public Item Join(Item films, byte[] bytes, string name)
    {
        var cameras = name.EndsWith(".json", StringComparison.OrdinalIgnoreCase);
        var joined = cameras
            ? ImportedFilms.WithCameras(films.File.Films!, CameraRingJson.ReadCameras(bytes, name), name)
            : ImportedFilms.Join(films.File.Films, WitnessCsv.Read(bytes, name), name);
        // A film that joins has no camera of a file yet: cameras come last.
        return _items[films.Id] = films with { File = films.File with { Films = joined, LensKnown = cameras } };
    }

    public Item? Find(string id) => _items.GetValueOrDefault(id);

    /// <summary>Keeps corrections; they are tried at once, so that a wrong one is told now.</summary>
    public Item Set(string id, ImportSettings settings)
    {
        var item = Find(id) ?? throw new ArgumentException("the file is gone; drop it again");
        item.File.Corrected(settings);
        return _items[id] = item with { Settings = settings };
    }

    /// <summary>Keeps who performed a file: each has its own.</summary>
    public void Who(string id, IReadOnlyList<int> performers)
    {
        if (Find(id) is { } item)
        {
            _items[id] = item with { Performers = performers };
        }
    }

    public void Drop(string id) => _items.TryRemove(id, out _);
}
