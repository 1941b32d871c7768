using System.Globalization;
using System.Text.Json;
using Eidolon.Core;
using Eidolon.Core.Characters;
using Eidolon.Core.Characters.Preparing;
using Eidolon.Core.Skeletons;
using Eidolon.Storage.Library;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Eidolon.Studio.Pages.Library;

/// <summary>A character made ready: roles, rest pose, kept and locked. Every change is written down at once and can be taken back.</summary>
public sealed class PrepareModel(SubjectLibrary library, FollowUps followUps) : PageModel
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

    public IActionResult OnGet() => Load() ? Page() : NotFound();

    public Task<IActionResult> OnPostRoleAsync(BodyRole role, string? joint, CancellationToken cancel) =>
        Change(() => library.Change(Id, new RoleStep(role, string.IsNullOrEmpty(joint) ? null : joint), cancel));

    public Task<IActionResult> OnPostMirrorAsync(string from, CancellationToken cancel) =>
        Change(() => library.Change(Id, new MirrorStep(from == "R" ? 'R' : 'L'), cancel));

    public Task<IActionResult> OnPostSidesAsync(bool swapped, CancellationToken cancel) =>
        Change(() => library.Change(Id, new SidesStep(swapped), cancel));

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
