using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Eidolon.Studio.Pages.Preparation;

/// <summary>The suit is prepared: field, sensors, poses. Whoever was measured first is taken for its wearer here.</summary>
public sealed class SuitModel(ShelfService shelf) : PageModel
{
    /// <summary>Null while nobody is measured.</summary>
    public Subject? Wearer { get; private set; }

    /// <summary>Opens the page.</summary>
    public async Task OnGetAsync(CancellationToken cancel) => Wearer = await shelf.FirstMeasured(cancel);
}
