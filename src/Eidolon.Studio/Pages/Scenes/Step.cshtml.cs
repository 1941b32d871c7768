using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Operations;
using Eidolon.Core.Quality;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Pages.Takes;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Eidolon.Studio.Pages.Scenes;

/// <summary>A scene at Assemble, Polish or Export.</summary>
public sealed class StepModel(
    SceneService scenes,
    Slates slates,
    StateNotes notes,
    HandOffService handOffs,
    PlanFiles plans,
    ClipShelf shelf,
    LedgerService ledger,
    JobQueue queue,
    JobBook jobs
) : PageModel
{
    private const int First = 5;

    [BindProperty(SupportsGet = true, Name = "id")]
    public int Id { get; set; }

    [BindProperty(SupportsGet = true, Name = "step")]
    public string Step { get; set; } = "assemble";

    /// <summary>The revision the page showed when a change was asked for.</summary>
    [BindProperty(Name = "seen")]
    public int? Seen { get; set; }

    /// <summary>The track that is worked on.</summary>
    [BindProperty(SupportsGet = true, Name = "track")]
    public int? TrackId { get; set; }

    public OpenScene Open { get; private set; } = null!;

    public Scene Scene => Open.Scene;

    /// <summary>The take the scene was made of; null for one of its own.</summary>
    public Take? Take { get; private set; }

    public int Index => StepThread.Names.ToList().FindIndex(n => n.Equals(Step, StringComparison.OrdinalIgnoreCase));

    public JobRow? Job { get; private set; }

    /// <summary>The track that is worked on: the one that was chosen, else the first with a motion.</summary>
    public OpenScene.Track? Track =>
        Open.Tracks.FirstOrDefault(t => t.Node.Id == TrackId)
        ?? Open.Moving.FirstOrDefault()
        ?? (Open.Tracks.Count == 0 ? null : Open.Tracks[0]);

    /// <summary>The library for the track that is worked on.</summary>
    public IReadOnlyList<OpenScene.LibraryClip> Clips { get; private set; } = [];

    /// <summary>Characters that can enter: those that are not there yet first.</summary>
    public IReadOnlyList<Subject> Characters { get; private set; } = [];

    /// <summary>Must-fix Findings of the tracks.</summary>
    public int MustFix { get; private set; }

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (Index < First)
        {
            return NotFound();
        }

        Job = await jobs.OpenOf(Owner, cancel);
        try
        {
            Open = scenes.Open(Id);
        }
        catch (RefusedException)
        {
            return NotFound();
        }

        scenes.Refresh(Open);
        Take = Scene.TakeId is { } take ? await slates.Find(take, cancel) : null;
        Clips = Track is { Subject.Kind: not SubjectKind.Prop } t ? scenes.Library(Open, t.Subject.Id) : [];
        Characters = await scenes.Characters(Open, cancel);
        MustFix =
            Step == "export"
                ? Open.Moving.Sum(x =>
                    notes
                        .Quality(x.Shown, x.Motion!, x.Contacts)
                        .Findings.Concat(x.Joins.Select(f => f.Finding))
                        .Count(f => f.Severity == Severity.MustFix)
                )
                : 0;
        return Page();
    }

    /// <summary>How long the scene is, for people.</summary>
    public string Length => $"{Open.FrameCount / Open.FrameRate:0.0} s";

    /// <summary>The pieces of the page that follow from the present state.</summary>
    public async Task<IActionResult> OnGetPartsAsync(CancellationToken cancel) =>
        await OnGetAsync(cancel) is PageResult ? Partial("_Parts", this) : NotFound();

    /// <summary>A character comes into the scene, or once more, with a first clip.</summary>
    public async Task<IActionResult> OnPostEnterAsync(int character, CancellationToken cancel)
    {
        try
        {
            if (await scenes.Enter(Id, character, cancel) is not { } track)
            {
                return NotFound();
            }

            await queue.BringUp(Owner, await scenes.NameOf(Id, cancel) ?? string.Empty, cancel);
            return RedirectToPage(
                new
                {
                    id = Id,
                    step = Step,
                    track = track.Id,
                }
            );
        }
        catch (RefusedException e)
        {
            TempData["error"] = e.Message;
            return RedirectToPage(new { id = Id, step = Step });
        }
    }

    /// <summary>The clips of the track as its set-up has them, how each is played included.</summary>
    public JsonArray ClipParameters => Track?.SetUp?["clips"]?.DeepClone() as JsonArray ?? [];

    /// <summary>Clips of a track anew: the first ends where the next begins, and they overlap.</summary>
    public Task<IActionResult> OnPostClipsAsync(int node, string parameters, CancellationToken cancel) =>
        Answer(
            "Clips",
            name => ledger.Add(Owner, name, SceneOperations.Clips.Name, ParameterJson.Parse(parameters), node, Seen, cancel),
            cancel
        );

    /// <summary>Lays a track's clips as a plan's file says.</summary>
    public Task<IActionResult> OnPostPlanAsync(int node, IFormFile? file, CancellationToken cancel) =>
        Answer(
            "Plan",
            async name =>
            {
                if (file is null || file.Length == 0)
                {
                    throw new RefusedException("choose a plan: a JSON file, as this page or the command line writes it");
                }

                using var memory = new MemoryStream();
                await file.CopyToAsync(memory, cancel);
                var said = plans.Read(Id, node, memory.ToArray(), Path.GetFileName(file.FileName));
                return new(null, await queue.Change(Owner, $"Plan, {name}", new AddEntries(said), cancel: cancel));
            },
            cancel
        );

    /// <summary>Keeps what a clip on the track shows in the library.</summary>
    public Task<IActionResult> OnPostKeepClipAsync(int node, int clip, string? name, string? tags, CancellationToken cancel) =>
        OnShelf(node, () => shelf.Keep(Id, node, clip, name, tags, cancel));

    /// <summary>Bakes the track, or a part of it, to a clip of the library.</summary>
    public Task<IActionResult> OnPostBakeAsync(BakeRequest request, CancellationToken cancel) =>
        Answer("Bake", async _ => new(null, await queue.Bake(Id, request, cancel)), cancel);

    /// <summary>A motion on the character's skeleton comes into the library.</summary>
    public Task<IActionResult> OnPostBringInAsync(int node, IFormFile? file, CancellationToken cancel) => OnShelf(node, async () =>
        {
            if (file is null || file.Length == 0)
            {
                throw new RefusedException("Choose a motion: a BVH or GLB on this character's skeleton");
            }

            using var memory = new MemoryStream();
            await file.CopyToAsync(memory, cancel);
            await shelf.BringIn(Id, node, memory.ToArray(), Path.GetFileName(file.FileName), cancel);
        });

    private async Task<IActionResult> OnShelf(int track, Func<Task> act)
    {
        try
        {
            await act();
        }
        catch (Exception e) when (LedgerRunner.IsReason(e))
        {
            TempData["error"] = e.Message;
        }

        return RedirectToPage(
            new
            {
                id = Id,
                step = Step,
                track,
            }
        );
    }

    /// <summary>Adds an entry, such as a layer.</summary>
    public Task<IActionResult> OnPostRunAsync(string operation, string? parameters, int? node, CancellationToken cancel) =>
        Answer(
            OperationRegistry.TitleOf(operation),
            name => ledger.Add(Owner, name, operation, ParameterJson.Parse(parameters), node, Seen, cancel),
            cancel
        );

    public Task<IActionResult> OnPostEditAsync(int row, string? parameters, CancellationToken cancel) =>
        Answer("Ledger", async name => new(null, await ledger.Edit(Owner, name, row, Parameters(parameters), Seen, cancel)), cancel);

    public Task<IActionResult> OnPostVersionUpAsync(int row, CancellationToken cancel) =>
        Answer("Ledger", async name => new(null, await ledger.BringUpVersion(Owner, name, row, cancel)), cancel);

    public Task<IActionResult> OnPostBringUpAsync(CancellationToken cancel) =>
        Answer("Bring up", async name => new(null, await queue.BringUp(Owner, name, cancel)), cancel);

    public Task<IActionResult> OnGetJobAsync(int job, CancellationToken cancel) => JobFragment.Follow(this, jobs, job, cancel);

    public IActionResult OnPostStop(int job)
    {
        jobs.Stop(job);
        return new NoContentResult();
    }

    public Task<IActionResult> OnPostTakeBackAsync(CancellationToken cancel) => Quick(new TakeBackEntry(), cancel);

    public Task<IActionResult> OnPostAgainAsync(CancellationToken cancel) => Quick(new BringAgain(), cancel);

    public Task<IActionResult> OnPostSwitchAsync(int row, bool on, CancellationToken cancel) => Quick(new SwitchEntry(row, on), cancel);

    public Task<IActionResult> OnPostMoveAsync(int row, int to, CancellationToken cancel) => Quick(new MoveEntry(row, to), cancel);

    public Task<IActionResult> OnPostRemoveAsync(int row, CancellationToken cancel) => Quick(new RemoveEntry(row), cancel);

    /// <summary>Writes files, reads them back and keeps the receipts.</summary>
    public async Task<IActionResult> OnPostHandOffAsync(HandOffSettings settings, CancellationToken cancel)
    {
        try
        {
            await handOffs.Write(Id, settings, cancel);
        }
        catch (RefusedException e)
        {
            TempData["error"] = e.Message;
        }

        return RedirectToPage(new { id = Id, step = "export" });
    }

    private LedgerOwner Owner => LedgerOwner.Scene(Id);

    /// <summary>JSON from a script, else the fields of the entry's form.</summary>
    private JsonObject Parameters(string? given) => given is null ? FormParameters.OfEntry(Request.Form) : ParameterJson.Parse(given);

    private async Task<IActionResult> Answer(string title, Func<string, Task<LedgerService.Answer>> act, CancellationToken cancel)
    {
        var name = await scenes.NameOf(Id, cancel);
        return name is null ? NotFound() : await JobFragment.Answer(this, jobs, title, () => act(name));
    }

    private async Task<IActionResult> Quick(LedgerChange change, CancellationToken cancel)
    {
        try
        {
            var kept = await ledger.AtOnce(Owner, change, Seen, cancel);
            return Request.Headers.ContainsKey("X-Antiforgery")
                ? new JsonResult(new { summary = kept.Summary })
                : RedirectToPage(new { id = Id, step = Step });
        }
        catch (Exception e) when (LedgerRunner.IsReason(e))
        {
            return BadRequest(Takes.StepModel.Sentence(e.Message));
        }
    }
}
