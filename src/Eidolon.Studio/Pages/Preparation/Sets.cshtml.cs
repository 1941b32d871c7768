using System.Text;
using Eidolon.Core;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Pages.Preparation;

/// <summary>Marker sets: make, edit, mirror, bring in and hand out as JSON.</summary>
public sealed class SetsModel(EidolonDb db, Productions productions, FollowUps followUps) : PageModel
{
    public IReadOnlyList<MarkerSetRow> Rows { get; private set; } = [];

    public MarkerSetRow? Row { get; private set; }

    public MarkerSet? Set { get; private set; }

    public string Error { get; private set; } = string.Empty;

    public Task OnGetAsync(int? set, CancellationToken cancel) => Load(set, cancel);

    public async Task<IActionResult> OnGetJsonAsync(int set, CancellationToken cancel) =>
        await db.MarkerSets.AsNoTracking().FirstOrDefaultAsync(s => s.Id == set, cancel) is { } row
            ? File(Encoding.UTF8.GetBytes(row.Json), "application/json", row.Name + ".json")
            : NotFound();

    public async Task<IActionResult> OnPostNewAsync(string? name, CancellationToken cancel) =>
        await Keep(new MarkerSet((name ?? string.Empty).Trim(), [], []), cancel);

    public async Task<IActionResult> OnPostBringAsync(IFormFile? file, CancellationToken cancel)
    {
        if (file is null)
        {
            return await Say(null, "Choose a JSON file.", cancel);
        }

        using var memory = new MemoryStream();
        await file.CopyToAsync(memory, cancel);
        try
        {
            return await Keep(MarkerSetJson.Read(memory.ToArray(), Path.GetFileName(file.FileName)), cancel);
        }
        catch (InvalidInputException e)
        {
            return await Say(null, e.Message, cancel);
        }
    }

    public Task<IActionResult> OnPostAddAsync(int set, string? name, BodyRole segment, CancellationToken cancel) =>
        Change(set, s => MarkerSetEdits.Add(s, (name ?? string.Empty).Trim(), segment), cancel);

    public Task<IActionResult> OnPostRemoveAsync(int set, string marker, CancellationToken cancel) =>
        Change(set, s => MarkerSetEdits.Remove(s, marker), cancel);

    public Task<IActionResult> OnPostMirrorAsync(int set, CancellationToken cancel) => Change(set, MarkerSetEdits.Mirror, cancel);

    public Task<IActionResult> OnPostLinkAsync(int set, string a, string b, CancellationToken cancel) =>
        Change(
            set,
            s =>
                a == b || s.Find(a) is null || s.Find(b) is null
                    ? throw new ArgumentException("two different markers of the set make a link")
                : s.Links.Contains((a, b)) || s.Links.Contains((b, a)) ? s
                : s with { Links = [.. s.Links, (a, b)] },
            cancel
        );

    private async Task<IActionResult> Change(int id, Func<MarkerSet, MarkerSet> edit, CancellationToken cancel)
    {
        var row = await db.MarkerSets.FirstOrDefaultAsync(s => s.Id == id, cancel);
        if (row is null)
        {
            return NotFound();
        }

        try
        {
            row.Json = MarkerSetJson.Write(edit(Parse(row)));
            await db.SaveChangesAsync(cancel);
            followUps.MarkerSetChanged(id);
            return RedirectToPage(new { set = id });
        }
        catch (ArgumentException e)
        {
            return await Say(id, e.Message, cancel);
        }
    }

    private async Task<IActionResult> Keep(MarkerSet set, CancellationToken cancel)
    {
        if (set.Name.Length is 0 or > 60 || await db.MarkerSets.AnyAsync(s => s.Name == set.Name, cancel))
        {
            return await Say(
                null,
                set.Name.Length is 0 or > 60 ? "A set wants a name of 1 to 60 letters." : $"There is a set '{set.Name}' already.",
                cancel
            );
        }

        var production = await productions.Own(cancel);
        var row = new MarkerSetRow
        {
            ProductionId = production.Id,
            Name = set.Name,
            Json = MarkerSetJson.Write(set),
        };
        db.MarkerSets.Add(row);
        await db.SaveChangesAsync(cancel);
        if (production.MarkerSetId is null)
        {
            // The first set is what is worn when a slate names none.
            production.MarkerSetId = row.Id;
            await db.SaveChangesAsync(cancel);
            followUps.MarkerSetChanged(row.Id);
        }

        return RedirectToPage(new { set = row.Id });
    }

    private async Task<IActionResult> Say(int? set, string error, CancellationToken cancel)
    {
        Error = error;
        await Load(set, cancel);
        return Page();
    }

    private async Task Load(int? set, CancellationToken cancel)
    {
        Rows = await db.MarkerSets.AsNoTracking().OrderBy(s => s.Name).ToListAsync(cancel);
        Row = set is { } id ? Rows.FirstOrDefault(r => r.Id == id) : Rows.FirstOrDefault();
        Set = Row is null ? null : Parse(Row);
    }

    /// <summary>A set being made may be empty, which a file may not.</summary>
    private static MarkerSet Parse(MarkerSetRow row) =>
        row.Json.Contains("\"segment\"", StringComparison.Ordinal)
            ? MarkerSetJson.Read(Encoding.UTF8.GetBytes(row.Json), row.Name) with
            {
                Name = row.Name,
            }
            : new MarkerSet(row.Name, [], []);
}
