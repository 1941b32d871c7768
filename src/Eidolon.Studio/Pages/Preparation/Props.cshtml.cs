using System.ComponentModel.DataAnnotations;
using System.Numerics;
using Eidolon.Core;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Eidolon.Studio.Live;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Eidolon.Studio.Pages.Preparation;

/// <summary>Props: made of markers picked on the live Stage, with a pivot of their own.</summary>
public sealed class PropsModel(ShelfService shelf, Productions productions, SubjectLibrary library, FollowUps followUps, LiveStage stage)
    : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int? Prop { get; set; }

    public IReadOnlyList<ShelfService.Prop> Rows { get; private set; } = [];

    public ShelfService.Prop? Chosen { get; private set; }

    public string FreeName { get; private set; } = "Prop 1";

    public string Error { get; private set; } = string.Empty;

    public Task OnGetAsync(CancellationToken cancel) => Load(cancel);

    /// <summary>Makes a prop of live markers by their slots.</summary>
    public async Task<IActionResult> OnPostMakeAsync([FromBody] NewProp made, CancellationToken cancel)
    {
        try
        {
            var production = await productions.Own(cancel);
            var body = RigidBody.FromWorld(
                (made.Name ?? string.Empty).Trim(),
                [
                    .. (made.Places ?? []).Select(p =>
                        p is { Length: 3 } ? new Vector3(p[0], p[1], p[2]) : throw new RefusedException("a marker has no place")
                    ),
                ]
            );
            var subject = await library.Add(production.Id, SubjectKind.Prop, made.Name, cancel);
            await library.Shape(subject.Id, body, string.Empty, "picked on the Stage", cancel);
            stage.Track(stage.Performers, stage.Part);
            return new JsonResult(new { id = subject.Id });
        }
        catch (Exception e) when (e is ArgumentException or RefusedException)
        {
            return new JsonResult(new { error = e.Message });
        }
    }

    /// <summary>Moves and turns the pivot within the prop's own frame. The prop has a new version.</summary>
    public async Task<IActionResult> OnPostPivotAsync(int id, [FromForm] Pivot pivot, CancellationToken cancel)
    {
        Prop = id;
        await Load(cancel);
        if (Chosen is not { } chosen)
        {
            return NotFound();
        }

        if (ModelState.Complaint() is { } complaint)
        {
            Error = complaint;
            return Page();
        }

        var tie = pivot.Tie is "model" or "camera" ? pivot.Tie : string.Empty;
        try
        {
            await library.Pivot(chosen.Subject.Id, new Vector3(pivot.X, pivot.Y, pivot.Z) / 1000, pivot.Turn, tie, cancel);
        }
        catch (Exception e) when (e is RefusedException or InvalidInputException or DamagedDataException)
        {
            Error = e.Message;
            return Page();
        }

        followUps.LibraryChanged(id);
        stage.Track(stage.Performers, stage.Part);
        return RedirectToPage(new { prop = id });
    }

    /// <summary>A prop is seen as another model, or as none.</summary>
    public async Task<IActionResult> OnPostModelAsync(int id, [FromForm] Seen seen, IFormFile? file, CancellationToken cancel)
    {
        Prop = id;
        await Load(cancel);
        if (Chosen is not { } chosen)
        {
            return NotFound();
        }

        try
        {
            if (seen.Off)
            {
                await library.Bare(id, cancel);
            }
            else
            {
                using var memory = new MemoryStream();
                await (file ?? throw new RefusedException("Choose a GLB or glTF file.")).CopyToAsync(memory, cancel);
                await library.Model(id, memory.ToArray(), Path.GetFileName(file.FileName), seen.Fit, cancel);
            }

            followUps.LibraryChanged(id);
            return RedirectToPage(new { prop = id });
        }
        catch (Exception e) when (e is RefusedException or InvalidInputException)
        {
            Error = e.Message;
            return Page();
        }
    }

    private async Task Load(CancellationToken cancel)
    {
        Rows = shelf.Props();
        Chosen = Rows.FirstOrDefault(r => r.Subject.Id == Prop);
        FreeName = await shelf.FreePropName(cancel);
    }

    /// <summary>Places of the markers picked, metres.</summary>
    public sealed record NewProp(string? Name, float[][]? Places);

    /// <summary>How a model is laid on the markers; or that there is none any more.</summary>
    public sealed record Seen
    {
        /// <summary>m, cm, inch; anything else for as long as the markers reach.</summary>
        public string? Unit { get; init; }

        /// <summary>"middle" for its middle on that of the markers.</summary>
        public string? Lies { get; init; }

        /// <summary>Without a model.</summary>
        public bool Off { get; init; }

        internal PropModelFit Fit =>
            new(
                Unit switch
                {
                    "m" => 1,
                    "cm" => 0.01f,
                    "inch" => 0.0254f,
                    _ => null,
                },
                Lies == "middle"
            );
    }

    /// <summary>Where the pivot goes within the prop's frame as it is: millimetres, then degrees about the frame's axes.</summary>
    public sealed record Pivot
    {
        private const float Most = 10_000;
        private const string Wrong = "The pivot wants numbers: millimetres, then degrees.";

        [Required(ErrorMessage = Wrong), Range(-Most, Most, ErrorMessage = Wrong)]
        public float X { get; init; }

        [Required(ErrorMessage = Wrong), Range(-Most, Most, ErrorMessage = Wrong)]
        public float Y { get; init; }

        [Required(ErrorMessage = Wrong), Range(-Most, Most, ErrorMessage = Wrong)]
        public float Z { get; init; }

        [Required(ErrorMessage = Wrong), Range(-Most, Most, ErrorMessage = Wrong)]
        public float Rx { get; init; }

        [Required(ErrorMessage = Wrong), Range(-Most, Most, ErrorMessage = Wrong)]
        public float Ry { get; init; }

        [Required(ErrorMessage = Wrong), Range(-Most, Most, ErrorMessage = Wrong)]
        public float Rz { get; init; }

        /// <summary>What it is tied to: "model", "camera" or nothing.</summary>
        public string? Tie { get; init; }

        internal Quaternion Turn =>
            Rotations.AboutAxis(1, Ry * MathF.PI / 180)
            * Rotations.AboutAxis(0, Rx * MathF.PI / 180)
            * Rotations.AboutAxis(2, Rz * MathF.PI / 180);
    }
}
