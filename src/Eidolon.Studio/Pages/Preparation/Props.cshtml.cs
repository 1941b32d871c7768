using System.Globalization;
using System.Numerics;
using Eidolon.Core;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;
using Eidolon.Storage;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Eidolon.Studio.Live;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Pages.Preparation;

/// <summary>Props: made of markers picked on the live Stage, with a pivot of their own.</summary>
public sealed class PropsModel(EidolonDb db, Productions productions, SubjectLibrary library, FollowUps followUps, LiveStage stage)
    : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int? Prop { get; set; }

    public IReadOnlyList<(Subject Subject, SubjectVersion Version, RigidBody Body)> Rows { get; private set; } = [];

    public (Subject Subject, SubjectVersion Version, RigidBody Body)? Chosen { get; private set; }

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

    /// <summary>Moves and turns the pivot within the prop's own frame; millimetres and degrees. The prop has a new version.</summary>
    public async Task<IActionResult> OnPostPivotAsync(
        int id,
        string x,
        string y,
        string z,
        string rx,
        string ry,
        string rz,
        string? tie,
        CancellationToken cancel
    )
    {
        Prop = id;
        await Load(cancel);
        if (Chosen is not { } chosen)
        {
            return NotFound();
        }

        var v = new[] { x, y, z, rx, ry, rz }
            .Select(t =>
                float.TryParse(t, NumberStyles.Float, CultureInfo.InvariantCulture, out var n) && MathF.Abs(n) < 10_000 ? n : float.NaN
            )
            .ToArray();
        if (v.Any(float.IsNaN))
        {
            Error = "The pivot wants numbers: millimetres, then degrees.";
            return Page();
        }

        var turn =
            Rotations.AboutAxis(1, v[4] * MathF.PI / 180)
            * Rotations.AboutAxis(0, v[3] * MathF.PI / 180)
            * Rotations.AboutAxis(2, v[5] * MathF.PI / 180);
        var moved = chosen.Body.WithPivot(new Vector3(v[0], v[1], v[2]) / 1000, turn);
        await library.Shape(id, moved, tie is "model" or "camera" ? tie : string.Empty, "pivot moved", cancel);
        followUps.LibraryChanged(id);
        stage.Track(stage.Performers, stage.Part);
        return RedirectToPage(new { prop = id });
    }

    private async Task Load(CancellationToken cancel)
    {
        Rows = [.. library.Props().Select(p => (p.Subject, SubjectLibrary.Current(db, p.Subject.Id).Version!, p.Body))];
        Chosen = Rows.Where(r => r.Subject.Id == Prop).Select(r => ((Subject, SubjectVersion, RigidBody)?)r).FirstOrDefault();
        var names = await db.Shelf.Where(s => s.Kind == SubjectKind.Prop).Select(s => s.Name).ToListAsync(cancel);
        FreeName = Enumerable.Range(1, 1000).Select(i => $"Prop {i}").First(n => !names.Contains(n));
    }

    /// <summary>Places of the markers picked, metres.</summary>
    public sealed record NewProp(string? Name, float[][]? Places);
}
