using System.Collections.Concurrent;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Optical;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.StandIns.People;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>What operations on a take may use: the production's marker set, performers, characters and other takes.</summary>
public sealed class StudioResources(IDbContextFactory<EidolonDb> factory, ResultCache cache, ResourceMemory memory, Take take)
    : IResources,
        IVersioned
{
    private IReadOnlyList<PerformerRow>? _rows;
    private string? _set;

    private IReadOnlyList<PerformerRow> Rows => _rows ??= Find();

    private PerformerRow Row => Rows[0];

    private string SetJson => _set ??= take.MarkerSet.Length == 0 ? string.Empty : Set();

    public string Version => string.Join(';', Rows.Select(VersionOf).Append(SetJson));

    /// <summary>The set chosen on the slate, else the production's own.</summary>
    public MarkerSet MarkerSet() =>
        SetJson.Length == 0
            ? HarbourMarkers.Set()
            : MarkerSetJson.Read(System.Text.Encoding.UTF8.GetBytes(SetJson), $"marker set {take.MarkerSet}");

    public Performer Performer() => memory.Performers.GetOrAdd(VersionOf(Row), _ => Measured(Row));

    /// <summary>Performers of the take that are calibrated, each with the name in front of its markers (null with one performer).</summary>
    public IReadOnlyList<(string? Prefix, Performer Body)> KnownPerformers() =>
        [
            .. Rows.Where(r => r.Body.Length > 0)
                .Select(r => (Rows.Count == 1 ? null : r.Name, memory.Performers.GetOrAdd(VersionOf(r), _ => Measured(r)))),
        ];

    public IReadOnlyList<LabelSubject> Subjects(CancellationToken cancel) =>
        [
            .. Rows.Select(row =>
            {
                var subject = memory.Subjects.GetOrAdd(VersionOf(row), _ => LabelSubject.From(null, Measured(row), Reference(row), cancel));
                return Rows.Count == 1 ? subject : subject with { Prefix = row.Name };
            }),
        ];

    public Skeleton Character(string name) => memory.Characters.GetOrAdd(name, _ =>
        {
            using var db = factory.CreateDbContext();
            var row = db.Characters.AsNoTracking().FirstOrDefault(c => c.Name == name)
                ?? throw new ArgumentException($"there is no character '{name}'");
            var binding = GltfReader.GltfBindingOf(GltfReader.Open(row.Glb, name + ".glb"), name);
            return RoleFinder.Assign(binding.Skeleton, null, name);
        });

    public Motion Clip(string takeName, string character)
    {
        using var db = factory.CreateDbContext();
        var other = db.Takes.Include(t => t.Ledger).AsNoTracking().FirstOrDefault(t => t.Name == takeName)
            ?? throw new ArgumentException($"there is no take '{takeName}'");
        var entries = TakeLedger.Entries(other);
        var last = entries.ToList().FindLastIndex(e => e.On && e.Operation == MotionOperations.Retarget.Name);
        if (last < 0)
        {
            throw new ArgumentException($"{takeName} is not retargeted yet");
        }

        var resources = new StudioResources(factory, cache, memory, other);
        var raw = new SampleStore(db).ReadRaw(other).GetAwaiter().GetResult();
        // The clip on this take's character: the other take's solve, retargeted here when it was made for somebody else.
        var list = entries.Take(last + 1).ToList();
        if (character.Length > 0 && (string?)list[last].Parameters["character"] != character)
        {
            var parameters = list[last].Parameters.DeepClone().AsObject();
            parameters["character"] = character;
            list[last] = list[last] with { Parameters = parameters };
        }

        var seed = System.IO.Hashing.XxHash128.HashToUInt128(System.Text.Encoding.UTF8.GetBytes($"{other.RawHash}|{resources.Version}"));
        return Ledger.Run(() => raw, seed, list, new OperationContext(resources), cache).Data.Character!;
    }

    /// <summary>The take's raw 2D and the calibration it was recorded with.</summary>
    public (CentroidTake Seen, CameraRing Ring) Pictures()
    {
        using var db = factory.CreateDbContext();
        var row = take.CalibrationId is { } id ? db.Calibrations.AsNoTracking().FirstOrDefault(c => c.Id == id) : null;
        if (row is null)
        {
            throw new ArgumentException("the take was not recorded by the camera ring: there are no pictures to reconstruct from");
        }

        var ring = CameraRingJson.Read(System.Text.Encoding.UTF8.GetBytes(row.Cameras), "calibration");
        return (
            new SampleStore(db).ReadCentroids(take, ring.Count).GetAwaiter().GetResult()
                ?? throw new ArgumentException("the take holds no 2D pictures"),
            ring
        );
    }

    private static string VersionOf(PerformerRow row) => $"{row.Name}:{row.ReferenceTakeId}:{row.Body.Length}";

    private static Performer Measured(PerformerRow row) =>
        row.Body.Length == 0
            ? throw new ArgumentException($"{row.Name} is not calibrated yet: record a range-of-motion take first")
            : PerformerJson.Read(System.Text.Encoding.UTF8.GetBytes(row.Body), row.Name);

    private string Set()
    {
        using var db = factory.CreateDbContext();
        return db.MarkerSets.AsNoTracking().FirstOrDefault(s => s.Name == take.MarkerSet)?.Json
            ?? throw new ArgumentException($"there is no marker set '{take.MarkerSet}' any more: choose another on the take's slate");
    }

    /// <summary>The performers of the take, in the order of the slate.</summary>
    private List<PerformerRow> Find()
    {
        using var db = factory.CreateDbContext();
        return
        [
            .. take
                .Performer.Split(", ")
                .Select(name =>
                    db.Performers.AsNoTracking().FirstOrDefault(p => p.Name == name)
                    ?? throw new ArgumentException($"there is no performer '{name}'")
                ),
        ];
    }

    private MarkerTake Reference(PerformerRow row)
    {
        using var db = factory.CreateDbContext();
        var reference = db.Takes.AsNoTracking().FirstOrDefault(t => t.Id == row.ReferenceTakeId)
            ?? throw new ArgumentException($"the reference take of {row.Name} is gone");
        return new SampleStore(db).ReadMarkers(reference).GetAwaiter().GetResult();
    }
}
