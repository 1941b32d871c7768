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
    private readonly Lock _writing = new();
    private readonly ConcurrentDictionary<UInt128, ResultNote> _notes = new();

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

    public void Remember(UInt128 content, NodeValue value) => _memory.Keep(content, value);

    /// <summary>Bytes of values on the disk.</summary>
    public long StoredBytes()
    {
        using var db = Open();
        return db.Parts.GroupBy(p => p.Part).Select(g => g.Max(p => p.Bytes)).Sum();
    }

    private void Store(UInt128 content, NodeValue value)
    {
        lock (_writing)
        {
            using var db = Open();
            var text = ContentHash.Text(content);
            if (db.Values.Any(v => v.Content == text))
            {
                return;
            }

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
            db.Values.Add(
                new ValueRow
                {
                    Content = text,
                    Head = head,
                    UsedUtc = DateTime.UtcNow,
                }
            );
            db.Parts.AddRange(parts);
            db.SaveChanges();
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
                .Select(p => p.Part)
                .Distinct()
                .ToList();
            db.Values.Where(v => v.Content == oldest).ExecuteDelete();
            own.ForEach(_files.Drop);
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
