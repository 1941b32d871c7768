using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Operations;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>What a person does to the Ledger and to Findings. Quick changes answer at once, the others become a job.</summary>
public sealed partial class StepModel
{
    /// <summary>Named versions of the Ledger, the latest first.</summary>
    public IReadOnlyList<LedgerVersion> LedgerVersions { get; private set; } = [];

    public IReadOnlyList<IgnoredFinding> Ignored { get; private set; } = [];

    private LedgerOwner Owner => LedgerOwner.Take(Id);

    /// <summary>Adds an entry: at once where it is quick, else as a job that the fragment follows.</summary>
    /// <param name="node">Whose; every node of the operation's kind when it is not given.</param>
    public async Task<IActionResult> OnPostRunAsync(string operation, string? parameters, int? node, CancellationToken cancel)
    {
        if (!OperationRegistry.TryFind(operation, out var known) || await slates.NameOf(Id, cancel) is not { } name)
        {
            return NotFound();
        }

        return await JobFragment.Answer(this, jobs, known.Title, async () =>
        {
            var json = string.IsNullOrWhiteSpace(parameters) ? FormParameters.Read(Request.Form) : ParameterJson.Parse(parameters);
            return await ledger.Add(Owner, name, operation, json, node, Seen, cancel);
        });
    }

    /// <summary>Closes a cast's fingers around what is held, found in the take as it is now.</summary>
    public async Task<IActionResult> OnPostGripAsync(int node, CancellationToken cancel)
    {
        var name = await slates.NameOf(Id, cancel) ?? string.Empty;
        return await JobFragment.Answer(this, jobs, RetargetOperation.Grip.Title, () =>
            ledger.Add(LedgerOwner.Take(Id), name, RetargetOperation.Grip.Name, CastProposal.Grip(takes.Open(Id), node), node, Seen, cancel)
        );
    }

    /// <summary>A prop is attached to the hands of the characters, as their performers are found to hold it.</summary>
    public async Task<IActionResult> OnPostAttachAsync(int prop, int? chosen, CancellationToken cancel)
    {
        var name = await slates.NameOf(Id, cancel) ?? string.Empty;
        return await JobFragment.Answer(this, jobs, AttachOperation.Attach.Title, async () =>
        {
            var hands = AttachProposal.For(takes.Open(Id), prop, chosen);
            var node = await casts.Attached(Id, prop, cancel);
            return await ledger.Add(Owner, name, AttachOperation.Attach.Name, hands, node.Id, Seen, cancel);
        });
    }

    /// <summary>Characters with both hands on something attached bring the other hand along.</summary>
    public async Task<IActionResult> OnPostTogetherAsync(CancellationToken cancel)
    {
        var name = await slates.NameOf(Id, cancel) ?? string.Empty;
        var title = RetargetOperation.Together.Title;
        return await JobFragment.Answer(this, jobs, title, () =>
            ledger.AddAll(Owner, $"{title}, {name}", AttachProposal.Together(takes.Open(Id)), Seen, cancel)
        );
    }

    public Task<IActionResult> OnGetJobAsync(int job, CancellationToken cancel) => JobFragment.Follow(this, jobs, job, cancel);

    public IActionResult OnPostStop(int job)
    {
        jobs.Stop(job);
        return new NoContentResult();
    }

    /// <summary>Names a dot at once: small edits do not wait in a queue.</summary>
    public Task<IActionResult> OnPostNameAsync(string dot, string? name, CancellationToken cancel) =>
        Quick(new AddEntries("set-label", new JsonObject { ["dot"] = dot, ["name"] = name ?? string.Empty }), cancel);

    /// <summary>Adds a quick entry at once, several in a row one after the other.</summary>
    public Task<IActionResult> OnPostDoAsync(string operation, string parameters, int node, CancellationToken cancel) =>
        Quick(new AddEntries(operation, ParameterJson.Parse(parameters), node), cancel);

    public Task<IActionResult> OnPostTakeBackAsync(CancellationToken cancel) => Quick(new TakeBackEntry(), cancel);

    public Task<IActionResult> OnPostAgainAsync(CancellationToken cancel) => Quick(new BringAgain(), cancel);

    public Task<IActionResult> OnPostSwitchAsync(int row, bool on, CancellationToken cancel) => Quick(new SwitchEntry(row, on), cancel);

    public Task<IActionResult> OnPostMoveAsync(int row, int to, CancellationToken cancel) => Quick(new MoveEntry(row, to), cancel);

    public Task<IActionResult> OnPostRemoveAsync(int row, CancellationToken cancel) => Quick(new RemoveEntry(row), cancel);

    public Task<IActionResult> OnPostOriginalAsync(CancellationToken cancel) => Quick(new BackToOriginal(), cancel);

    /// <summary>Runs an entry with other parameters: JSON from a script, else the fields of its form.</summary>
    public Task<IActionResult> OnPostEditAsync(int row, string? parameters, CancellationToken cancel) =>
        AsJob(
            name =>
                ledger.Edit(
                    Owner,
                    name,
                    row,
                    parameters is null ? FormParameters.OfEntry(Request.Form) : ParameterJson.Parse(parameters),
                    Seen,
                    cancel
                ),
            cancel
        );

    /// <summary>An entry of an older version is asked of the present one.</summary>
    public Task<IActionResult> OnPostVersionUpAsync(int row, CancellationToken cancel) =>
        AsJob(name => ledger.BringUpVersion(Owner, name, row, cancel), cancel);

    /// <summary>Whatever is out of date is run.</summary>
    public Task<IActionResult> OnPostBringUpAsync(CancellationToken cancel) => AsJob(name => queue.BringUp(Owner, name, cancel), cancel);

    public async Task<IActionResult> OnPostRestoreAsync(int version, CancellationToken cancel)
    {
        try
        {
            return Changed((await ledger.Restore(Id, version, cancel)).Summary);
        }
        catch (RefusedException e)
        {
            return BadRequest(Sentence(e.Message));
        }
    }

    public async Task<IActionResult> OnPostVersionAsync(string? name, CancellationToken cancel)
    {
        try
        {
            await ledger.Name(Id, name, cancel);
            return Changed($"Kept as {name}");
        }
        catch (RefusedException e)
        {
            return BadRequest(Sentence(e.Message));
        }
    }

    public async Task<IActionResult> OnPostIgnoreAsync([FromForm] Slates.MayStay finding, CancellationToken cancel)
    {
        if (ModelState.Complaint() is { } complaint)
        {
            return BadRequest(complaint);
        }

        await slates.Ignore(Id, finding, cancel);
        return Changed("Ignored");
    }

    public async Task<IActionResult> OnPostRegardAsync(int finding, CancellationToken cancel)
    {
        await slates.Regard(Id, finding, cancel);
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
        catch (RefusedException e)
        {
            TempData["error"] = Sentence(e.Message);
            return RedirectToPage(new { id = Id, step = Step });
        }
    }

    /// <summary>The take goes on without its damaged frames.</summary>
    public IActionResult OnPostLeaveOut()
    {
        try
        {
            TempData["said"] = Sentence($"left out: {damage.LeaveOut(Id)}");
            takes.Refresh(Id);
        }
        catch (RefusedException e)
        {
            TempData["error"] = Sentence(e.Message);
        }

        return RedirectToPage(new { id = Id, step = Step });
    }

    /// <summary>Frames that were left out are read again.</summary>
    public IActionResult OnPostReadAgain()
    {
        damage.ReadAgain(Id);
        takes.Refresh(Id);
        return RedirectToPage(new { id = Id, step = Step });
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

    private async Task<IActionResult> Quick(LedgerChange change, CancellationToken cancel)
    {
        try
        {
            return Changed((await ledger.AtOnce(Owner, change, Seen, cancel)).Summary);
        }
        catch (Exception e) when (LedgerRunner.IsReason(e) || e is JsonException)
        {
            return BadRequest(Sentence(e.Message));
        }
    }

    private async Task<IActionResult> AsJob(Func<string, Task<JobRow>> start, CancellationToken cancel)
    {
        var name = await slates.NameOf(Id, cancel) ?? string.Empty;
        return await JobFragment.Answer(this, jobs, "Ledger", async () => new LedgerService.Answer(null, await start(name)));
    }

    /// <summary>A script gets what was done as JSON and asks for the parts; a plain form gets the page again.</summary>
    private IActionResult Changed(string said) =>
        Request.Headers.ContainsKey("X-Antiforgery")
            ? new JsonResult(new { summary = Sentence(said).TrimEnd('.') })
            : RedirectToPage(new { id = Id, step = Step });

    internal static string Sentence(string text) =>
        text.Length == 0 ? text : char.ToUpperInvariant(text[0]) + text[1..] + (text[^1] is '.' or '!' or '?' ? string.Empty : ".");
}
