using System.Globalization;
using System.Text;
using System.Text.Json;
using Eidolon.Core;
using Eidolon.Core.Characters;
using Eidolon.Core.Characters.Binding;
using Eidolon.Core.Characters.Preparing;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Skeletons;
using Eidolon.Storage.Library;
using Eidolon.Studio.Api;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Eidolon.Studio.Pages.Library;

/// <summary>A character made ready: roles, rest pose, kept and locked. Every change is written down at once and can be taken back.</summary>
public sealed class PrepareModel(SubjectLibrary library, FollowUps followUps, JobQueue queue, JobBook jobs) : PageModel
{
    [BindProperty(SupportsGet = true, Name = "character")]
    public int Id { get; set; }

    public SubjectLibrary.Preparation Now { get; private set; } = null!;

    public PreparedCharacter Made => Now.Made;

    /// <summary>Names the state that is shown.</summary>
    public string State { get; private set; } = string.Empty;

    /// <summary>The parts are an answer to a change and take the place of those that stand.</summary>
    public bool Anew { get; private set; }

    public HierarchyDrawing Tree => HierarchyDrawing.Of(Made.Came, Made.Sheet);

    /// <summary>What is left to look at before it can be kept.</summary>
    public int Open => (Made.Sheet.SidesAsked ? 1 : Made.Sheet.Asked.Count) + Made.Sheet.Missing.Count;

    /// <summary>Its joints were placed in the mesh by us, and stand as they were placed: they can be put elsewhere.</summary>
    public bool Placed => Now.File.Placed is not null && Made.Draft.Steps.All(s => s is RoleStep or MirrorStep or WeightStep);

    public IActionResult OnGet() => Load() ? Page() : NotFound();

    public Task<IActionResult> OnPostRoleAsync(BodyRole role, string? joint, CancellationToken cancel) =>
        Change(() => library.Change(Id, new RoleStep(role, string.IsNullOrEmpty(joint) ? null : joint), cancel));

    public Task<IActionResult> OnPostMirrorAsync(string from, CancellationToken cancel) =>
        Change(() => library.Change(Id, new MirrorStep(from == "R" ? 'R' : 'L'), cancel));

    public Task<IActionResult> OnPostSidesAsync(bool swapped, CancellationToken cancel) =>
        Change(() => library.Change(Id, new SidesStep(swapped), cancel));

    /// <param name="mesh">By its name in the file.</param>
    /// <param name="on">It is part of the character; else it is left out.</param>
    public Task<IActionResult> OnPostMeshAsync(string? mesh, bool on, CancellationToken cancel) =>
        Change(() => library.Change(Id, new MeshStep(mesh ?? string.Empty, on), cancel));

    /// <param name="and">Another that is taken with it.</param>
    public Task<IActionResult> OnPostRemedyAsync(string remedy, string? and, CancellationToken cancel) =>
        Change(() => library.Change(Id, new RemedyStep(Remedy(remedy), string.IsNullOrEmpty(and) ? null : Remedy(and)), cancel));

    /// <param name="factor">So many times as large.</param>
    /// <param name="tall">Or so tall, metres.</param>
    public Task<IActionResult> OnPostSizeAsync(string? factor, string? tall, CancellationToken cancel) =>
        Change(async () =>
        {
            var times = Number(factor);
            if (Number(tall) is { } metres && library.Prepare(Id) is { } now)
            {
                times = metres is >= 0.3 and <= 4 ? metres / now.Made.Height : throw new RefusedException("a figure is 0.3 to 4 m tall");
            }

            await library.Change(Id, new SizeStep(times ?? throw new RefusedException("say a height in metres, such as 1.78")), cancel);
        });

    /// <summary>Paints over the weights; answers with the vertices that changed.</summary>
    /// <param name="stroke">A stroke as JSON.</param>
    public Task<IActionResult> OnPostPaintAsync(string? stroke, CancellationToken cancel) =>
        Painted(() =>
            library.Paint(
                Id,
                JsonSerializer.Deserialize<SubjectLibrary.Stroke>(stroke ?? string.Empty, WeightBytes.Json)
                    ?? throw new RefusedException("there is no stroke"),
                cancel
            )
        );

    /// <summary>Takes the last stroke back; answers with the vertices that changed.</summary>
    public Task<IActionResult> OnPostUnpaintAsync(CancellationToken cancel) => Painted(() => library.Unpaint(Id, cancel));

    private async Task<IActionResult> Painted(Func<Task<(SkinWeights Weights, IReadOnlyList<int> Changed)>> act)
    {
        try
        {
            var (weights, changed) = await act();
            return File(WeightBytes.Patch(weights, changed), "application/octet-stream");
        }
        catch (Exception e) when (e is RefusedException or JsonException)
        {
            return BadRequest(Takes.StepModel.Sentence(e is JsonException ? "the stroke cannot be read" : e.Message));
        }
    }

    /// <summary>Binds the mesh anew with joints put elsewhere.</summary>
    /// <param name="placed">Where they are put, as <see cref="PlacedSkeletonJson"/> reads it.</param>
    public Task<IActionResult> OnPostBindAsync(string? placed, CancellationToken cancel) =>
        Takes.JobFragment.Answer(this, jobs, "Bind", async () =>
        {
            var now = library.Prepare(Id) ?? throw new RefusedException("there is no such character");
            var said = placed ?? string.Empty;
            return PlacedSkeletonJson.Read(Encoding.UTF8.GetBytes(said), "placed").Count == 0
                ? throw new RefusedException("no joint was put elsewhere")
                : new LedgerService.Answer(null, await queue.Bind(Id, now.Subject.Name, said, cancel));
        });

    public Task<IActionResult> OnGetJobAsync(int job, CancellationToken cancel) => Takes.JobFragment.Follow(this, jobs, job, cancel);

    public IActionResult OnPostStop(int job)
    {
        jobs.Stop(job);
        return new NoContentResult();
    }

    public Task<IActionResult> OnPostBackAsync(CancellationToken cancel) => Change(() => library.Change(Id, null, cancel));

    public Task<IActionResult> OnPostUnlockAsync(CancellationToken cancel) => Change(() => library.Unlock(Id, cancel));

    public Task<IActionResult> OnPostKeepAsync(CancellationToken cancel) =>
        Change(async () =>
        {
            var before = library.Prepare(Id)?.Version.Number;
            var kept = await library.Accept(Id, cancel);
            if (kept.Number != before)
            {
                followUps.LibraryChanged(Id);
            }
        });

    private async Task<IActionResult> Change(Func<Task> act)
    {
        try
        {
            await act();
        }
        catch (RefusedException e)
        {
            Response.Headers["HX-Trigger"] = JsonSerializer.Serialize(
                new Dictionary<string, string> { ["e-toast"] = Takes.StepModel.Sentence(e.Message) }
            );
        }

        Anew = true;
        return Load() ? Partial("_PrepareParts", this) : NotFound();
    }

    private bool Load()
    {
        if (library.Prepare(Id) is not { } now)
        {
            return false;
        }

        Now = now;
        State = string.Create(CultureInfo.InvariantCulture, $"{now.Version.Number}-{now.Made.Draft.Steps.Count}-{(now.Locked ? 1 : 0)}");
        return true;
    }

    private static RestRemedy Remedy(string word) =>
        Enum.TryParse<RestRemedy>(word, out var r) && Enum.IsDefined(r) ? r : throw new RefusedException("there is no such remedy");

    private static double? Number(string? text) =>
        double.TryParse(text?.Replace(',', '.'), NumberStyles.Float, CultureInfo.InvariantCulture, out var n) ? n : null;
}
