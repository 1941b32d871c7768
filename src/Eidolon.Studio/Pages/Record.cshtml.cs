using Eidolon.StandIns.Scenes;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Live;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Pages;

/// <summary>Record: slate, live view, record and stop.</summary>
public sealed class RecordModel(EidolonDb db, RingReceiver ring, RingService standIn) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int? From { get; set; }

    public ShootDay? Day { get; private set; }

    public Take? Template { get; private set; }

    public int Number { get; private set; } = 1;

    public string SetUp { get; private set; } = "HL_009_lamp-walk";

    public string Scene { get; private set; } = "lamp-walk";

    public IReadOnlyList<PerformerRow> Performers { get; private set; } = [];

    public IReadOnlyList<Take> JustKept { get; private set; } = [];

    public IEnumerable<string> Scenes => SceneCatalog.Names;

    public RingReceiver Ring => ring;

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        Template = From is { } id ? await db.Takes.Include(t => t.Day).AsNoTracking().FirstOrDefaultAsync(t => t.Id == id, cancel) : null;
        Day = Template?.Day ?? await db.Days.OrderByDescending(d => d.Date).AsNoTracking().FirstOrDefaultAsync(cancel);
        if (Day is null)
        {
            return RedirectToPage("/Index");
        }

        SetUp = Template?.SetUp ?? SetUp;
        Scene = SceneCatalog.Names.FirstOrDefault(n => SetUp.EndsWith(n, StringComparison.Ordinal)) ?? Scene;
        Number = (await db.Takes.Where(t => t.SetUp == SetUp).Select(t => (int?)t.Number).MaxAsync(cancel) ?? 0) + 1;
        Performers = await db.Performers.AsNoTracking().Select(p => new PerformerRow { Id = p.Id, Name = p.Name }).ToListAsync(cancel);
        JustKept = await db.Takes.AsNoTracking().Where(t => t.ShootDayId == Day.Id && t.State == TakeState.Kept).OrderByDescending(t => t.CreatedUtc).Take(2).ToListAsync(cancel);
        standIn.Perform(Scene, Template?.Performer ?? SceneCatalog.DefaultPerformer(Scene), 1);
        return Page();
    }
}
