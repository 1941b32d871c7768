using System.Collections.Concurrent;
using System.Text.Json.Nodes;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Results;

/// <summary>
/// Results of Ledger entries: notes by what they were made of, values by content. In memory what was used last, on the disk up to a limit,
/// least used first out.
/// </summary>
public sealed class ResultStore : IResultStore
{
    /// <summary>Bytes of samples in memory: some states of a ten-minute take of two performers, and never the whole of an hour twice.</summary>
    private const long InMemory = 600_000_000;

    private const int MostNotes = 20_000;

    private readonly DbContextOptions<ResultDb> _options;
    private readonly ValueFiles _files;
    private readonly ValueMemory _memory;
    private readonly long _limit;
    private readonly KeyedGate _inFlight = new();
    private readonly Lock _storing = new();
    private readonly Lock _writing = new();
    private readonly ConcurrentDictionary<UInt128, ResultNote> _notes = new();
    private long? _stored;

    /// <param name="folder">Holds the notes' database and the values' parts; made when it is missing.</param>
    /// <param name="limit">Bytes of values on the disk.</param>
    /// <param name="memory">Bytes of values in memory.</param>
    public ResultStore(string folder, long limit, long memory = InMemory)
    {
        Directory.CreateDirectory(folder);
        _options = new DbContextOptionsBuilder<ResultDb>()
            .UseSqlite($"Data Source={Path.Combine(folder, "results.db")};Default Timeout=30")
            .Options;
        (_files, _memory, _limit) = (new ValueFiles(Path.Combine(folder, "values")), new ValueMemory(memory), limit);
        using var db = Open();
        db.Database.EnsureCreated();
        db.Database.ExecuteSqlRaw("PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL;");
    }

    public ValueMemory Memory => _memory;

    public ResultNote? Find(UInt128 key)
    {
        if (_notes.TryGetValue(key, out var known))
        {
            return known;
        }

        using var db = Open();
        var text = ContentHash.Text(key);
        if (db.Notes.AsNoTracking().FirstOrDefault(n => n.Key == text) is not { } row)
        {
            return null;
        }

        ContentHash.TryParse(row.Content, out var content);
        var note = new ResultNote(
            content,
            new EntryReport(row.Summary, JsonNode.Parse(row.Report) as JsonObject ?? []),
            row.Seconds,
            row.Refusal
        );
        Note(key, note);
        return note;
    }

    /// <summary>Bytes of values that were read from the disk so far: looking at a Ledger reads none.</summary>
    public long BytesRead => _files.BytesRead;

    public bool Has(UInt128 content)
    {
        if (_memory.Has(content))
        {
            return true;
        }

        using var db = Open();
        var text = ContentHash.Text(content);
        return db.Values.Any(v => v.Content == text)
            && db.Parts.AsNoTracking().Where(p => p.Content == text).Select(p => p.Part).AsEnumerable().All(_files.Has);
    }

    public NodeValue? Value(UInt128 content)
    {
        if (_memory.Find(content) is { } known)
        {
            return known;
        }

        using var db = Open();
        var text = ContentHash.Text(content);
        if (db.Values.FirstOrDefault(v => v.Content == text) is not { } row)
        {
            return null;
        }

        var parts = db.Parts.AsNoTracking().Where(p => p.Content == text).OrderBy(p => p.Place).Select(p => p.Part).ToList();
        var next = 0;
        var value = ValueCodec.Read(row.Head, () => next < parts.Count ? _files.Read(parts[next++]) : null);
        lock (_writing)
        {
            if (value is null)
            {
                // A part is gone or damaged: the value is made again, and stored anew.
                db.Values.Where(v => v.Content == text).ExecuteDelete();
                _stored = null;
                return null;
            }

            NoRoom.Spare(() => db.Values.Where(v => v.Content == text).ExecuteUpdate(s => s.SetProperty(v => v.UsedUtc, DateTime.UtcNow)));
        }

        _memory.Keep(content, value);
        return value;
    }

    public void Keep(UInt128 key, ResultNote note, NodeValue? value, bool quick)
    {
        if (value is not null)
        {
            _memory.Keep(note.Content, value);
            if (!quick)
            {
                NoRoom.Spare(() => Store(note.Content, value));
            }
        }

        Note(key, note);
        NoRoom.Spare(() => Write(key, note));
    }

    private void Write(UInt128 key, ResultNote note)
    {
        lock (_writing)
        {
            using var db = Open();
            var text = ContentHash.Text(key);
            if (!db.Notes.Any(n => n.Key == text))
            {
                db.Notes.Add(
                    new NoteRow
                    {
                        Key = text,
                        Content = note.Refusal is null ? ContentHash.Text(note.Content) : string.Empty,
                        Summary = note.Report.Summary,
                        Report = note.Report.Report.ToJsonString(),
                        Seconds = note.Seconds,
                        Refusal = note.Refusal,
                    }
                );
                db.SaveChanges();
            }
        }
    }

    public ResultNote Once(UInt128 key, Func<ResultNote> work, CancellationToken cancel)
    {
        using var turn = _inFlight.Enter(key, cancel);
        return Find(key) ?? work();
    }

    public void Remember(UInt128 content, NodeValue value) => _memory.Keep(content, value);

    /// <summary>Bytes of values on the disk: counted once, then kept up with what comes and goes.</summary>
    public long StoredBytes()
    {
        lock (_writing)
        {
            if (_stored is null)
            {
                using var db = Open();
                _stored = db.Parts.GroupBy(p => p.Part).Select(g => g.Max(p => p.Bytes)).Sum();
            }

            return _stored.Value;
        }
    }

    /// <summary>One value is stored at a time; its parts are written while pages read and note.</summary>
    private void Store(UInt128 content, NodeValue value)
    {
        lock (_storing)
        {
            using var db = Open();
            var text = ContentHash.Text(content);
            if (db.Values.Any(v => v.Content == text))
            {
                return;
            }

            var before = StoredBytes();
            var parts = new List<ValuePartRow>();
            var head = ValueCodec.Write(value, bytes => parts.Add(
                    new ValuePartRow
                    {
                        Content = text,
                        Place = parts.Count,
                        Part = _files.Keep(bytes),
                        Bytes = bytes.Length,
                    }
                ));
            // A part that another value has already is on the disk once.
            var own = parts.DistinctBy(p => p.Part).Where(p => !db.Parts.Any(o => o.Part == p.Part)).Sum(p => p.Bytes);
            db.Values.Add(
                new ValueRow
                {
                    Content = text,
                    Head = head,
                    UsedUtc = DateTime.UtcNow,
                }
            );
            db.Parts.AddRange(parts);
            lock (_writing)
            {
                db.SaveChanges();
                _stored = before + own;
            }

            MakeRoom(db, text);
        }
    }

    /// <summary>Over the limit the values that were used least lately go, with the parts that no other value has.</summary>
    private void MakeRoom(ResultDb db, string newest)
    {
        while (StoredBytes() > _limit)
        {
            var oldest = db.Values.Where(v => v.Content != newest).OrderBy(v => v.UsedUtc).Select(v => v.Content).FirstOrDefault();
            if (oldest is null)
            {
                return;
            }

            var own = db
                .Parts.Where(p => p.Content == oldest && !db.Parts.Any(o => o.Part == p.Part && o.Content != oldest))
                .Select(p => new { p.Part, p.Bytes })
                .Distinct()
                .ToList();
            lock (_writing)
            {
                db.Values.Where(v => v.Content == oldest).ExecuteDelete();
                _stored -= own.Sum(p => p.Bytes);
            }

            own.ForEach(p => _files.Drop(p.Part));
        }
    }

    private void Note(UInt128 key, ResultNote note)
    {
        if (_notes.Count > MostNotes)
        {
            _notes.Clear();
        }

        _notes[key] = note;
    }

    private ResultDb Open() => new(_options);
}
