using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Ledger;

/// <summary>Makes the rows of a take: who took part, and its nodes. Samples are written by whoever has them.</summary>
public static class TakeMaker
{
    /// <summary>
    /// Puts performers and props on a take's slate, in this order, and saves it. A performer who is not alone has their name before their
    /// markers' names.
    /// </summary>
    public static async Task<Take> Add(
        EidolonDb db,
        Take take,
        IReadOnlyList<int> performers,
        IReadOnlyList<int> props,
        CancellationToken cancel = default
    )
    {
        take.ProductionId = await db.Days.Where(d => d.Id == take.ShootDayId).Select(d => d.ProductionId).FirstAsync(cancel);
        (take.Through, take.CreatedUtc) = (1, take.CreatedUtc == default ? DateTime.UtcNow : take.CreatedUtc);
        var names = await db.Subjects.Where(s => performers.Contains(s.Id)).ToDictionaryAsync(s => s.Id, s => s.Name, cancel);
        foreach (var id in performers.Concat(props).Distinct())
        {
            take.Parts.Add(
                new TakePart
                {
                    SubjectId = id,
                    Position = take.Parts.Count,
                    Prefix = performers.Count > 1 && names.TryGetValue(id, out var name) ? name : string.Empty,
                }
            );
        }

        db.Takes.Add(take);
        await db.SaveChangesAsync(cancel);
        await TakeNodes.Ensure(db, take, cancel);
        return take;
    }

    /// <summary>A name that no take of the production has yet: the one that is wished for, else with a count.</summary>
    public static async Task<string> FreeName(EidolonDb db, int day, string wish, CancellationToken cancel = default)
    {
        var production = await db.Days.Where(d => d.Id == day).Select(d => d.ProductionId).FirstOrDefaultAsync(cancel);
        var name = wish;
        for (var k = 2; await db.Takes.AnyAsync(t => t.ProductionId == production && t.Name == name, cancel); k++)
        {
            name = $"{wish}_{k}";
        }

        return name;
    }
}
