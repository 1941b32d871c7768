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
