using Eidolon.Core;
using Eidolon.Core.Operations;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>Recipes: saved from a take's Ledger, run on others; all entries of one or none.</summary>
public sealed class RecipeService(IDbContextFactory<EidolonDb> factory, LedgerBook book, JobQueue jobs)
{
    /// <summary>Saves chosen entries of a take under a name.</summary>
    /// <exception cref="RefusedException">The name is taken or empty, or an entry does not fit; says why.</exception>
    public async Task<RecipeRow> Save(int takeId, string? name, IReadOnlyCollection<int> rows, CancellationToken cancel)
    {
        await using var db = factory.CreateDbContext();
        var production = await db.Takes.Where(t => t.Id == takeId).Select(t => (int?)t.ProductionId).FirstOrDefaultAsync(cancel);
        if (production is null)
        {
            throw new RefusedException("there is no such take");
        }

        name = (name ?? string.Empty).Trim();
        if (
            name.Length is 0 or > LedgerService.LongestName
            || await db.Recipes.AnyAsync(r => r.ProductionId == production && r.Name == name, cancel)
        )
        {
            throw new RefusedException(
                name.Length is 0 or > LedgerService.LongestName
                    ? "a Recipe wants a name of 1 to 60 letters"
                    : $"there is a Recipe '{name}' already"
            );
        }

        // Alike entries of several performers are one in a Recipe: it runs for all of them again.
        var entries = new List<Entry>();
        foreach (
            var e in book.Read(LedgerOwner.Take(takeId))
                .Nodes.OrderBy(n => n.Kind)
                .SelectMany(n => n.Entries)
                .Where(e => rows.Contains(e.Id))
                .Select(e => e.Entry)
        )
        {
            if (!entries.Exists(e.Means))
            {
                entries.Add(e);
            }
        }

        var row = new RecipeRow
        {
            ProductionId = production.Value,
            Name = name,
            Entries = Recipe.Write(entries),
        };
        db.Recipes.Add(row);
        await db.SaveChangesAsync(cancel);
        return row;
    }

    /// <summary>All Recipes by name.</summary>
    public async Task<IReadOnlyList<RecipeRow>> All(CancellationToken cancel)
    {
        await using var db = factory.CreateDbContext();
        return await db.Recipes.AsNoTracking().OrderBy(r => r.Name).ToListAsync(cancel);
    }

    /// <summary>A shoot day in numbers.</summary>
    /// <param name="Days">All days by date.</param>
    /// <param name="Day">The one asked for, else the last; null in a studio without any.</param>
    /// <param name="Takes">Its kept takes by name.</param>
    /// <param name="Entries">Entries that are on, by take.</param>
    /// <param name="Last">The last run of a Recipe on each take.</param>
    public sealed record DayTable(
        IReadOnlyList<ShootDay> Days,
        ShootDay? Day,
        IReadOnlyList<Take> Takes,
        IReadOnlyDictionary<int, int> Entries,
        IReadOnlyDictionary<int, JobRow> Last
    );

    public async Task<DayTable> Of(int? day, CancellationToken cancel)
    {
        await using var db = factory.CreateDbContext();
        var days = await db.Days.AsNoTracking().OrderBy(d => d.Date).ToListAsync(cancel);
        var shown = days.Find(d => d.Id == day) ?? days.LastOrDefault();
        var id = shown?.Id ?? 0;
        var takes = await db
            .Takes.AsNoTracking()
            .Where(t => t.ShootDayId == id && t.State == TakeState.Kept)
            .OrderBy(t => t.Name)
            .ToListAsync(cancel);
        var own = takes.ConvertAll(t => (int?)t.Id);
        var entries = await db
            .Entries.Where(e => e.On)
            .Join(db.Nodes.Where(n => own.Contains(n.TakeId)), e => e.NodeId, n => n.Id, (_, n) => n.TakeId!.Value)
            .GroupBy(t => t)
            .Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count, cancel);
        var ran = await db.Jobs.AsNoTracking().Where(j => j.Kind == JobKinds.Recipe && own.Contains(j.TakeId)).ToListAsync(cancel);
        return new DayTable(
            days,
            shown,
            takes,
            entries,
            ran.GroupBy(j => j.TakeId!.Value).ToDictionary(g => g.Key, g => g.MaxBy(j => j.Id)!)
        );
    }

    /// <summary>Puts a Recipe in the queue for those of the takes that are kept.</summary>
    /// <returns>False when there is no such Recipe.</returns>
    public async Task<bool> Start(int recipe, IReadOnlyCollection<int> takes, CancellationToken cancel)
    {
        await using var db = factory.CreateDbContext();
        if (await db.Recipes.AsNoTracking().FirstOrDefaultAsync(r => r.Id == recipe, cancel) is not { } row)
        {
            return false;
        }

        foreach (
            var take in await db
                .Takes.AsNoTracking()
                .Where(t => takes.Contains(t.Id) && t.State == TakeState.Kept)
                .OrderBy(t => t.Name)
                .ToListAsync(cancel)
        )
        {
            await Start(take, row, cancel);
        }

        return true;
    }

    /// <summary>Puts a Recipe in the queue for one take.</summary>
    public Task<JobRow> Start(Take take, RecipeRow recipe, CancellationToken cancel)
    {
        var entries = Recipe.Read(recipe.Entries).Select(e => new NewEntry(e.Operation, e.Parameters));
        return jobs.Change(
            LedgerOwner.Take(take.Id),
            $"{recipe.Name}, {take.Name}",
            new AddEntries([.. entries]),
            kind: JobKinds.Recipe,
            cancel: cancel
        );
    }
}
