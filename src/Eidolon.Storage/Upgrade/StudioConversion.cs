using System.Numerics;
using System.Runtime.InteropServices;
using System.Text;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Labelling;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Storage.Blobs;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Storage.Samples;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Upgrade;

/// <summary>Copies a studio of the version before into an empty database of this one: names become ids, lists become nodes, files become blobs.</summary>
internal sealed class StudioConversion(OldStudio old, EidolonDb db, BlobStore blobs)
{
    private readonly Dictionary<(SubjectKind, string), int> _subjects = [];
    private readonly Dictionary<string, int> _sets = [];
    private int _production;

    public async Task Run(string oldPath, CancellationToken cancel)
    {
        await Productions(cancel);
        await Library(cancel);
        await Takes(cancel);
        await new SampleConversion(old, db).Run(oldPath, cancel);
        foreach (var take in await db.Takes.AsNoTracking().OrderBy(t => t.Id).ToListAsync(cancel))
        {
            await Ledger(take, cancel);
        }

        await new SceneConversion(old, db, blobs, _subjects).Run(cancel);
    }

    private async Task Productions(CancellationToken cancel)
    {
        foreach (var r in old.Rows("SELECT * FROM Productions"))
        {
            db.Productions.Add(new Production { Id = r.Int("Id"), Name = r.Text("Name") });
        }

        foreach (var r in old.Rows("SELECT * FROM Days"))
        {
            db.Days.Add(
                new ShootDay
                {
                    Id = r.Int("Id"),
                    ProductionId = r.Int("ProductionId"),
                    Name = r.Text("Name"),
                    Date = DateOnly.Parse(r.Text("Date"), System.Globalization.CultureInfo.InvariantCulture),
                }
            );
        }

        foreach (var r in old.Rows("SELECT * FROM Calibrations"))
        {
            db.Calibrations.Add(
                new CalibrationRow
                {
                    Id = r.Int("Id"),
                    ProductionId = r.Int("ProductionId"),
                    MadeUtc = r.Time("MadeUtc"),
                    Cameras = r.Text("Cameras"),
                    ResidualPixels = r.Number("ResidualPixels"),
                    Report = r.Text("Report"),
                    GroundUtc = r.Text("GroundUtc").Length > 0 ? r.Time("GroundUtc") : null,
                }
            );
        }

        foreach (var r in old.Rows("SELECT * FROM MarkerSets"))
        {
            var row = new MarkerSetRow
            {
                Id = r.Int("Id"),
                ProductionId = r.Int("ProductionId"),
                Name = r.Text("Name"),
                Json = r.Text("Json"),
            };
            db.MarkerSets.Add(row);
            _sets[row.Name] = row.Id;
        }

        await db.SaveChangesAsync(cancel);
        var production = await db.Productions.FirstOrDefaultAsync(cancel);
        _production = production?.Id ?? 0;
        if (production is not null && _sets.Count > 0)
        {
            production.MarkerSetId = _sets.TryGetValue("Harbour 53", out var own) ? own : _sets.Values.First();
            await db.SaveChangesAsync(cancel);
        }

        foreach (var r in old.Rows("SELECT * FROM Recipes"))
        {
            db.Recipes.Add(
                new RecipeRow
                {
                    Id = r.Int("Id"),
                    ProductionId = r.Int("ProductionId"),
                    Name = r.Text("Name"),
                    Entries = RecipeOf(r.Text("Entries")),
                }
            );
        }

        await db.SaveChangesAsync(cancel);
    }

    /// <summary>A retarget in a Recipe no longer names a character: it is for every cast of the take.</summary>
    private static string RecipeOf(string json)
    {
        var list = JsonNode.Parse(json) as JsonArray ?? [];
        foreach (var entry in list.OfType<JsonObject>().Where(e => (string?)e["operation"] == RetargetOperation.Retarget.Name))
        {
            (entry["parameters"] as JsonObject)?.Remove("character");
        }

        return list.ToJsonString();
    }

    private async Task Library(CancellationToken cancel)
    {
        foreach (
            var r in old.All("SELECT * FROM Performers", x =>
                (
                    Row: x.Text("Name"),
                    x.Text("Body"),
                    x.Number("Stature"),
                    x.Number("FitMillimetres"),
                    x.IntOrNull("ReferenceTakeId"),
                    x.Bytes("Figure")
                )
            )
        )
        {
            var (name, body, stature, fit, reference, figure) = r;
            await Subject(
                SubjectKind.Performer,
                name,
                new SubjectVersion
                {
                    Content = ContentHash.Text(ContentHash.Of(body)),
                    Body = body,
                    Height = stature,
                    FitMillimetres = fit,
                    ReferenceTakeId = reference,
                    BlobId = figure.Length == 0 ? null : (await blobs.Keep(db, figure, cancel)).Id,
                },
                cancel
            );
        }

        foreach (
            var r in old.All("SELECT * FROM Characters", x =>
                (x.Text("Name"), x.Bytes("Glb"), x.Text("Verdict"), x.Text("Reasons"), x.Number("Height"))
            )
        )
        {
            var (name, glb, verdict, reasons, height) = r;
            await Subject(
                SubjectKind.Character,
                name,
                new SubjectVersion
                {
                    Content = ContentHash.Text(ContentHash.Of(glb)),
                    BlobId = (await blobs.Keep(db, glb, cancel)).Id,
                    Verdict = verdict,
                    Reasons = reasons,
                    Height = height,
                },
                cancel
            );
        }

        foreach (var r in old.All("SELECT * FROM Props", x => (x.Text("Name"), x.Text("Markers"), x.Text("Tie"))))
        {
            var (name, markers, tie) = r;
            await Subject(
                SubjectKind.Prop,
                name,
                new SubjectVersion
                {
                    Content = ContentHash.Text(ContentHash.Of(markers)),
                    Body = markers,
                    Tie = tie,
                },
                cancel
            );
        }
    }

    private async Task<int> Subject(SubjectKind kind, string name, SubjectVersion? version, CancellationToken cancel)
    {
        var subject = new Subject
        {
            ProductionId = _production,
            Kind = kind,
            Name = name,
            Version = version is null ? 0 : 1,
        };
        if (version is not null)
        {
            (version.Number, version.CreatedUtc, version.Why) = (1, DateTime.UtcNow, "from the version before");
            subject.Versions.Add(version);
        }

        db.Subjects.Add(subject);
        await db.SaveChangesAsync(cancel);
        return _subjects[(kind, name)] = subject.Id;
    }

    private async Task Takes(CancellationToken cancel)
    {
        foreach (
            var r in old.All("SELECT t.*, d.ProductionId FROM Takes t JOIN Days d ON d.Id = t.ShootDayId", x =>
                (TakeOf(x), x.Text("Performer"), x.Text("Props"))
            )
        )
        {
            var (take, performers, props) = r;
            db.Takes.Add(take);
            string[] who = Names(performers);
            var position = 0;
            foreach (
                var (kind, name) in who.Select(n => (SubjectKind.Performer, n))
                    .Concat(Names(props).Select(n => (SubjectKind.Prop, n)))
                    .Distinct()
            )
            {
                // A name that nobody in the library has becomes a subject that is not measured yet.
                var id = _subjects.TryGetValue((kind, name), out var known) ? known : await Subject(kind, name, null, cancel);
                var prefix = kind == SubjectKind.Performer && who.Length > 1 ? name : string.Empty;
                take.Parts.Add(
                    new TakePart
                    {
                        SubjectId = id,
                        Position = position++,
                        Prefix = prefix,
                    }
                );
            }

            await db.SaveChangesAsync(cancel);
        }
    }

    private Take TakeOf(OldStudio.Row r) =>
        new()
        {
            Id = r.Int("Id"),
            ProductionId = r.Int("ProductionId"),
            ShootDayId = r.Int("ShootDayId"),
            Name = r.Text("Name"),
            SetUp = r.Text("SetUp"),
            Number = r.Int("Number"),
            Note = r.Text("Note"),
            Circled = r.Int("Circled") != 0,
            Rating = r.Int("Rating"),
            CalibrationId = r.IntOrNull("CalibrationId"),
            MarkerSetId = _sets.TryGetValue(r.Text("MarkerSet"), out var set) ? set : null,
            Devices = r.Text("Devices"),
            FrameRate = r.Number("FrameRate"),
            FrameCount = r.Int("FrameCount"),
            State = (TakeState)r.Int("State"),
            Shortened = r.Text("Shortened"),
            CreatedUtc = r.Time("CreatedUtc"),
            Postures = r.Text("Postures"),
            MustFix = r.Int("MustFix"),
            Look = r.Int("Look"),
            Quality = r.Text("Quality"),
            Through = 1,
        };

    private static string[] Names(string text) => text.Split(", ", StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);

    private async Task Ledger(Take take, CancellationToken cancel)
    {
        await TakeNodes.Ensure(db, take, cancel);
        var performer = await db
            .Parts.Where(p => p.TakeId == take.Id && p.Subject!.Kind == SubjectKind.Performer)
            .OrderBy(p => p.Position)
            .Select(p => p.SubjectId)
            .FirstOrDefaultAsync(cancel);
        var motionOnly = !await db.Streams.AnyAsync(s => s.TakeId == take.Id && s.Kind == StreamKind.Markers, cancel);
        var entries = old.All($"SELECT * FROM Ledger WHERE TakeId = {take.Id} ORDER BY Position", EntryOf);
        long added = 1;
        foreach (
            var sorted in OldLedger.Sort(entries, motionOnly).Where(s => s.Kind is NodeKind.Markers or NodeKind.Solve or NodeKind.Cast)
        )
        {
            var node = await NodeOf(take.Id, performer, sorted, cancel);
            db.Entries.Add(
                new EntryRow
                {
                    NodeId = node.Id,
                    Position = await db.Entries.CountAsync(e => e.NodeId == node.Id, cancel),
                    Operation = sorted.Entry.Operation,
                    Version = sorted.Entry.Version,
                    Parameters = sorted.Entry.Parameters.ToJsonString(),
                    On = sorted.Entry.On,
                    Summary = sorted.Entry.Summary,
                    CreatedUtc = sorted.Entry.CreatedUtc,
                    Added = added++,
                }
            );
            await db.SaveChangesAsync(cancel);
        }

        foreach (
            var (name, json, created) in old.All($"SELECT * FROM Versions WHERE TakeId = {take.Id}", r =>
                (r.Text("Name"), r.Text("Entries"), r.Time("CreatedUtc"))
            )
        )
        {
            db.Versions.Add(
                new LedgerVersion
                {
                    TakeId = take.Id,
                    Name = name,
                    Entries = Snapshot(json, performer, motionOnly),
                    CreatedUtc = created,
                }
            );
        }

        await db.SaveChangesAsync(cancel);
        db.ChangeTracker.Clear();
    }

    private string Snapshot(string json, int performer, bool motionOnly)
    {
        var entries = (JsonNode.Parse(json) as JsonArray ?? []).Select(e => new OldLedger.Old(
            (string)e!["operation"]!,
            (int)e["version"]!,
            e["parameters"]!.DeepClone().AsObject(),
            (bool)e["on"]!,
            string.Empty,
            default
        ));
        return LedgerSnapshot.Write(
            OldLedger
                .Sort([.. entries], motionOnly)
                .GroupBy(s => (s.Kind, s.Character))
                .Select(g => new LedgerSnapshot.Node(
                    g.Key.Kind,
                    new NodeScope(g.Key.Kind == NodeKind.Markers ? 0 : performer, CharacterId(g.Key.Character)),
                    NodeRow.MarkerSource,
                    [.. g.Select(s => new Entry(s.Entry.Operation, s.Entry.Version, s.Entry.Parameters, s.Entry.On))]
                ))
        );
    }

    private async Task<NodeRow> NodeOf(int take, int performer, OldLedger.Sorted sorted, CancellationToken cancel)
    {
        if (sorted.Kind == NodeKind.Cast)
        {
            var character = CharacterId(sorted.Character);
            return await TakeNodes.Cast(
                db,
                take,
                performer,
                character > 0 ? character : await Subject(SubjectKind.Character, sorted.Character!, null, cancel),
                cancel
            );
        }

        var subject = sorted.Kind == NodeKind.Markers ? 0 : performer;
        return await db.Nodes.FirstAsync(n => n.TakeId == take && n.Kind == sorted.Kind && n.SubjectId == subject, cancel);
    }

    private int CharacterId(string? name) => name is not null && _subjects.TryGetValue((SubjectKind.Character, name), out var id) ? id : 0;

    internal static OldLedger.Old EntryOf(OldStudio.Row r) =>
        new(
            r.Text("Operation"),
            r.Int("Version"),
            JsonNode.Parse(r.Text("Parameters")) as JsonObject ?? [],
            r.Int("On") != 0,
            r.Text("Summary"),
            r.Time("CreatedUtc")
        );
}
