using Eidolon.Core.Formats.Json;
using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Solving;
using Eidolon.Storage;
using Eidolon.Studio.Services;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Live;

/// <summary>Who and what is before the cameras: calibrated performers and props, read from the production.</summary>
public sealed class LiveCast(IDbContextFactory<EidolonDb> factory, ResourceMemory memory)
{
    /// <summary>A live body of a performer; null when they are not measured yet.</summary>
    public LiveBody? Body(string name, BodyPart part)
    {
        using var db = factory.CreateDbContext();
        var row = db.Performers.AsNoTracking().FirstOrDefault(p => p.Name == name);
        if (row is null || row.Body.Length == 0)
        {
            return null;
        }

        var version = $"{row.Name}:{row.ReferenceTakeId}:{row.Body.Length}";
        var subject = memory.Subjects.GetOrAdd(version, _ =>
        {
            var performer = PerformerJson.Read(System.Text.Encoding.UTF8.GetBytes(row.Body), row.Name);
            var reference = db.Takes.AsNoTracking().First(t => t.Id == row.ReferenceTakeId);
            return LabelSubject.From(null, performer, new SampleStore(db).ReadMarkers(reference).GetAwaiter().GetResult());
        });
        return new LiveBody(part == BodyPart.Whole ? subject : subject with { Performer = Only(subject.Performer, part) });
    }

    public IReadOnlyList<RigidBody> Props()
    {
        using var db = factory.CreateDbContext();
        return [.. db.Props.AsNoTracking().OrderBy(p => p.Name).AsEnumerable().Select(p => RigidBodyJson.Read(p.Markers, p.Name))];
    }

    private static Performer Only(Performer whole, BodyPart part) =>
        whole with
        {
            Markers = [.. whole.Markers.Where(m => part.Has(whole.Skeleton[m.Joint].Role!.Value))],
        };
}
