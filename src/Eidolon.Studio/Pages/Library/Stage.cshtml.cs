using System.ComponentModel.DataAnnotations;
using Eidolon.Storage.Model;
using Eidolon.Studio.Live;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Eidolon.Studio.Pages.Library;

/// <summary>The production's own stage: rate, cameras, volume, and the marker set that is worn.</summary>
public sealed class StageModel(Productions productions, MarkerSetLibrary sets, StageSettings settings) : PageModel
{
    public Production? Production { get; private set; }

    public IReadOnlyList<MarkerSetRow> Sets { get; private set; } = [];

    [BindProperty]
    public Wish Asked { get; set; } = new();

    /// <summary>What the form asks for.</summary>
    public sealed record Wish
    {
        [Required, StringLength(80, MinimumLength = 1)]
        public string? Name { get; init; }

        /// <summary>Frames a second.</summary>
        [Range(24, 1000)]
        public double Rate { get; init; } = 120;

        [Range(2, RingDescription.MostCameras)]
        public int Cameras { get; init; } = 12;

        /// <summary>Metres.</summary>
        [Range(1, 60)]
        public double Width { get; init; } = 8;

        [Range(1, 20)]
        public double Height { get; init; } = 3;

        [Range(1, 60)]
        public double Depth { get; init; } = 6;

        public int? MarkerSet { get; init; }
    }

    public Task OnGetAsync(CancellationToken cancel) => Load(cancel);

    public async Task<IActionResult> OnPostAsync(CancellationToken cancel)
    {
        await Load(cancel);
        if (Production is null || !ModelState.IsValid || (Asked.MarkerSet is { } set && Sets.All(s => s.Id != set)))
        {
            return Page();
        }

        await productions.Change(
            p =>
            {
                (p.Name, p.FrameRate, p.Cameras, p.MarkerSetId) = (Asked.Name!.Trim(), Asked.Rate, Asked.Cameras, Asked.MarkerSet);
                (p.VolumeX, p.VolumeY, p.VolumeZ) = (Asked.Width, Asked.Height, Asked.Depth);
            },
            cancel
        );
        settings.Read();
        return RedirectToPage();
    }

    private async Task Load(CancellationToken cancel)
    {
        Production = await productions.First(cancel);
        Sets = await sets.All(cancel);
        if (Production is { } p && HttpMethods.IsGet(Request.Method))
        {
            Asked = new Wish
            {
                Name = p.Name,
                Rate = p.FrameRate,
                Cameras = p.Cameras,
                Width = p.VolumeX,
                Height = p.VolumeY,
                Depth = p.VolumeZ,
                MarkerSet = p.MarkerSetId,
            };
        }
    }
}
