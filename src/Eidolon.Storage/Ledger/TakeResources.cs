using System.Text;
using Eidolon.Core;
using Eidolon.Core.Characters;
using Eidolon.Core.Clipping;
using Eidolon.Core.Faces;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Hands;
using Eidolon.Core.Labelling;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Optical;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.Storage.Blobs;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Eidolon.Storage.Samples;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Ledger;

/// <summary>
/// What operations on a take may use, as the library is now: each subject in the version the take stays with, or the newest. A scene has no
/// take; characters answer there too.
/// </summary>
public sealed class TakeResources(IDbContextFactory<EidolonDb> factory, ResourceMemory memory, BlobStore blobs, int? takeId) : IResources
{
    private readonly Dictionary<int, (Subject Subject, SubjectVersion? Version)> _subjects = [];
    private Take? _take;
    private (int? Id, string Json)? _set;

    public UInt128 Hash(ResourceKey key) =>
        key.Kind switch
        {
            ResourceKind.MarkerSet => ContentHash.Of(Set()),
            ResourceKind.Performer => HashOf(Part(key.Id)),
            ResourceKind.Performers => Hash(Known),
            ResourceKind.References => Hash(Performing),
            ResourceKind.Props => ContentHash.Of(string.Join('|', PropParts.Select(p => ContentHash.Text(Markers(p.SubjectId))))),
            ResourceKind.Pictures => PicturesHash(),
            ResourceKind.Gloves => ParseHash(Stream(StreamKind.Gloves, key.Id, key.Recording).Content),
            ResourceKind.Face => ParseHash(Stream(StreamKind.Face, key.Id, key.Recording).Content),
            ResourceKind.Character => ParseHash(Version(key.Id).Content),
            ResourceKind.Prop => Markers(key.Id),
            _ => throw new NotSupportedException($"{key.Kind} has no hash"),
        };

    /// <summary>Of a prop results depend on its markers, not on what it is seen as.</summary>
    private UInt128 Markers(int prop) => ContentHash.Of(Version(prop).Body);

    public MarkerSet MarkerSet() => memory.Of(Set(), () => MarkerSetJson.Read(Encoding.UTF8.GetBytes(Set()), "marker set"));

    public TakePerformer Performer(int subject)
    {
        var part = Part(subject);
        return new TakePerformer(subject, PrefixOf(part), Body(part));
    }

    public IReadOnlyList<TakePerformer> Performers() => [.. Known.Select(p => new TakePerformer(p.SubjectId, PrefixOf(p), Body(p)))];

    public IReadOnlyList<LabelSubject> References(CancellationToken cancel) =>
        Performing.Count == 0
            ? throw new RefusedException("nobody is on the slate of this take: say who performed")
            : [.. Performing.Select(p => new LabelSubject(PrefixOf(p), Body(p), Poses(p)))];

    public (CentroidTake Seen, CameraRing Ring) Pictures()
    {
        var (stream, calibration) = PictureRows();
        var ring = CameraRingJson.Read(Encoding.UTF8.GetBytes(calibration.Cameras), "calibration");
        using var db = factory.CreateDbContext();
        return (new SampleStore(db).ReadCentroids(stream, ring.Count, Take.Name), ring);
    }

    public GloveTake Gloves(int subject, int recording = 1)
    {
        using var db = factory.CreateDbContext();
        return new SampleStore(db).ReadGloves(Stream(StreamKind.Gloves, subject, recording), Take.Name);
    }

    public FaceTake Face(int subject, int recording = 1)
    {
        using var db = factory.CreateDbContext();
        return new SampleStore(db).ReadFace(Stream(StreamKind.Face, subject, recording), Take.Name);
    }

    public Skeleton Character(int subject)
    {
        var (row, version) = (Find(subject).Subject, Version(subject));
        return memory.Of(version.Content, () =>
        {
            using var db = factory.CreateDbContext();
            return SubjectLibrary.Rig(db, blobs, row, version);
        });
    }

    public BodyVolumes Volumes(int subject)
    {
        var (row, version) = (Find(subject).Subject, Version(subject));
        return memory.Of(version.Content, () =>
        {
            using var db = factory.CreateDbContext();
            return SubjectLibrary.Volumes(db, blobs, row, version);
        });
    }

    public RigidBody Prop(int subject) =>
        memory.Of(Version(subject).Content, () => RigidBodyJson.Read(Version(subject).Body, Find(subject).Subject.Name));

    public IReadOnlyList<RigidBody> Props() => [.. PropParts.Select(p => Prop(p.SubjectId))];

    /// <summary>Props of the slate that have markers.</summary>
    private IEnumerable<TakePart> PropParts => Take.Props.Where(p => Find(p.SubjectId).Version is { Body.Length: > 0 });

    private Take Take
    {
        get
        {
            if (_take is null)
            {
                using var db = factory.CreateDbContext();
                _take = db.Takes.AsNoTracking()
                    .Include(t => t.Parts)
                        .ThenInclude(p => p.Subject)
                    .Include(t => t.Streams)
                    .AsSplitQuery()
                    .FirstOrDefault(t => t.Id == takeId)
                    ?? throw new RefusedException("the take is gone");
            }

            return _take;
        }
    }

    private IReadOnlyList<TakePart> Performing => [.. Take.Performers];

    /// <summary>Those that are measured.</summary>
    private IEnumerable<TakePart> Known => Performing.Where(p => Find(p.SubjectId).Version is { Measured: true });

    private TakePart Part(int subject) =>
        Take.Parts.Find(p => p.SubjectId == subject)
        ?? throw new RefusedException("this performer is not on the slate of the take (any more)");

    private static string? PrefixOf(TakePart part) => part.Prefix.Length == 0 ? null : part.Prefix;

    private UInt128 Hash(IEnumerable<TakePart> parts) => ContentHash.Of(string.Join('|', parts.Select(p => ContentHash.Text(HashOf(p)))));

    private UInt128 HashOf(TakePart part) => ContentHash.Of($"{part.Prefix}|{Measured(part).Content}");

    private SubjectVersion Measured(TakePart part)
    {
        var (subject, version) = Find(part.SubjectId);
        return version is { Measured: true }
            ? version
            : throw new RefusedException($"{subject.Name} is not measured yet: record a range-of-motion take, then measure them from it");
    }

    private Performer Body(TakePart part)
    {
        var version = Measured(part);
        return memory.Of(version.Content, () =>
            PerformerJson.Read(Encoding.UTF8.GetBytes(version.Body), Find(part.SubjectId).Subject.Name)
        );
    }

    private IReadOnlyList<ModelPose> Poses(TakePart part)
    {
        var version = Measured(part);
        return version.Poses.Length == 0
            ? throw new RefusedException(
                $"no labelled take taught the shape of {Find(part.SubjectId).Subject.Name} yet: measure them from one"
            )
            : memory.Of<IReadOnlyList<ModelPose>>(version.Content, () => PoseListJson.Read(version.Poses, Body(part)));
    }

    /// <summary>The version of a subject that results of this take are made with; null where it has none yet.</summary>
    public SubjectVersion? VersionOf(int subject) => Find(subject).Version;

    private SubjectVersion Version(int subject)
    {
        var (row, version) = Find(subject);
        return version ?? throw new RefusedException($"{row.Name} has nothing in the library yet");
    }

    /// <summary>A subject, in the version the take stays with or the newest.</summary>
    private (Subject Subject, SubjectVersion? Version) Find(int id)
    {
        if (!_subjects.TryGetValue(id, out var found))
        {
            using var db = factory.CreateDbContext();
            var subject = db.Subjects.AsNoTracking().FirstOrDefault(s => s.Id == id)
                ?? throw new RefusedException("that subject is gone from the library");
            var number = (takeId is null ? null : Take.Parts.Find(p => p.SubjectId == id)?.Version) ?? subject.Version;
            found = (subject, db.SubjectVersions.AsNoTracking().FirstOrDefault(v => v.SubjectId == id && v.Number == number));
            _subjects[id] = found;
        }

        return found;
    }

    private string Set()
    {
        using var db = factory.CreateDbContext();
        if (_set is null)
        {
            var id = Take.MarkerSetId
                ?? db.Productions.AsNoTracking().Where(p => p.Id == Take.ProductionId).Select(p => p.MarkerSetId).FirstOrDefault();
            _set = (id, db.MarkerSets.AsNoTracking().Where(s => s.Id == id).Select(s => s.Json).FirstOrDefault() ?? string.Empty);
        }

        return _set.Value.Json.Length > 0
            ? _set.Value.Json
            : throw new RefusedException("no marker set is chosen: choose one on the take's slate, or one for the production");
    }

    private SampleStream Stream(StreamKind kind, int subject, int recording)
    {
        var name = kind == StreamKind.Gloves ? StreamNames.Gloves(subject, recording) : StreamNames.Face(subject, recording);
        return Take.Streams.Find(s => s.Kind == kind && s.Name == name)
            ?? throw new RefusedException(
                recording > 1
                    ? $"recording {recording} of {(kind == StreamKind.Gloves ? "the gloves" : "the face")} is gone: choose another one"
                : kind == StreamKind.Gloves ? "no gloves were recorded in this take"
                : "no face was recorded in this take"
            );
    }

    private UInt128 PicturesHash()
    {
        var (stream, calibration) = PictureRows();
        using var db = factory.CreateDbContext();
        var pieces = db.Chunks.Where(c => c.StreamId == stream.Id).OrderBy(c => c.FirstFrame).Select(c => c.Hash).ToList();
        return ContentHash.Of($"{string.Join(',', pieces)}|{stream.LeftOut}|{calibration.Cameras}");
    }

    private (SampleStream Stream, CalibrationRow Calibration) PictureRows()
    {
        using var db = factory.CreateDbContext();
        var calibration = Take.CalibrationId is { } id ? db.Calibrations.AsNoTracking().FirstOrDefault(c => c.Id == id) : null;
        if (calibration is null)
        {
            throw new RefusedException("the take was not recorded by the camera ring: there are no pictures to reconstruct from");
        }

        var stream = Take.Streams.Find(s => s.Kind == StreamKind.Centroids) ?? throw new RefusedException("the take holds no 2D pictures");
        return (stream, calibration);
    }

    private static UInt128 ParseHash(string text) =>
        ContentHash.TryParse(text, out var hash) ? hash : throw new DamagedDataException("a library version has no content hash");
}
