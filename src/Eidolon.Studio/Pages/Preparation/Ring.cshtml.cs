using System.Text.Json.Nodes;
using Eidolon.Core.Optical;
using Eidolon.Storage.Model;
using Eidolon.Studio.Live;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Eidolon.Studio.Pages.Preparation;

/// <summary>Calibration of the camera ring with live coverage.</summary>
public sealed class RingModel(LiveStage stage, StageSettings settings) : PageModel
{
    public CalibrationRow? Row { get; private set; }

    public double Covered { get; private set; }

    public IReadOnlyList<(string Name, double Residual)> Cameras { get; private set; } = [];

    public IEnumerable<string> Names => settings.Ring.Nominal.Select(c => c.Name);

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Row = await settings.LastCalibration(cancel);
        var report = JsonNode.Parse(Row?.Report ?? "{}")?["cameras"] as JsonArray;
        Cameras = [.. Names.Select((n, i) => (n, report is not null && i < report.Count ? (double?)report[i]?["residualPixels"] ?? 0 : 0))];
        if (stage.Ring is { } ring)
        {
            var cells = FloorCoverage.Of(ring, settings.Ring.VolumeX, settings.Ring.VolumeZ);
            Covered = cells.Count(c => c.Cameras >= 3) / (double)cells.Count;
        }
    }
}
