using System.Text;
using Eidolon.Core;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Eidolon.Studio.Pages.Preparation;

/// <summary>Marker sets: make, edit, mirror, bring in and hand out as JSON.</summary>
public sealed class SetsModel(MarkerSetLibrary sets) : PageModel
{
    public IReadOnlyList<MarkerSetRow> Rows { get; private set; } = [];

    public MarkerSetRow? Row { get; private set; }

    public MarkerSet? Set { get; private set; }

    public string Error { get; private set; } = string.Empty;

    public Task OnGetAsync(int? set, CancellationToken cancel) => Load(set, cancel);

    public async Task<IActionResult> OnGetJsonAsync(int set, CancellationToken cancel) =>
        await sets.Find(set, cancel) is { } row
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
        try
        {
            return await sets.Change(id, edit, cancel) ? RedirectToPage(new { set = id }) : NotFound();
        }
        catch (Exception e) when (e is ArgumentException or RefusedException)
        {
            return await Say(id, e.Message, cancel);
        }
    }

    private async Task<IActionResult> Keep(MarkerSet set, CancellationToken cancel)
    {
        try
        {
            return RedirectToPage(new { set = (await sets.Add(set, cancel)).Id });
        }
        catch (RefusedException e)
        {
            return await Say(null, e.Message, cancel);
        }
    }

    private async Task<IActionResult> Say(int? set, string error, CancellationToken cancel)
    {
        Error = error;
        await Load(set, cancel);
        return Page();
    }

    private async Task Load(int? set, CancellationToken cancel)
    {
        Rows = await sets.All(cancel);
        Row = set is { } id ? Rows.FirstOrDefault(r => r.Id == id) : Rows.FirstOrDefault();
        Set = Row is null ? null : MarkerSetLibrary.Read(Row);
    }
}
