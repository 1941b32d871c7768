using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Geometry;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Storage.Blobs;
using Eidolon.Storage.Model;
using Eidolon.Storage.Results;
using Eidolon.Storage.Samples;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Ledger;

/// <summary>Nodes as the database holds them, read once a look; a draft of some of them can be laid over it to try a change.</summary>
public sealed class StoredNodes(IDbContextFactory<EidolonDb> factory, ResourceMemory memory, BlobStore blobs, LedgerDraft? draft = null)
    : INodeSource
{
    private readonly Dictionary<int, NodeRow> _rows = [];
    private readonly Dictionary<int, IReadOnlyList<SampleStream>> _streams = [];
    private readonly Dictionary<int, TakeResources> _resources = [];
    private readonly Dictionary<int, NodeRoot?> _places = [];
    private readonly HashSet<string> _loaded = [];

    public LedgerNode Node(int id)
    {
        var row = Row(id);
        var own = draft?.Find(id);
        IReadOnlyList<Entry> entries = own is null
            ? [.. row.Entries.OrderBy(e => e.Position).Select(e => e.ToEntry())]
            : own.Entries.Select(e => e.Entry).ToArray();
        IReadOnlyList<UInt128?> keys = own is null
            ? [.. row.Entries.OrderBy(e => e.Position).Select(e => KeyOf(e.Key))]
            : [.. own.Entries.Select(e => KeyOf(e.Key))];
        return new LedgerNode(id, row.Kind, new NodeScope(row.SubjectId, row.TargetId), Inputs(row, entries), entries) { LastKeys = keys };
    }

    public NodeRoot? Root(LedgerNode node)
    {
        var row = Row(node.Id);
        return row.Kind switch
        {
            NodeKind.Markers => MarkerRoot(row),
            NodeKind.Solve => StreamRoot(row, StreamNames.Motion(row.SubjectId), (s, store, name) => store.ReadMotion(s, name))
                ?? RecordedRoot(row),
            NodeKind.Places => _places.TryGetValue(row.Id, out var known) ? known : _places[row.Id] = PlacesRoot(row),
            NodeKind.Clip => ClipRoot(row),
            _ => null,
        };
    }

    public IResources Resources(LedgerNode node) => Resources(Row(node.Id));

    public IResources Resources(NodeRow row)
    {
        var take = row.TakeId;
        return _resources.TryGetValue(take ?? 0, out var known)
            ? known
            : _resources[take ?? 0] = new TakeResources(factory, memory, blobs, take);
    }

    /// <summary>The version of a character, performer or prop that the casts on a track were made with; where it has none of a take's, the newest.</summary>
    public SubjectVersion? VersionOf(NodeRow track, int subject)
    {
        var source = Node(track.Id).Inputs.Select(Row).FirstOrDefault(n => n.TakeId is not null) ?? track;
        return (Resources(source) as TakeResources)?.VersionOf(subject);
    }

    /// <summary>Reads all nodes of a take or scene at once.</summary>
    public IReadOnlyList<NodeRow> Load(LedgerOwner owner)
    {
        if (_loaded.Add(owner.Key))
        {
            using var db = factory.CreateDbContext();
            foreach (var row in Of(db.Nodes.AsNoTracking(), owner).Include(n => n.Entries).ToList())
            {
                _rows.TryAdd(row.Id, row);
            }
        }

        return [.. _rows.Values.Where(r => r.TakeId == owner.TakeId && r.SceneId == owner.SceneId).OrderBy(r => r.Kind).ThenBy(r => r.Id)];
    }

    internal static IQueryable<NodeRow> Of(IQueryable<NodeRow> nodes, LedgerOwner owner) =>
        nodes.Where(n => n.TakeId == owner.TakeId && n.SceneId == owner.SceneId);

    private IReadOnlyList<int> Inputs(NodeRow row, IReadOnlyList<Entry> entries)
    {
        int? Sibling(NodeKind kind, int subject = 0, string? source = null) =>
            Load(new LedgerOwner(row.TakeId, row.SceneId))
                .FirstOrDefault(n => n.Kind == kind && n.SubjectId == subject && (source is null || n.Source == source))
                ?.Id;
        int[] One(int? id) => id is { } i ? [i] : [];
        return row.Kind switch
        {
            // A motion that was brought in stands for itself.
            NodeKind.Solve => Streams(row).Any(s => s.Kind == StreamKind.Markers) ? One(Sibling(NodeKind.Markers)) : [],
            NodeKind.Places => entries.Count > 0 ? One(Sibling(NodeKind.Markers)) : [],
            NodeKind.Cast => One(Sibling(NodeKind.Solve, row.SubjectId)),
            NodeKind.Attached => [.. One(Sibling(NodeKind.Places, row.SubjectId)), .. Carriers(row, entries)],
            NodeKind.Track => [.. Clips(entries).Where(Exists).Select(Attached)],
            NodeKind.Layers => One(Sibling(NodeKind.Track, row.SubjectId, row.Source)),
            _ => [],
        };
    }

    private static IEnumerable<int> Clips(IReadOnlyList<Entry> entries) =>
        Named(entries, SceneOperations.Clips, p => SceneOperations.ClipsOf(p).Select(c => c.Node));

    /// <summary>For each cast that carries the prop its performer's motion and its own; those that are gone are left out.</summary>
    private IEnumerable<int> Carriers(NodeRow row, IReadOnlyList<Entry> entries)
    {
        var all = Load(new LedgerOwner(row.TakeId, row.SceneId));
        foreach (var cast in Named(entries, AttachOperation.Attach, AttachOperation.CastsOf))
        {
            if (
                all.FirstOrDefault(n => n.Id == cast && n.Kind == NodeKind.Cast) is { } played
                && all.FirstOrDefault(n => n.Kind == NodeKind.Solve && n.SubjectId == played.SubjectId) is { } solve
            )
            {
                yield return solve.Id;
                yield return cast;
            }
        }
    }

    /// <summary>A clip of a prop shows it where hands have it, if it is attached to any in that take.</summary>
    private int Attached(int clip) =>
        Row(clip) is { Kind: NodeKind.Places } places
        && Load(new LedgerOwner(places.TakeId, null)).FirstOrDefault(n => n.Kind == NodeKind.Attached && n.SubjectId == places.SubjectId)
            is { } attached
            ? attached.Id
            : clip;

    /// <summary>Nodes that the parameters of a node's entry name.</summary>
    private static IEnumerable<int> Named(IReadOnlyList<Entry> entries, Operation operation, Func<JsonObject, IEnumerable<int>> named)
    {
        var entry = entries.FirstOrDefault(e => e.Operation == operation.Name);
        try
        {
            return entry is null ? [] : named(entry.Parameters).ToArray();
        }
        catch (RefusedException)
        {
            // The entry itself says what is wrong with them.
            return [];
        }
    }

    private bool Exists(int id)
    {
        using var db = factory.CreateDbContext();
        return _rows.ContainsKey(id) || db.Nodes.Any(n => n.Id == id);
    }

    private NodeRoot MarkerRoot(NodeRow row)
    {
        if (Streams(row).FirstOrDefault(s => s.Name == StreamNames.Markers) is { } stream)
        {
            return RootOf(stream, Read);
            NodeValue Read()
            {
                using var db = factory.CreateDbContext();
                return new MarkerValue(new SampleStore(db).ReadMarkers(stream, TakeName(row)));
            }
        }

        // A take of a motion, a suit or films alone has markers too, none of them.
        var motion = Streams(row).FirstOrDefault(s => s.Kind is StreamKind.Motion or StreamKind.Suit or StreamKind.Film);
        var none = new MarkerValue(new MarkerTake([], motion?.FrameRate ?? 1, motion?.FrameCount ?? 0));
        return new NodeRoot(ContentHash.Of(none), () => none);
    }

    /// <summary>Raw markers of a node without their damaged frames, to be looked at only; null where there are none.</summary>
    public MarkerTake? Rest(NodeRow row)
    {
        if (Streams(row).FirstOrDefault(s => s.Name == StreamNames.Markers) is not { } stream)
        {
            return null;
        }

        using var db = factory.CreateDbContext();
        var store = new SampleStore(db);
        var without = new SampleStream
        {
            Id = stream.Id,
            Name = stream.Name,
            FrameRate = stream.FrameRate,
            FrameCount = stream.FrameCount,
            Channels = stream.Channels,
            LeftOut = FrameSpans.Write(store.Damage(stream)),
        };
        return store.ReadMarkers(without, TakeName(row));
    }

    private NodeRoot? StreamRoot(NodeRow row, string name, Func<SampleStream, SampleStore, string, NodeValue> read)
    {
        if (Streams(row).FirstOrDefault(s => s.Name == name) is not { FrameCount: > 0 } stream)
        {
            return null;
        }

        NodeValue Read()
        {
            using var db = factory.CreateDbContext();
            return read(stream, new SampleStore(db), TakeName(row));
        }

        return RootOf(stream, Read);
    }

    /// <summary>
    /// Places that were recorded are those of the frame the prop had then; where its pivot was put elsewhere since, they are told of the frame it has now.
    /// </summary>
    private NodeRoot? PlacesRoot(NodeRow row)
    {
        var root = StreamRoot(row, StreamNames.Places(row.SubjectId), (s, store, name) => new PlacesValue(store.ReadPlaces(s, name)));
        if (root is null)
        {
            return null;
        }

        using var db = factory.CreateDbContext();
        var recorded = db.Takes.Where(t => t.Id == row.TakeId).Select(t => t.CreatedUtc).FirstOrDefault();
        var bodies = db.SubjectVersions.Where(v => v.SubjectId == row.SubjectId && v.Body != string.Empty).OrderBy(v => v.Number);
        var then = bodies.Where(v => v.CreatedUtc <= recorded).Select(v => v.Body).LastOrDefault()
            ?? bodies.Select(v => v.Body).FirstOrDefault();
        if (then is null || Shape(row) is not { } now)
        {
            return root;
        }

        var was = RigidBodyJson.Read(then, now.Name).Markers;
        if (was.Count != now.Markers.Count || was.SequenceEqual(now.Markers))
        {
            // Nothing was moved, or it is made of other markers and nothing can be told.
            return root;
        }

        var (turn, move, _) = Kabsch.Fit([.. now.Markers], [.. was]);
        return root with
        {
            Content = ContentHash.Of($"{ContentHash.Text(root.Content)} {turn} {move}"),
            Load = () => new PlacesValue(((PlacesValue)root.Load()).Places.InFrame(turn, move)),
        };
    }

    /// <summary>A prop as the take has it; null where it is gone from the library.</summary>
    private RigidBody? Shape(NodeRow row)
    {
        try
        {
            return Resources(row).Prop(row.SubjectId);
        }
        catch (RefusedException)
        {
            return null;
        }
    }

    /// <summary>The motion of a clip of the library, by the content that was noted when it was kept.</summary>
    private NodeRoot? ClipRoot(NodeRow row)
    {
        using var db = factory.CreateDbContext();
        return
            db.Clips.IgnoreQueryFilters().AsNoTracking().FirstOrDefault(c => c.NodeId == row.Id && c.BlobId != null) is { } clip
            && ContentHash.TryParse(clip.Content, out var content)
            ? new NodeRoot(content, Read)
            : null;

        NodeValue Read()
        {
            using var own = factory.CreateDbContext();
            return ClipFile.Read(blobs.Read(own, clip.BlobId!.Value), clip.Name);
        }
    }

    /// <summary>A suit, films, or both; on the take's clock where the performance was recorded in more than one way.</summary>
    private NodeRoot? RecordedRoot(NodeRow row)
    {
        var suit = StreamRoot(row, StreamNames.Suit(row.SubjectId), (s, store, name) => new SuitValue(store.ReadSuit(s, name)));
        var films = FilmRoot(row);
        var marked = Streams(row).Any(s => s.Kind == StreamKind.Markers);
        if ((suit ?? films) is not { } alone || (!marked && (suit is null || films is null)))
        {
            return suit ?? films;
        }

        var (rate, frames) = ClockOf(row);
        return new NodeRoot(ContentHash.OfRecorded(rate, frames, suit?.Content ?? 0, films?.Content ?? 0), () =>
            new RecordedValue(suit?.Load() as SuitValue, films?.Load() as FilmValue, rate, frames)
        )
        {
            Damage = alone.Damage ?? films?.Damage,
        };
    }

    /// <summary>In which ways a performer was recorded beside the markers, by the names of the take's streams.</summary>
    public (bool Suit, bool Films) RecordedOf(NodeRow row)
    {
        bool Has(Func<SampleStream, bool> which) => Streams(row).Any(s => s.FrameCount > 0 && which(s));
        return row.Kind != NodeKind.Solve || Has(s => s.Name == StreamNames.Motion(row.SubjectId))
            ? (false, false)
            : (Has(s => s.Name == StreamNames.Suit(row.SubjectId)), Has(s => s.Kind == StreamKind.Film && s.SubjectId == row.SubjectId));
    }

    /// <summary>The films of a performer; what one of them says of its content holds for all.</summary>
    private NodeRoot? FilmRoot(NodeRow row)
    {
        SampleStream[] films =
        [
            .. Streams(row)
                .Where(s => s.Kind == StreamKind.Film && s.SubjectId == row.SubjectId)
                .OrderBy(s => s.Name, StringComparer.Ordinal),
        ];
        if (films.Length == 0)
        {
            return null;
        }

        NodeValue Read()
        {
            using var db = factory.CreateDbContext();
            return new SampleStore(db).ReadFilms(films, TakeName(row));
        }

        return RootOf(films[0], Read);
    }

    /// <summary>
    /// A stream as the root of a node. A recording's hash is worked out when it is asked for first; what is damaged is read anew until it is
    /// whole.
    /// </summary>
    private NodeRoot RootOf(SampleStream stream, Func<NodeValue> read)
    {
        NodeValue Checked()
        {
            try
            {
                return read();
            }
            catch (DamagedDataException)
            {
                Note(stream, string.Empty);
                throw;
            }
        }

        if (ContentHash.TryParse(stream.Content, out var known))
        {
            return new NodeRoot(known, Checked);
        }

        try
        {
            var content = ContentHash.Of(Checked());
            Note(stream, ContentHash.Text(content));
            return new NodeRoot(content, Checked);
        }
        catch (DamagedDataException e)
        {
            return new NodeRoot(0, Checked) { Damage = e.Message };
        }
    }

    private void Note(SampleStream stream, string content)
    {
        stream.Content = content;
        NoRoom.Spare(() =>
        {
            using var db = factory.CreateDbContext();
            db.Streams.Where(s => s.Id == stream.Id).ExecuteUpdate(s => s.SetProperty(x => x.Content, content));
        });
    }

    private IReadOnlyList<SampleStream> Streams(NodeRow row)
    {
        var take = row.TakeId ?? 0;
        if (!_streams.TryGetValue(take, out var known))
        {
            using var db = factory.CreateDbContext();
            _streams[take] = known = db.Streams.AsNoTracking().Where(s => s.TakeId == take).ToList();
        }

        return known;
    }

    private string TakeName(NodeRow row)
    {
        using var db = factory.CreateDbContext();
        return db.Takes.AsNoTracking().Where(t => t.Id == row.TakeId).Select(t => t.Name).FirstOrDefault() ?? "a take";
    }

    private (double Rate, int Frames) ClockOf(NodeRow row)
    {
        using var db = factory.CreateDbContext();
        var take = db.Takes.AsNoTracking().Where(t => t.Id == row.TakeId).Select(t => new { t.FrameRate, t.FrameCount }).First();
        return (take.FrameRate, take.FrameCount);
    }

    private NodeRow Row(int id)
    {
        if (!_rows.TryGetValue(id, out var row))
        {
            using var db = factory.CreateDbContext();
            _rows[id] = row = db.Nodes.AsNoTracking().Include(n => n.Entries).FirstOrDefault(n => n.Id == id)
                ?? throw new RefusedException("that part of the Ledger is gone");
        }

        return row;
    }

    private static UInt128? KeyOf(string text) => ContentHash.TryParse(text, out var key) ? key : null;
}
