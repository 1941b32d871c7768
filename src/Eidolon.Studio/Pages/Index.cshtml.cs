using Eidolon.Core;
using Eidolon.Core.Formats;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Live.Devices;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Pages;

/// <summary>The Board: shoot days, takes, performers, characters, and what needs a look.</summary>
public sealed class IndexModel(EidolonDb db, DeviceRack rack, TakeImport import) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int? Day { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? Sort { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? Find { get; set; }

    public Production? Production { get; private set; }

    public IReadOnlyList<ShootDay> Days { get; private set; } = [];

    public ShootDay? Open { get; private set; }

    public IReadOnlyList<Take> Takes { get; private set; } = [];

    public IReadOnlyList<PerformerRow> Performers { get; private set; } = [];

    public IReadOnlyList<CharacterRow> Characters { get; private set; } = [];

    public IReadOnlyList<Take> Worst { get; private set; } = [];

    public DeviceRack Rack => rack;

    public IReadOnlyList<PropRow> Props { get; private set; } = [];

    public string? Error { get; private set; }

    public async Task OnGetAsync(CancellationToken cancel) => await Load(cancel);

    public async Task<IActionResult> OnPostCircleAsync(int id, CancellationToken cancel)
    {
        var take = await db.Takes.FirstOrDefaultAsync(t => t.Id == id, cancel);
        if (take is null)
        {
            return NotFound();
        }

        take.Circled = !take.Circled;
        await db.SaveChangesAsync(cancel);
        return RedirectToPage(
            new
            {
                Day = take.ShootDayId,
                Sort,
                Find,
            }
        );
    }

    /// <summary>A new shoot day, and the production with the first one.</summary>
    public async Task<IActionResult> OnPostDayAsync(string? production, string? name, CancellationToken cancel)
    {
        var own = await db.Productions.FirstOrDefaultAsync(cancel);
        name = name?.Trim() ?? string.Empty;
        if (name.Length is 0 or > 80 || (own is null && string.IsNullOrWhiteSpace(production)))
        {
            Error = "A shoot day wants a name of 1 to 80 letters, and so does a new production.";
            await Load(cancel);
            return Page();
        }

        if (own is null)
        {
            own = new Production { Name = production!.Trim() };
            db.Productions.Add(own);
        }

        var day = new ShootDay { Name = name, Date = DateOnly.FromDateTime(DateTime.Now) };
        own.Days.Add(day);
        await db.SaveChangesAsync(cancel);
        return RedirectToPage(new { Day = day.Id });
    }

    /// <summary>Brings in marker files; one that cannot be read changes nothing and says why.</summary>
    public async Task<IActionResult> OnPostBringAsync(List<IFormFile> files, int day, string performer, CancellationToken cancel)
    {
        foreach (var file in files)
        {
            using var memory = new MemoryStream();
            await file.CopyToAsync(memory, cancel);
            try
            {
                await import.Add(ImportedFile.Read(memory.ToArray(), Path.GetFileName(file.FileName)), day, performer, cancel);
            }
            catch (InvalidInputException e)
            {
                Error = e.Message;
            }
        }

        Day = day;
        if (Error is null && files.Count > 0)
        {
            return RedirectToPage(new { Day = day });
        }

        Error ??= "Choose at least one file: C3D, BVH, GLB or CSV.";
        await Load(cancel);
        return Page();
    }

    private async Task Load(CancellationToken cancel)
    {
        Props = await db.Props.AsNoTracking().OrderBy(p => p.Name).ToListAsync(cancel);
        Production = await db.Productions.AsNoTracking().FirstOrDefaultAsync(cancel);
        Days = await db.Days.AsNoTracking().Include(d => d.Takes).OrderBy(d => d.Date).ToListAsync(cancel);
        Open = Days.FirstOrDefault(d => d.Id == Day) ?? Days.LastOrDefault(d => d.Takes.Count > 0) ?? Days.LastOrDefault();
        Performers = await db
            .Performers.AsNoTracking()
            .Select(p => new PerformerRow
            {
                Id = p.Id,
                Name = p.Name,
                Stature = p.Stature,
                FitMillimetres = p.FitMillimetres,
                Body = p.Body.Substring(0, Math.Min(1, p.Body.Length)),
            })
            .ToListAsync(cancel);
        Characters = await db
            .Characters.AsNoTracking()
            .Select(c => new CharacterRow
            {
                Id = c.Id,
                Name = c.Name,
                Glb = Array.Empty<byte>(),
                Verdict = c.Verdict,
                Reasons = c.Reasons,
                Height = c.Height,
            })
            .ToListAsync(cancel);
        var takes = Open is null
            ? []
            : await db
                .Takes.AsNoTracking()
                .Include(t => t.Ledger)
                .Include(t => t.HandOffs)
                .Where(t => t.ShootDayId == Open.Id)
                .OrderBy(t => t.Name)
                .ToListAsync(cancel);
        if (!string.IsNullOrWhiteSpace(Find))
        {
            takes = [.. takes.Where(t => $"{t.Name} {t.Performer} {t.Note} {t.Props}".Contains(Find, StringComparison.OrdinalIgnoreCase))];
        }

        Takes = Sort switch
        {
            "far" => [.. takes.OrderByDescending(StepThread.Next)],
            "worst" => [.. takes.OrderByDescending(t => (t.MustFix * 100) + t.Look)],
            _ => takes,
        };
        Worst = await db
            .Takes.AsNoTracking()
            .Include(t => t.Ledger)
            .Where(t => t.MustFix + t.Look > 0)
            .OrderByDescending(t => t.MustFix)
            .ThenByDescending(t => t.Look)
            .Take(6)
            .ToListAsync(cancel);
    }
}
