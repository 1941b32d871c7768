using Eidolon.Core;
using Eidolon.Storage.Library;
using Eidolon.Studio.Live;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.Mvc.ViewFeatures;

namespace Eidolon.Studio.Pages;

/// <summary>What was put aside: brought back with one action, gone for good after thirty days.</summary>
public sealed class AsideModel(Aside aside, LiveStage stage, TimeProvider time) : PageModel
{
    /// <summary>Where the pages find what was put aside just now: "kind/id/what name".</summary>
    public const string Just = "aside";

    public IReadOnlyList<Aside.Item> Items { get; private set; } = [];

    [TempData]
    public string? Said { get; set; }

    public DateTime Now => time.GetUtcNow().UtcDateTime;

    public async Task OnGetAsync(CancellationToken cancel) => Items = await aside.List(cancel);

    /// <param name="back">The page to go to afterwards; the Board when it is not one of ours.</param>
    public async Task<IActionResult> OnPostPutAsync(AsideKind kind, int id, string? back, CancellationToken cancel)
    {
        try
        {
            var item = await aside.Put(kind, id, cancel);
            Follow(kind);
            TempData[Just] = $"{item.Kind}/{item.Id}/{item.What} {item.Name}";
        }
        catch (RefusedException e)
        {
            Said = e.Message;
            return RedirectToPage();
        }

        return LocalRedirect(Url.IsLocalUrl(back) ? back : "/");
    }

    public async Task<IActionResult> OnPostBringAsync(AsideKind kind, int id, CancellationToken cancel)
    {
        try
        {
            var item = await aside.Bring(kind, id, cancel);
            Follow(kind);
            Said = $"The {item.What} {item.Name} is back.";
            return item.Kind switch
            {
                AsideKind.Take => LocalRedirect($"/takes/{item.Id}/label"),
                AsideKind.Day => LocalRedirect($"/?Day={item.Id}"),
                AsideKind.Scene => LocalRedirect($"/scenes/{item.Id}/assemble"),
                _ => RedirectToPage(),
            };
        }
        catch (RefusedException e)
        {
            Said = e.Message;
            return RedirectToPage();
        }
    }

    /// <summary>The live stage follows the props that there are.</summary>
    private void Follow(AsideKind kind)
    {
        if (kind == AsideKind.Subject)
        {
            stage.Track(stage.Performers, stage.Part);
        }
    }
}
