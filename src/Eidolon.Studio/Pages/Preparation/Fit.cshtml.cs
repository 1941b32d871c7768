using Eidolon.Core;
using Eidolon.Studio.Api;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Eidolon.Studio.Pages.Preparation;

/// <summary>A performer's body put right by hand: it stands in its markers, centres are dragged, and it is kept as a version.</summary>
public sealed class FitModel(FitDesk desk, FollowUps followUps) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int Performer { get; set; }

    /// <summary>Null when the performer cannot be fitted; <see cref="Error"/> says why.</summary>
    public FitDesk.Sitting? Sitting { get; private set; }

    public string Error { get; private set; } = string.Empty;

    public void OnGet() => Load();

    public async Task<IActionResult> OnPostKeepAsync(string? moves, CancellationToken cancel)
    {
        try
        {
            await desk.Keep(desk.Of(Performer), FitApi.Moves(moves), cancel);
            followUps.LibraryChanged(Performer);
            return RedirectToPage("/Preparation/Performers", new { performer = Performer });
        }
        catch (RefusedException e)
        {
            Load();
            Error = e.Message;
            return Page();
        }
    }

    private void Load()
    {
        try
        {
            Sitting = desk.Of(Performer);
        }
        catch (RefusedException e)
        {
            Error = e.Message;
        }
    }
}
