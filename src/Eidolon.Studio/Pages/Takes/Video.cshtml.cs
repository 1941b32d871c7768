using System.Numerics;
using Eidolon.Core;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;
using Eidolon.Core.Video;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>A film next to a take: put in, lined up by hand or by a clap, played in step.</summary>
public sealed class VideoModel(Films films, Slates slates, TakeService takes) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int Id { get; set; }

    public Take Take { get; private set; } = null!;

    public WitnessVideo? Video { get; private set; }

    public string Error { get; private set; } = string.Empty;

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel) => await Load(cancel) ? Page() : NotFound();

    public async Task<IActionResult> OnPostPutAsync(IFormFile? film, CancellationToken cancel)
    {
        if (!await Load(cancel))
        {
            return NotFound();
        }

        if (film is null || film.Length == 0)
        {
            Error = "Choose an mp4 or webm file.";
            return Page();
        }

        try
        {
            await using var stream = film.OpenReadStream();
            await films.Put(Id, Path.GetFileName(film.FileName), stream, cancel);
            return RedirectToPage(new { Id });
        }
        catch (RefusedException e)
        {
            Error = e.Message;
            return Page();
        }
    }

    public async Task<IActionResult> OnPostSetAsync([FromForm] Films.Lines lines, CancellationToken cancel)
    {
        if (!await Load(cancel) || Video is null)
        {
            return NotFound();
        }

        if (ModelState.Complaint() is { } complaint)
        {
            Error = complaint;
            return Page();
        }

        await films.Set(Id, lines, cancel);
        return RedirectToPage(new { Id });
    }

    public async Task<IActionResult> OnPostDropAsync(CancellationToken cancel)
    {
        await films.Drop(Id, cancel);
        return RedirectToPage(new { Id });
    }

    /// <summary>The film's loudness comes from the browser, which alone can decode it; the clap is found here.</summary>
    public IActionResult OnPostClap([FromBody] Loudness heard)
    {
        var points = Points(takes.Open(Id));
        if (Wrist(points, 'L') is not { } left || Wrist(points, 'R') is not { } right)
        {
            return new JsonResult(new { error = "The wrists have no names yet: label or solve the take first." });
        }

        var sound = ClapFinder.InSound(heard.Values, heard.Rate);
        var hands = ClapFinder.InMotion(left, right, points.FrameRate);
        return new JsonResult(
            sound is null ? new { error = "No clap is heard in the film." }
            : hands is null ? new { error = "The wrists never meet fast in the take." }
            : (object)
                new
                {
                    sound,
                    hands,
                    offset = Math.Round(sound.Value - hands.Value, 3),
                }
        );
    }

    /// <summary>Finds where the film was shot from by points that were clicked in its picture.</summary>
    public async Task<IActionResult> OnPostCameraAsync([FromBody] Clicked clicked, CancellationToken cancel)
    {
        var points = Points(takes.Open(Id));
        var places = new List<Vector3d>();
        var pixels = new List<(double U, double V)>();
        foreach (var c in clicked.Points)
        {
            var column = points.IndexOf(c.Name);
            if (column < 0 || c.Frame < 0 || c.Frame >= points.FrameCount || !MarkerTake.Seen(points[c.Frame, column]))
            {
                return new JsonResult(new { error = $"{c.Name} is not seen at frame {c.Frame}." });
            }

            places.Add(points[c.Frame, column]);
            pixels.Add((c.U, c.V));
        }

        try
        {
            var (camera, rms) = FilmCamera.Locate(places, pixels, clicked.Width, clicked.Height);
            var json = CameraRingJson.Write(camera);
            json["rms"] = Math.Round(rms, 2);
            await films.Place(Id, json, cancel);
            return new JsonResult(new { camera = json });
        }
        catch (Exception e) when (e is ArgumentException or RefusedException)
        {
            return new JsonResult(new { error = char.ToUpperInvariant(e.Message[0]) + e.Message[1..] + "." });
        }
    }

    /// <summary>What can be clicked: joints of the solved motion, else the named markers.</summary>
    public IReadOnlyList<string> Names { get; private set; } = [];

    private static MarkerTake Points(OpenTake open) =>
        open.Solved.FirstOrDefault()?.Motion is { } motion ? MotionFiles.JointPoints(motion) : open.Marked;

    private static Vector3[]? Wrist(MarkerTake points, char side)
    {
        var column = Enumerable
            .Range(0, points.MarkerCount)
            .Where(i =>
                MarkerNames.Split(points.Names[i]).Marker is var n
                && n[^1] == side
                && (n.StartsWith("Wrist", StringComparison.Ordinal) || n.StartsWith("Hand", StringComparison.Ordinal))
            )
            .Select(i => (int?)i)
            .FirstOrDefault();
        return column is { } c ? [.. Enumerable.Range(0, points.FrameCount).Select(f => points[f, c])] : null;
    }

    private async Task<bool> Load(CancellationToken cancel)
    {
        var take = await slates.Find(Id, cancel);
        if (take is null)
        {
            return false;
        }

        Take = take;
        Names = [.. Points(takes.Open(Id)).Names.Where(n => !MarkerNames.IsUnnamed(n))];
        Video = await films.Of(Id, cancel);
        return true;
    }

    /// <summary>RMS of the sound, evenly spaced.</summary>
    public sealed record Loudness(float[] Values, double Rate);

    /// <summary>Points clicked in the picture of the film.</summary>
    /// <param name="Width">Of the picture, pixels.</param>
    public sealed record Clicked(int Width, int Height, Click[] Points);

    /// <summary>One of them: which joint, at which frame of the take, where in the picture.</summary>
    public sealed record Click(string Name, int Frame, double U, double V);
}
