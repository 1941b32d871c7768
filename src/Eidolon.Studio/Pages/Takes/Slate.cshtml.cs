using System.Globalization;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>A take's slate after the recording: rating, note, marker set, and the clocks of its devices.</summary>
public sealed class SlateModel(EidolonDb db) : PageModel
{
    /// <summary>A device's clock is never wrong by more than this once it was measured, milliseconds.</summary>
    public const double MostCorrection = 2000;

    [BindProperty(SupportsGet = true)]
    public int Id { get; set; }

    public Take Take { get; private set; } = null!;

    public IReadOnlyList<TakeDevice> Devices { get; private set; } = [];

    public IReadOnlyList<string> Sets { get; private set; } = [];

    public string Error { get; private set; } = string.Empty;

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) => await Load(cancel) ? Page() : NotFound();

    public async Task<IActionResult> OnPostAsync(
        int rating,
        string? note,
        string? markerSet,
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

        var set = markerSet ?? string.Empty;
        if (rating is < 0 or > 5 || (set.Length > 0 && !Sets.Contains(set)))
        {
            Error = rating is < 0 or > 5 ? "The rating is 1 to 5, or none." : $"There is no marker set '{set}'.";
            return Page();
        }

        (Take.Rating, Take.Note, Take.MarkerSet, Take.Devices) = (rating, (note ?? string.Empty).Trim(), set, TakeDevice.Write(devices));
        await db.SaveChangesAsync(cancel);
        return RedirectToPage(new { Id });
    }

    private async Task<bool> Load(CancellationToken cancel)
    {
        if (await db.Takes.Include(t => t.Day).FirstOrDefaultAsync(t => t.Id == Id, cancel) is not { } take)
        {
            return false;
        }

        (Take, Devices) = (take, TakeDevice.Of(take));
        Sets = await db.MarkerSets.AsNoTracking().OrderBy(s => s.Name).Select(s => s.Name).ToListAsync(cancel);
        return true;
    }
}
