using System.Text.Json.Nodes;
using Eidolon.Core.Operations;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>Recipes: saved from a take's Ledger, run on others; all entries of one or none.</summary>
public sealed class RecipeService(TakeService takes)
{
    /// <summary>The kind of job that runs one.</summary>
    public const string JobKind = "recipe";

    /// <summary>Saves chosen entries of a take under a name.</summary>
    /// <exception cref="ArgumentException">The name is taken or empty, or an entry does not fit; says why.</exception>
    public async Task<RecipeRow> Save(int takeId, string? name, IReadOnlyCollection<int> rows, CancellationToken cancel)
    {
        var db = takes.Db;
        name = (name ?? string.Empty).Trim();
        if (name.Length is 0 or > 60 || await db.Recipes.AnyAsync(r => r.Name == name, cancel))
        {
            throw new ArgumentException(
                name.Length is 0 or > 60 ? "a Recipe wants a name of 1 to 60 letters" : $"there is a Recipe '{name}' already"
            );
        }

        var take = await db.Takes.Include(t => t.Day).Include(t => t.Ledger).AsNoTracking().FirstAsync(t => t.Id == takeId, cancel);
        var entries = take
            .Ledger.Where(l => rows.Contains(l.Id))
            .OrderBy(l => l.Position)
            .Select(l => OperationRegistry.Find(l.Operation).Entry(JsonNode.Parse(l.Parameters) as JsonObject))
            .ToList();
        var row = new RecipeRow
        {
            ProductionId = take.Day!.ProductionId,
            Name = name,
            Entries = Recipe.Write(entries),
        };
        db.Recipes.Add(row);
        await db.SaveChangesAsync(cancel);
        return row;
    }

    /// <summary>Runs a Recipe on a take; what went before is restored when an entry fails or the person stops it.</summary>
    /// <returns>What changed, entry by entry, and the Findings before and after.</returns>
    public async Task<string> Run(int takeId, int recipeId, IProgress<double>? progress, CancellationToken cancel)
    {
        var recipe = await takes.Db.Recipes.AsNoTracking().FirstOrDefaultAsync(r => r.Id == recipeId, cancel)
            ?? throw new ArgumentException("the Recipe is gone");
        var entries = Recipe.Read(recipe.Entries);
        var before = await Findings(takeId, cancel);
        var said = new List<string>();
        try
        {
            for (var i = 0; i < entries.Count; i++)
            {
                var part = i;
                var row = await takes.Keep(takeId, entries[i], progress is null ? null : new Part(progress, part, entries.Count), cancel);
                said.Add($"{OperationRegistry.Find(entries[i].Operation).Title.ToLowerInvariant()}: {row.Summary}");
            }
        }
        catch (Exception e)
        {
            foreach (var _ in said)
            {
                await takes.TakeBack(takeId, CancellationToken.None);
            }

            if (e is ArgumentException)
            {
                throw new ArgumentException($"{OperationRegistry.Find(entries[said.Count].Operation).Title}: {e.Message}", e);
            }

            throw;
        }

        var after = await Findings(takeId, cancel);
        return $"{string.Join("; ", said)}. Must fix {before.MustFix} → {after.MustFix}, look {before.Look} → {after.Look}";
    }

    private async Task<(int MustFix, int Look)> Findings(int takeId, CancellationToken cancel)
    {
        var t = await takes.Db.Takes.AsNoTracking().Where(t => t.Id == takeId).Select(t => new { t.MustFix, t.Look }).FirstAsync(cancel);
        return (t.MustFix, t.Look);
    }

    private sealed class Part(IProgress<double> whole, int index, int count) : IProgress<double>
    {
        public void Report(double value) => whole.Report((index + value) / count);
    }
}
