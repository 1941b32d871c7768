using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core.Operations;
using Eidolon.Storage.Model;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>What a person does to the Ledger and to Findings. Quick changes answer at once, the others become a job.</summary>
public sealed partial class StepModel
{
    /// <summary>Named versions of the Ledger, the latest first.</summary>
    public IReadOnlyList<LedgerVersion> Versions { get; private set; } = [];

    public IReadOnlyList<IgnoredFinding> Ignored { get; private set; } = [];

    /// <summary>Names a dot at once: small edits do not wait in a queue.</summary>
    public Task<IActionResult> OnPostNameAsync(string dot, string? name, CancellationToken cancel) =>
        Quick(LabelOperations.SetLabel.Entry(new JsonObject { ["dot"] = dot, ["name"] = name ?? string.Empty }), cancel);

    public async Task<IActionResult> OnPostTakeBackAsync(CancellationToken cancel)
    {
        var row = await takes.TakeBack(Id, cancel);
        return Changed(row is null ? "There is nothing to take back" : $"{OperationRegistry.Find(row.Operation).Title} taken back");
    }

    public async Task<IActionResult> OnPostSwitchAsync(int row, bool on, CancellationToken cancel)
    {
        await takes.Switch(Id, row, on, cancel);
        return Changed(on ? "On again" : "Off");
    }

    public Task<IActionResult> OnPostEditAsync(int row, string parameters, CancellationToken cancel) =>
        AsJob(() => ledger.Edit(Id, row, JsonNode.Parse(parameters) as JsonObject ?? [], cancel));

    public Task<IActionResult> OnPostMoveAsync(int row, int to, CancellationToken cancel) => AsJob(() => ledger.Move(Id, row, to, cancel));

    public Task<IActionResult> OnPostRemoveAsync(int row, CancellationToken cancel) => AsJob(() => ledger.Remove(Id, row, cancel));

    public Task<IActionResult> OnPostRestoreAsync(int version, CancellationToken cancel) =>
        AsJob(() => ledger.Restore(Id, version, cancel));

    public Task<IActionResult> OnPostOriginalAsync(CancellationToken cancel) => AsJob(() => ledger.Original(Id, cancel));

    public async Task<IActionResult> OnPostVersionAsync(string? name, CancellationToken cancel)
    {
        try
        {
            await ledger.Name(Id, name, cancel);
            return Changed($"Kept as {name}");
        }
        catch (ArgumentException e)
        {
            return BadRequest(Sentence(e.Message));
        }
    }

    public async Task<IActionResult> OnPostIgnoreAsync(
        string kind,
        string subject,
        int start,
        int end,
        string? reason,
        CancellationToken cancel
    )
    {
        if (string.IsNullOrWhiteSpace(reason))
        {
            return BadRequest("Say why it may stay: the next person will wonder.");
        }

        takes.Db.Ignored.Add(
            new IgnoredFinding
            {
                TakeId = Id,
                Kind = kind,
                Subject = subject ?? string.Empty,
                Start = start,
                End = end,
                Reason = reason.Trim(),
                CreatedUtc = DateTime.UtcNow,
            }
        );
        await takes.Db.SaveChangesAsync(cancel);
        await takes.Recount(Id, cancel);
        return Changed("Ignored");
    }

    public async Task<IActionResult> OnPostRegardAsync(int finding, CancellationToken cancel)
    {
        await takes.Db.Ignored.Where(i => i.Id == finding && i.TakeId == Id).ExecuteDeleteAsync(cancel);
        await takes.Recount(Id, cancel);
        return Changed("Back in the list");
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
            TempData["error"] = Sentence(e.Message);
            return RedirectToPage(new { id = Id, step = Step });
        }
    }

    /// <summary>The parts of the page that depend on the state, for pages that stay as they are while it changes.</summary>
    public async Task<IActionResult> OnGetPartsAsync(int? head, CancellationToken cancel)
    {
        Head = head;
        return await OnGetAsync(cancel) is Microsoft.AspNetCore.Mvc.RazorPages.PageResult ? Partial("_Parts", this) : NotFound();
    }

    /// <summary>Findings of a long take: looked for while the rest of the page is there already.</summary>
    public async Task<IActionResult> OnGetFindingsAsync(CancellationToken cancel)
    {
        Wait = true;
        return await OnGetAsync(cancel) is Microsoft.AspNetCore.Mvc.RazorPages.PageResult ? Partial("_Findings", this) : NotFound();
    }

    private async Task<IActionResult> Quick(Entry entry, CancellationToken cancel)
    {
        try
        {
            return Changed((await takes.Keep(Id, entry, null, cancel)).Summary);
        }
        catch (ArgumentException e)
        {
            return BadRequest(Sentence(e.Message));
        }
    }

    private async Task<IActionResult> AsJob(Func<Task<JobRow>> start)
    {
        try
        {
            return Partial("_Job", JobView.Of(await start(), cancels));
        }
        catch (Exception e) when (e is ArgumentException or JsonException)
        {
            return Partial(
                "_Job",
                new JobView(
                    new JobRow
                    {
                        Title = "Ledger",
                        Kind = Services.LedgerService.JobKind,
                        Parameters = "{}",
                        State = JobState.Failed,
                        Message = Sentence(e.Message),
                    },
                    0
                )
            );
        }
    }

    /// <summary>A script gets what was done as JSON and asks for the parts; a plain form gets the page again.</summary>
    private IActionResult Changed(string said) =>
        Request.Headers.ContainsKey("X-Antiforgery")
            ? new JsonResult(new { summary = said })
            : RedirectToPage(new { id = Id, step = Step });

    private static string Sentence(string text) =>
        text.Length == 0 ? text : char.ToUpperInvariant(text[0]) + text[1..] + (text[^1] is '.' or '!' or '?' ? string.Empty : ".");
}
