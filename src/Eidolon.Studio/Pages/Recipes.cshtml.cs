using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Pages;

/// <summary>The day in numbers, and Recipes run on many of its takes at once.</summary>
public sealed class RecipesModel(EidolonDb db, RecipeService recipes) : PageModel
{
    public IReadOnlyList<ShootDay> Days { get; private set; } = [];

    public ShootDay? Day { get; private set; }

    public IReadOnlyList<Take> Takes { get; private set; } = [];

    public IReadOnlyList<RecipeRow> Recipes { get; private set; } = [];

    /// <summary>The last run of a Recipe on each take.</summary>
    public IReadOnlyDictionary<int, JobRow> Last { get; private set; } = new Dictionary<int, JobRow>();

    /// <summary>Entries that are on, by take.</summary>
    public IReadOnlyDictionary<int, int> Entries { get; private set; } = new Dictionary<int, int>();

    public string Error { get; private set; } = string.Empty;

    /// <summary>Is one still waiting or running?</summary>
    public bool Busy => Last.Values.Any(j => j.State is JobState.Waiting or JobState.Running);

    public static string Words(RecipeRow recipe) =>
        string.Join(", ", Recipe.Read(recipe.Entries).Select(e => OperationRegistry.TitleOf(e.Operation).ToLowerInvariant()));

    public async Task<IActionResult> OnGetAsync(int? day, CancellationToken cancel)
    {
        await Load(day, cancel);
        return Request.Headers.ContainsKey("HX-Request") ? Partial("_DayTable", this) : Page();
    }

    public async Task<IActionResult> OnPostRunAsync(int? day, int recipe, int[] takes, CancellationToken cancel)
    {
        var row = await db.Recipes.AsNoTracking().FirstOrDefaultAsync(r => r.Id == recipe, cancel);
        if (row is null || takes.Length == 0)
        {
            Error = row is null ? "Choose a Recipe." : "Tick the takes it shall run on.";
            await Load(day, cancel);
            return Page();
        }

        foreach (
            var take in await db
                .Takes.AsNoTracking()
                .Where(t => takes.Contains(t.Id) && t.State == TakeState.Kept)
                .OrderBy(t => t.Name)
                .ToListAsync(cancel)
        )
        {
            await recipes.Start(take, row, cancel);
        }

        return RedirectToPage(new { day });
    }

    private async Task Load(int? day, CancellationToken cancel)
    {
        Days = await db.Days.AsNoTracking().OrderBy(d => d.Date).ToListAsync(cancel);
        Day = Days.FirstOrDefault(d => d.Id == day) ?? (Days.Count == 0 ? null : Days[^1]);
        var id = Day?.Id ?? 0;
        Takes = await db
            .Takes.AsNoTracking()
            .Where(t => t.ShootDayId == id && t.State == TakeState.Kept)
            .OrderBy(t => t.Name)
            .ToListAsync(cancel);
        Recipes = await db.Recipes.AsNoTracking().OrderBy(r => r.Name).ToListAsync(cancel);
        var own = Takes.Select(t => (int?)t.Id).ToList();
        Entries = await db
            .Entries.Where(e => e.On)
            .Join(db.Nodes.Where(n => own.Contains(n.TakeId)), e => e.NodeId, n => n.Id, (_, n) => n.TakeId!.Value)
            .GroupBy(t => t)
            .Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count, cancel);
        var ran = await db.Jobs.AsNoTracking().Where(j => j.Kind == JobKinds.Recipe && own.Contains(j.TakeId)).ToListAsync(cancel);
        Last = ran.GroupBy(j => j.TakeId!.Value).ToDictionary(g => g.Key, g => g.MaxBy(j => j.Id)!);
    }
}
