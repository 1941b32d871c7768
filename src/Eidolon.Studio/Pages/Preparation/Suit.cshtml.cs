using Eidolon.Storage;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Pages.Preparation;

/// <summary>The suit is prepared: field, sensors, poses. Whoever was measured first is taken for its wearer here.</summary>
public sealed class SuitModel(EidolonDb db, SubjectLibrary library) : PageModel
{
    public Subject? Wearer { get; private set; }

    public async Task OnGetAsync(CancellationToken cancel)
    {
        var performers = await db.Shelf.AsNoTracking().Where(s => s.Kind == SubjectKind.Performer).OrderBy(s => s.Id).ToListAsync(cancel);
        Wearer = performers.Find(p => library.Known(p.Id) is not null);
    }
}
