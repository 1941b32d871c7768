using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Live;
using Eidolon.Studio.Live.Devices;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Pages;

/// <summary>Record: slate, live view, rack, record and stop.</summary>
public sealed class RecordModel(EidolonDb db, DeviceRack rack, LiveStage stage, IStandIns standIns) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int? From { get; set; }

    public ShootDay? Day { get; private set; }

    public Take? Template { get; private set; }

    public int Number { get; private set; } = 1;

    public string SetUp { get; private set; } = "TAKE_001";

    public string Scene { get; private set; } = string.Empty;

    public IReadOnlyList<Subject> Performers { get; private set; } = [];

    /// <summary>Ids of the performers and props that are chosen to begin with.</summary>
    public IReadOnlyList<int> Chosen { get; private set; } = [];

    public IReadOnlyList<Subject> Props { get; private set; } = [];

    public IReadOnlyList<MarkerSetRow> Sets { get; private set; } = [];

    /// <summary>The set the next take is worn with: that of the template, or of the last take.</summary>
    public int? MarkerSet { get; private set; }

    public IReadOnlyList<Take> JustKept { get; private set; } = [];

    /// <summary>Scenes of the stand-ins; empty where there are none.</summary>
    public IReadOnlyList<string> Scenes => standIns.Scenes;

    public IReadOnlyList<UdpDeviceSource> Devices => rack.Devices;

    public BodyPart Part => stage.Part;

    public double Smoothing => stage.SmoothingMilliseconds;

    public bool Plays(string stream) => standIns.Running.Contains(stream);

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        Template = From is { } id
            ? await db.Takes.Include(t => t.Day).Include(t => t.Parts).AsNoTracking().FirstOrDefaultAsync(t => t.Id == id, cancel)
            : null;
        Day = Template?.Day ?? await db.Days.OrderByDescending(d => d.Date).AsNoTracking().FirstOrDefaultAsync(cancel);
        if (Day is null)
        {
            return RedirectToPage("/Index");
        }

        var subjects = await db
            .Shelf.AsNoTracking()
            .Where(s => s.ProductionId == Day.ProductionId)
            .OrderBy(s => s.Name)
            .ToListAsync(cancel);
        Performers = [.. subjects.Where(s => s.Kind == SubjectKind.Performer)];
        Props = [.. subjects.Where(s => s.Kind == SubjectKind.Prop)];
        await Slate(cancel);
        JustKept = await db
            .Takes.AsNoTracking()
            .Where(t => t.ShootDayId == Day.Id && t.State == TakeState.Kept)
            .OrderByDescending(t => t.CreatedUtc)
            .Take(3)
            .ToListAsync(cancel);
        Sets = await db.MarkerSets.AsNoTracking().Where(s => s.ProductionId == Day.ProductionId).OrderBy(s => s.Name).ToListAsync(cancel);
        MarkerSet = Template?.MarkerSetId ?? JustKept.FirstOrDefault()?.MarkerSetId;
        return Page();
    }

    /// <summary>What the next slate begins with: the template's, or the last take's, or that of the first scene the stand-ins know.</summary>
    private async Task Slate(CancellationToken cancel)
    {
        SetUp = Template?.SetUp
            ?? await db
                .Takes.Where(t => t.ProductionId == Day!.ProductionId && t.State == TakeState.Kept)
                .OrderByDescending(t => t.CreatedUtc)
                .Select(t => t.SetUp)
                .FirstOrDefaultAsync(cancel)
            ?? SetUp;
        Scene = Scenes.FirstOrDefault(n => SetUp.EndsWith(n, StringComparison.Ordinal)) ?? (Scenes.Count > 0 ? Scenes[0] : string.Empty);
        Number =
            (
                await db
                    .Takes.Where(t => t.ProductionId == Day!.ProductionId && t.SetUp == SetUp)
                    .Select(t => (int?)t.Number)
                    .MaxAsync(cancel)
                ?? 0
            ) + 1;
        var usual = standIns.DefaultPerformer(Scene);
        Chosen = Template is not null
            ? [.. Template.Parts.OrderBy(p => p.Position).Select(p => p.SubjectId)]
            : [.. Performers.Where(p => p.Name == usual).Select(p => p.Id)];
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
