using Eidolon.Storage;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>What the next slate begins with: the day, who and what can be on it, the takes just kept.</summary>
public sealed class RecordDesk(EidolonDb db)
{
    /// <param name="Template">The take it goes on from, if one was named.</param>
    /// <param name="Shelf">Performers, props and the characters a performer may drive live, by name.</param>
    /// <param name="SetUp">The template's, else the last take's; null in a production without takes.</param>
    /// <param name="JustKept">The three takes kept last.</param>
    public sealed record Begin(
        ShootDay Day,
        Take? Template,
        IReadOnlyList<Subject> Shelf,
        string? SetUp,
        IReadOnlyList<Take> JustKept,
        IReadOnlyList<MarkerSetRow> Sets
    );

    /// <summary>Null in a studio without a shoot day.</summary>
    public async Task<Begin?> Open(int? from, CancellationToken cancel)
    {
        var template = from is { } id
            ? await db.Takes.Include(t => t.Day).Include(t => t.Parts).AsNoTracking().FirstOrDefaultAsync(t => t.Id == id, cancel)
            : null;
        var day = template?.Day ?? await db.Days.OrderByDescending(d => d.Date).AsNoTracking().FirstOrDefaultAsync(cancel);
        if (day is null)
        {
            return null;
        }

        var shelf = await db.Shelf.AsNoTracking().Where(s => s.ProductionId == day.ProductionId).OrderBy(s => s.Name).ToListAsync(cancel);
        var kept = await db
            .Takes.AsNoTracking()
            .Where(t => t.ShootDayId == day.Id && t.State == TakeState.Kept)
            .OrderByDescending(t => t.CreatedUtc)
            .Take(3)
            .ToListAsync(cancel);
        var sets = await db
            .MarkerSets.AsNoTracking()
            .Where(s => s.ProductionId == day.ProductionId)
            .OrderBy(s => s.Name)
            .ToListAsync(cancel);
        var setUp = template?.SetUp
            ?? await db
                .Takes.Where(t => t.ProductionId == day.ProductionId && t.State == TakeState.Kept)
                .OrderByDescending(t => t.CreatedUtc)
                .Select(t => t.SetUp)
                .FirstOrDefaultAsync(cancel);
        return new Begin(day, template, shelf, setUp, kept, sets);
    }

    /// <summary>The number the next take of a set-up has.</summary>
    public async Task<int> NextNumber(int production, string setUp, CancellationToken cancel) =>
        1 + (await db.Takes.Where(t => t.ProductionId == production && t.SetUp == setUp).Select(t => (int?)t.Number).MaxAsync(cancel) ?? 0);
}
