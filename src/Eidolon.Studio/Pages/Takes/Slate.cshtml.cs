using Eidolon.Core;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>A take's slate after the recording: rating, note, marker set, and the clocks of its devices.</summary>
public sealed class SlateModel(Slates slates, MarkerSetLibrary sets) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int Id { get; set; }

    public Take Take { get; private set; } = null!;

    public IReadOnlyList<TakeDevice> Devices { get; private set; } = [];

    public IReadOnlyList<MarkerSetRow> Sets { get; private set; } = [];

    /// <summary>Performers and props that can be on it.</summary>
    public IReadOnlyList<Subject> Subjects { get; private set; } = [];

    public string Error { get; private set; } = string.Empty;

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) => await Load(cancel) ? Page() : NotFound();

    public async Task<IActionResult> OnPostAsync([FromForm] Slates.Words words, CancellationToken cancel)
    {
        if (!await Load(cancel))
        {
            return NotFound();
        }

        try
        {
            if (ModelState.Complaint() is { } complaint)
            {
                throw new RefusedException(complaint);
            }

            await slates.Write(Take, words, cancel);
            return RedirectToPage(new { Id });
        }
        catch (RefusedException e)
        {
            Error = e.Message;
            return Page();
        }
    }

    private async Task<bool> Load(CancellationToken cancel)
    {
        if (await slates.Find(Id, cancel) is not { } take)
        {
            return false;
        }

        (Take, Devices) = (take, TakeDevice.Of(take));
        Sets = [.. (await sets.All(cancel)).Where(s => s.ProductionId == take.ProductionId)];
        Subjects = await slates.Subjects(take.ProductionId, cancel);
        return true;
    }
}
