using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Eidolon.Studio.Pages;

/// <summary>The day in numbers, and Recipes run on many of its takes at once.</summary>
public sealed class RecipesModel(RecipeService recipes) : PageModel
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
        if (takes.Length == 0 || !await recipes.Start(recipe, takes, cancel))
        {
            Error = takes.Length == 0 ? "Tick the takes it shall run on." : "Choose a Recipe.";
            await Load(day, cancel);
            return Page();
        }

        return RedirectToPage(new { day });
    }

    private async Task Load(int? day, CancellationToken cancel)
    {
        (Days, Day, Takes, Entries, Last) = await recipes.Of(day, cancel);
        Recipes = await recipes.All(cancel);
    }
}
