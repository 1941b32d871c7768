using System.Globalization;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>A take's slate after the recording: rating, note, marker set, and the clocks of its devices.</summary>
public sealed class SlateModel(EidolonDb db, TakeService takes) : PageModel
{
    /// <summary>A device's clock is never wrong by more than this once it was measured, milliseconds.</summary>
    public const double MostCorrection = 2000;

    [BindProperty(SupportsGet = true)]
    public int Id { get; set; }

    public Take Take { get; private set; } = null!;

    public IReadOnlyList<TakeDevice> Devices { get; private set; } = [];

    public IReadOnlyList<MarkerSetRow> Sets { get; private set; } = [];

    /// <summary>Performers and props that can be on it.</summary>
    public IReadOnlyList<Subject> Subjects { get; private set; } = [];

    public string Error { get; private set; } = string.Empty;

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) => await Load(cancel) ? Page() : NotFound();

    public async Task<IActionResult> OnPostAsync(
        int rating,
        string? note,
        int? markerSet,
        int[] parts,
        [FromForm] Dictionary<string, string> correction,
        CancellationToken cancel
    )
    {
        if (!await Load(cancel))
        {
            return NotFound();
        }

        var devices = new List<TakeDevice>();
        foreach (var d in Devices)
        {
            var text = correction.GetValueOrDefault(d.Stream, "0");
            if (!double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var ms) || Math.Abs(ms) > MostCorrection)
            {
                Error =
                    $"{d.Name}: '{text}' is not a correction; a number of milliseconds from −{MostCorrection:0} to {MostCorrection:0} is.";
                return Page();
            }

            devices.Add(d with { CorrectionMilliseconds = ms });
        }

        if (rating is < 0 or > 5 || (markerSet is { } set && Sets.All(s => s.Id != set)) || parts.Any(p => Subjects.All(s => s.Id != p)))
        {
            Error = rating is < 0 or > 5 ? "The rating is 1 to 5, or none." : "The marker set or somebody on the slate is gone.";
            return Page();
        }

        (Take.Rating, Take.Note, Take.MarkerSetId, Take.Devices) = (
            rating,
            (note ?? string.Empty).Trim(),
            markerSet,
            TakeDevice.Write(devices)
        );
        await Join(parts, cancel);
        await db.SaveChangesAsync(cancel);
        takes.Refresh(Id);
        return RedirectToPage(new { Id });
    }

    /// <summary>Who joins the slate has a part and a node from now on; nobody with work in the Ledger is taken off.</summary>
    private async Task Join(int[] parts, CancellationToken cancel)
    {
        foreach (var id in parts.Where(id => Take.Parts.All(p => p.SubjectId != id)))
        {
            var subject = Subjects.First(s => s.Id == id);
            var alone = !Take.Performers.Any();
            Take.Parts.Add(
                new TakePart
                {
                    SubjectId = id,
                    Position = Take.Parts.Count,
                    Prefix = subject.Kind == SubjectKind.Performer && !alone ? subject.Name : string.Empty,
                }
            );
        }

        await db.SaveChangesAsync(cancel);
        await TakeNodes.Ensure(db, Take, cancel);
    }

    private async Task<bool> Load(CancellationToken cancel)
    {
        if (
            await db
                .Takes.Include(t => t.Day)
                .Include(t => t.Parts)
                    .ThenInclude(p => p.Subject)
                .FirstOrDefaultAsync(t => t.Id == Id, cancel)
            is not { } take
        )
        {
            return false;
        }

        (Take, Devices) = (take, TakeDevice.Of(take));
        Sets = await db.MarkerSets.AsNoTracking().Where(s => s.ProductionId == take.ProductionId).OrderBy(s => s.Name).ToListAsync(cancel);
        Subjects = await db
            .Shelf.AsNoTracking()
            .Where(s => s.ProductionId == take.ProductionId && s.Kind != SubjectKind.Character)
            .OrderBy(s => s.Kind)
            .ThenBy(s => s.Name)
            .ToListAsync(cancel);
        return true;
    }
}
