using System.Globalization;
using System.Text;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Skeletons;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Pages.Preparation;

/// <summary>Performers: measured ones, and bodies from height and build.</summary>
public sealed class PerformersModel(EidolonDb db) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int? Performer { get; set; }

    public IReadOnlyList<PerformerRow> Rows { get; private set; } = [];

    public PerformerRow? Chosen { get; private set; }

    /// <summary>Bone, left and right length in metres.</summary>
    public IReadOnlyList<(string Bone, double? Left, double? Right)> Bones { get; private set; } = [];

    public string Error { get; private set; } = string.Empty;

    public Task OnGetAsync(CancellationToken cancel) => Load(cancel);

    public async Task<IActionResult> OnPostAddAsync(string? name, string? height, string? arms, CancellationToken cancel)
    {
        name = (name ?? string.Empty).Trim();
        var tall = float.TryParse(height, NumberStyles.Float, CultureInfo.InvariantCulture, out var h) ? h : float.NaN;
        var reach = float.TryParse(arms, NumberStyles.Float, CultureInfo.InvariantCulture, out var a) && a is > 0.8f and < 1.2f ? a : 1;
        Error =
            name.Length is 0 or > 40 || name.Contains(',', StringComparison.Ordinal) || name.Contains(':', StringComparison.Ordinal)
                ? "A name of 1 to 40 letters is wanted, without : and ,"
            : !(tall is >= 0.9f and <= 2.4f) ? "The height must be 0.9 to 2.4 m."
            : await db.Performers.AnyAsync(p => p.Name == name, cancel) ? $"There is a performer '{name}' already."
            : string.Empty;
        if (Error.Length > 0)
        {
            await Load(cancel);
            return Page();
        }

        var body = Anthropometry.Body(tall, reach);
        var row = new PerformerRow
        {
            ProductionId = await db.Productions.Select(p => p.Id).FirstAsync(cancel),
            Name = name,
            Stature = tall,
            Figure = GltfSkinWriter.Write(body, BodyParts.Figure(body), name),
        };
        db.Performers.Add(row);
        await db.SaveChangesAsync(cancel);
        return RedirectToPage(new { performer = row.Id });
    }

    private async Task Load(CancellationToken cancel)
    {
        Rows = await db.Performers.AsNoTracking().OrderBy(p => p.Name).ToListAsync(cancel);
        Chosen = Performer is { } id ? Rows.FirstOrDefault(r => r.Id == id) : Rows.FirstOrDefault();
        if (Chosen is not { Body.Length: > 0 } c)
        {
            return;
        }

        var lengths = PerformerJson.Read(Encoding.UTF8.GetBytes(c.Body), c.Name).BoneLengths;
        Bones =
        [
            .. lengths
                .Keys.Select(k => k[^1] is 'L' or 'R' ? k[..^1] : k)
                .Distinct()
                .Select(k =>
                    (
                        k,
                        lengths.TryGetValue(k + "L", out var l) ? l
                        : lengths.TryGetValue(k, out var m) ? m
                        : (double?)null,
                        lengths.TryGetValue(k + "R", out var r) ? r : (double?)null
                    )
                ),
        ];
    }
}
