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
public sealed partial class StepModel(
    TakeService takes,
    JobQueue jobs,
    JobCancels cancels,
    HandOffService handOffs,
    RecipeService recipes,
    LedgerService ledger,
    StateNotes notes
) : PageModel
{
    [BindProperty(SupportsGet = true, Name = "id")]
    public int Id { get; set; }

    [BindProperty(SupportsGet = true, Name = "step")]
    public string Step { get; set; } = "label";

    public OpenTake Open { get; private set; } = null!;

    public Take Take => Open.Take;

    public int Index => Math.Max(0, StepThread.Names.ToList().FindIndex(n => n.Equals(Step, StringComparison.OrdinalIgnoreCase)));

    public bool[] Through { get; private set; } = [];

    /// <summary>What is known of the present state; null while a long take is looked at.</summary>
    public StateNote? Note { get; private set; }

    /// <summary>The Ledger's first entries that the numbers are compared with; null for the take as it was recorded.</summary>
    public int? Head { get; private set; }

    /// <summary>The measures of that state.</summary>
    public StateNote? Before { get; private set; }

    /// <summary>Wait until Findings are known.</summary>
    public bool Wait { get; private set; }

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
        await Look(cancel);
        Characters = await db.Characters.Select(c => c.Name).ToListAsync(cancel);
        Clips = await db
            .Takes.AsNoTracking()
            .Include(t => t.Ledger)
            .Where(t => t.Id != Id && t.Ledger.Any(l => l.Operation == "retarget" && l.On))
            .OrderBy(t => t.Name)
            .ToListAsync(cancel);
        var first = Take.Performer.Split(", ")[0];
        Performer = await db.Performers.AsNoTracking().FirstOrDefaultAsync(p => p.Name == first, cancel);
        Job = await db
            .Jobs.AsNoTracking()
            .OrderByDescending(j => j.Id)
            .FirstOrDefaultAsync(j => j.TakeId == Id && (j.State == JobState.Waiting || j.State == JobState.Running), cancel);
        return Page();
    }

    /// <summary>What is known of the state and of the one it is compared with.</summary>
    private async Task Look(CancellationToken cancel)
    {
        var set = Open.Resources.MarkerSet();
        Note = Wait ? notes.Of(Open.Hash, Open.Data, set) : notes.Ready(Open.Hash, Open.Data, set);
        Ignored = await takes.Db.Ignored.AsNoTracking().Where(i => i.TakeId == Id).OrderBy(i => i.Start).ToListAsync(cancel);
        Versions = await takes
            .Db.Versions.AsNoTracking()
            .Where(v => v.TakeId == Id)
            .OrderByDescending(v => v.CreatedUtc)
            .ToListAsync(cancel);
        Findings = Note is null ? [] : TakeService.Regarded(Note.Findings(Step), Ignored);
        if (Step == "clean" && Note is not null && Take.Ledger.Count > 0)
        {
            // Numbers of nameless dots say nothing: without a choice the labels are what cleaning is measured against.
            Head ??= Take.Ledger.OrderBy(l => l.Position).ToList().FindLastIndex(l => l.On && l.Operation == "label") + 1;
            var before = await takes.OpenAt(Id, Head.Value, cancel);
            Before = notes.Ready(before.Hash, before.Data, set);
        }
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

        if (Core.Operations.OperationRegistry.Find(operation).Light)
        {
            return await AtOnce(Core.Operations.OperationRegistry.Find(operation).Entry(json), cancel);
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
            Response.Headers["HX-Trigger"] = "e-changed";
        }

        return Partial("_Job", JobView.Of(row, cancels));
    }

    /// <summary>An operation too quick for the queue.</summary>
    private async Task<IActionResult> AtOnce(Core.Operations.Entry entry, CancellationToken cancel)
    {
        var title = Core.Operations.OperationRegistry.Find(entry.Operation).Title;
        try
        {
            var row = await takes.Keep(Id, entry, null, cancel);
            Response.Headers["HX-Trigger"] = "e-changed";
            return Partial(
                "_Job",
                new JobView(
                    new JobRow
                    {
                        Title = title,
                        Kind = entry.Operation,
                        Parameters = "{}",
                        State = JobState.Done,
                        Message = row.Summary,
                    },
                    1
                )
            );
        }
        catch (ArgumentException e)
        {
            return Partial(
                "_Job",
                new JobView(
                    new JobRow
                    {
                        Title = title,
                        Kind = entry.Operation,
                        Parameters = "{}",
                        State = JobState.Failed,
                        Message = Sentence(e.Message),
                    },
                    0
                )
            );
        }
    }

    public IActionResult OnPostStop(int job)
    {
        cancels.Stop(job);
        return new NoContentResult();
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
    public IEnumerable<(string Name, string Side, int Column)> MarkerNames() =>
        Prefixes()
            .SelectMany(p =>
                Open.Resources.MarkerSet()
                    .Markers.Select(m =>
                        (p + m.Name, m.Name[^1] is 'L' or 'R' ? m.Name[^1].ToString() : "C", Open.Data.Markers!.IndexOf(p + m.Name))
                    )
            );

    /// <summary>With several performers every name begins with whose it is.</summary>
    private IEnumerable<string> Prefixes() =>
        Take.Performer.Contains(", ", StringComparison.Ordinal) ? Take.Performer.Split(", ").Select(p => p + ":") : [string.Empty];

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
