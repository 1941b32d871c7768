using Eidolon.StandIns.Scenes;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Live;
using Eidolon.Studio.Live.Devices;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Pages;

/// <summary>Record: slate, live view, rack, record and stop.</summary>
public sealed class RecordModel(EidolonDb db, DeviceRack rack, LiveStage stage, StandInStage standIns) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int? From { get; set; }

    public ShootDay? Day { get; private set; }

    public Take? Template { get; private set; }

    public int Number { get; private set; } = 1;

    public string SetUp { get; private set; } = "HL_009_lamp-walk";

    public string Scene { get; private set; } = "lamp-walk";

    public IReadOnlyList<PerformerRow> Performers { get; private set; } = [];

    public IReadOnlyList<string> Chosen { get; private set; } = [];

    public IReadOnlyList<PropRow> Props { get; private set; } = [];

    public IReadOnlyList<string> Sets { get; private set; } = [];

    /// <summary>The set the next take is worn with: that of the template, or of the last take.</summary>
    public string MarkerSet { get; private set; } = string.Empty;

    public IReadOnlyList<Take> JustKept { get; private set; } = [];

    public IEnumerable<string> Scenes => SceneCatalog.Names;

    public IReadOnlyList<UdpDeviceSource> Devices => rack.Devices;

    public BodyPart Part => stage.Part;

    public double Smoothing => stage.SmoothingMilliseconds;

    public bool Plays(string stream) => standIns.Running.Contains(stream);

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
        Performers = await db
            .Performers.AsNoTracking()
            .Select(p => new PerformerRow
            {
                Id = p.Id,
                Name = p.Name,
                Stature = p.Stature,
            })
            .ToListAsync(cancel);
        Chosen = (Template?.Performer ?? SceneCatalog.DefaultPerformer(Scene)).Split(", ");
        Props = await db.Props.AsNoTracking().OrderBy(p => p.Name).ToListAsync(cancel);
        JustKept = await db
            .Takes.AsNoTracking()
            .Where(t => t.ShootDayId == Day.Id && t.State == TakeState.Kept)
            .OrderByDescending(t => t.CreatedUtc)
            .Take(3)
            .ToListAsync(cancel);
        Sets = await db.MarkerSets.AsNoTracking().OrderBy(s => s.Name).Select(s => s.Name).ToListAsync(cancel);
        MarkerSet = Template?.MarkerSet ?? JustKept.FirstOrDefault()?.MarkerSet ?? string.Empty;
        return Page();
    }

    /// <summary>Circles a take, or takes the circle away.</summary>
    public async Task<IActionResult> OnPostCircleAsync(int take, CancellationToken cancel)
    {
        var row = await db.Takes.FirstOrDefaultAsync(t => t.Id == take, cancel);
        if (row is null)
        {
            return NotFound();
        }

        row.Circled = !row.Circled;
        await db.SaveChangesAsync(cancel);
        return new JsonResult(new { row.Circled });
    }
}
