using Eidolon.Core.Markers;
using Eidolon.Storage;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>Performers and props as their own pages show them.</summary>
public sealed class ShelfService(EidolonDb db, SubjectLibrary library)
{
    /// <summary>Versions before the current one, the latest first, without their contents.</summary>
    public async Task<IReadOnlyList<SubjectVersion>> Older(Subject subject, CancellationToken cancel) =>
        await db
            .SubjectVersions.AsNoTracking()
            .Where(v => v.SubjectId == subject.Id && v.Number != subject.Version)
            .OrderByDescending(v => v.Number)
            .Select(v => new SubjectVersion
            {
                Number = v.Number,
                Content = v.Content,
                Why = v.Why,
                CreatedUtc = v.CreatedUtc,
            })
            .ToListAsync(cancel);

    /// <summary>Takes a performer can be measured from, ranges of motion first.</summary>
    public async Task<IReadOnlyList<Take>> References(int performer, CancellationToken cancel) =>
        await db
            .Takes.AsNoTracking()
            .Where(t => t.State == TakeState.Kept && t.Parts.Any(p => p.SubjectId == performer))
            .OrderByDescending(t => t.SetUp.Contains("rom"))
            .ThenBy(t => t.Name)
            .ToListAsync(cancel);

    /// <summary>A performer's name if it is on the take; null otherwise.</summary>
    public Task<string?> OnTake(int performer, int take, CancellationToken cancel) =>
        db.Parts.Where(p => p.TakeId == take && p.SubjectId == performer).Select(p => p.Subject!.Name).FirstOrDefaultAsync(cancel);

    /// <summary>The version of a subject that counts now.</summary>
    public SubjectVersion? Current(int subject) => SubjectLibrary.Current(db, subject).Version;

    /// <summary>The first performer who is measured: nobody else can be followed live; null when there is none.</summary>
    public async Task<Subject?> FirstMeasured(CancellationToken cancel)
    {
        var performers = await db.Shelf.AsNoTracking().Where(s => s.Kind == SubjectKind.Performer).OrderBy(s => s.Id).ToListAsync(cancel);
        return performers.Find(p => library.Known(p.Id) is not null);
    }

    /// <summary>All props with their bodies.</summary>
    public IReadOnlyList<Prop> Props() => [.. library.Props().Select(p => new Prop(p.Subject, Current(p.Subject.Id)!, p.Body))];

    /// <summary>A name no prop has yet.</summary>
    public async Task<string> FreePropName(CancellationToken cancel)
    {
        var names = await db.Shelf.Where(s => s.Kind == SubjectKind.Prop).Select(s => s.Name).ToListAsync(cancel);
        return Enumerable.Range(1, names.Count + 1).Select(i => $"Prop {i}").First(n => !names.Contains(n));
    }

    /// <summary>A prop with its version and its markers.</summary>
    public sealed record Prop(Subject Subject, SubjectVersion Version, RigidBody Body);
}
