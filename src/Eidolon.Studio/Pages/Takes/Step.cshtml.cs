using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core.Markers;
using Eidolon.Core.Quality;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>A take at one of its Steps. The page is thin: it opens the take, and every change is a Ledger entry.</summary>
public sealed class StepModel(TakeService takes, JobQueue jobs, JobCancels cancels, HandOffService handOffs, RecipeService recipes) : PageModel
{
    [BindProperty(SupportsGet = true, Name = "id")]
    public int Id { get; set; }

    [BindProperty(SupportsGet = true, Name = "step")]
    public string Step { get; set; } = "label";

    public OpenTake Open { get; private set; } = null!;

    public Take Take => Open.Take;

    public int Index => Math.Max(0, StepThread.Names.ToList().FindIndex(n => n.Equals(Step, StringComparison.OrdinalIgnoreCase)));

    public bool[] Through { get; private set; } = [];

    public IReadOnlyList<Finding> Findings { get; private set; } = [];

    public IReadOnlyList<string> Characters { get; private set; } = [];

    /// <summary>Takes that can be laid on a track beside this one.</summary>
    public IReadOnlyList<Take> Clips { get; private set; } = [];

    public PerformerRow? Performer { get; private set; }

    public JobRow? Job { get; private set; }

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (!StepThread.Names.Any(n => n.Equals(Step, StringComparison.OrdinalIgnoreCase)))
        {
            return NotFound();
        }

        if (Step.Equals("record", StringComparison.OrdinalIgnoreCase))
        {
            return Redirect($"/record?From={Id}");
        }

        try
        {
            Open = await takes.Open(Id, cancel);
        }
        catch (KeyNotFoundException)
        {
            return NotFound();
        }

        var db = takes.Db;
        await db.Entry(Take).Collection(t => t.HandOffs).LoadAsync(cancel);
        Through = StepThread.Through(Take);
        Findings = Step is "label" or "clean" && Open.Data.Final is not null ? TakeService.FindingsOf(new Core.Operations.TakeData(Open.Data.Markers)) : TakeService.FindingsOf(Open.Data);
        Characters = await db.Characters.Select(c => c.Name).ToListAsync(cancel);
        Clips = await db.Takes.AsNoTracking().Include(t => t.Ledger).Where(t => t.Id != Id && t.Ledger.Any(l => l.Operation == "retarget" && l.On)).OrderBy(t => t.Name).ToListAsync(cancel);
        var first = Take.Performer.Split(", ")[0];
        Performer = await db.Performers.AsNoTracking().FirstOrDefaultAsync(p => p.Name == first, cancel);
        Job = await db.Jobs.AsNoTracking().OrderByDescending(j => j.Id).FirstOrDefaultAsync(j => j.TakeId == Id && (j.State == JobState.Waiting || j.State == JobState.Running), cancel);
        return Page();
    }

    /// <summary>Puts an operation in the job queue; the fragment that comes back follows it.</summary>
    public async Task<IActionResult> OnPostRunAsync(string operation, string? parameters, CancellationToken cancel)
    {
        JsonObject json;
        try
        {
            json = string.IsNullOrWhiteSpace(parameters) ? FromForm() : JsonNode.Parse(parameters) as JsonObject ?? [];
        }
        catch (JsonException e)
        {
            return BadRequest(e.Message);
        }

        var take = await takes.Db.Takes.AsNoTracking().FirstOrDefaultAsync(t => t.Id == Id, cancel);
        if (take is null || !Core.Operations.OperationRegistry.All.ContainsKey(operation))
        {
            return NotFound();
        }

        return Partial("_Job", JobView.Of(await jobs.Start(Id, take.Name, operation, json, cancel), cancels));
    }

    public async Task<IActionResult> OnGetJobAsync(int job, CancellationToken cancel)
    {
        var row = await takes.Db.Jobs.AsNoTracking().FirstOrDefaultAsync(j => j.Id == job, cancel);
        if (row is null)
        {
            return NotFound();
        }

        if (row.State == JobState.Done)
        {
            Response.Headers["HX-Refresh"] = "true";
        }

        return Partial("_Job", JobView.Of(row, cancels));
    }

    public IActionResult OnPostStop(int job)
    {
        cancels.Stop(job);
        return new NoContentResult();
    }

    /// <summary>Names a dot at once: small edits do not wait in a queue.</summary>
    public async Task<IActionResult> OnPostNameAsync(string dot, string? name, CancellationToken cancel)
    {
        try
        {
            var row = await takes.Keep(Id, Core.Operations.LabelOperations.SetLabel.Entry(new JsonObject { ["dot"] = dot, ["name"] = name ?? string.Empty }), null, cancel);
            return new JsonResult(new { summary = row.Summary });
        }
        catch (ArgumentException e)
        {
            return BadRequest(e.Message);
        }
    }

    public async Task<IActionResult> OnPostTakeBackAsync(CancellationToken cancel)
    {
        await takes.TakeBack(Id, cancel);
        return RedirectToPage(new { id = Id, step = Step });
    }

    public async Task<IActionResult> OnPostSwitchAsync(int row, bool on, CancellationToken cancel)
    {
        await takes.Switch(Id, row, on, cancel);
        return RedirectToPage(new { id = Id, step = Step });
    }

    /// <summary>Saves chosen entries of the Ledger as a Recipe.</summary>
    public async Task<IActionResult> OnPostRecipeAsync(string? name, int[] rows, CancellationToken cancel)
    {
        try
        {
            await recipes.Save(Id, name, rows, cancel);
            return RedirectToPage("/Recipes");
        }
        catch (ArgumentException e)
        {
            TempData["error"] = char.ToUpperInvariant(e.Message[0]) + e.Message[1..] + ".";
            return RedirectToPage(new { id = Id, step = Step });
        }
    }

    public async Task<IActionResult> OnPostCircleAsync(CancellationToken cancel)
    {
        var take = await takes.Db.Takes.FirstAsync(t => t.Id == Id, cancel);
        take.Circled = !take.Circled;
        await takes.Db.SaveChangesAsync(cancel);
        return RedirectToPage(new { id = Id, step = Step });
    }

    public async Task<IActionResult> OnPostNoteAsync(string? note, CancellationToken cancel)
    {
        var take = await takes.Db.Takes.FirstAsync(t => t.Id == Id, cancel);
        take.Note = (note ?? string.Empty).Trim();
        await takes.Db.SaveChangesAsync(cancel);
        return RedirectToPage(new { id = Id, step = Step });
    }

    /// <summary>Writes a file, reads it back and keeps the receipt.</summary>
    public async Task<IActionResult> OnPostHandOffAsync(HandOffSettings settings, CancellationToken cancel)
    {
        try
        {
            await handOffs.Write(Id, settings, cancel);
        }
        catch (ArgumentException e)
        {
            TempData["error"] = e.Message;
        }

        return RedirectToPage(new { id = Id, step = "export" });
    }

    /// <summary>Names of the set and whether each is seen somewhere.</summary>
    public IEnumerable<(string Name, string Side, int Column)> MarkerNames() => Prefixes().SelectMany(p => Open.Resources.MarkerSet().Markers.Select(m => (p + m.Name, m.Name[^1] is 'L' or 'R' ? m.Name[^1].ToString() : "C", Open.Data.Markers!.IndexOf(p + m.Name))));

    /// <summary>With several performers every name begins with whose it is.</summary>
    private IEnumerable<string> Prefixes() => Take.Performer.Contains(", ", StringComparison.Ordinal) ? Take.Performer.Split(", ").Select(p => p + ":") : [string.Empty];

    /// <summary>Everything posted besides the plumbing, as JSON: numbers stay numbers.</summary>
    private JsonObject FromForm()
    {
        var json = new JsonObject();
        foreach (var (key, value) in Request.Form.Where(f => f.Key is not ("__RequestVerificationToken" or "operation" or "parameters")))
        {
            var text = value.ToString();
            var target = json;
            var name = key;
            if (key.Split('.') is [var outer, var inner])
            {
                target = json[outer] as JsonObject ?? [];
                json[outer] = target;
                name = inner;
            }

            target[name] = double.TryParse(text, System.Globalization.CultureInfo.InvariantCulture, out var n) ? n : text;
        }

        return json;
    }
}
