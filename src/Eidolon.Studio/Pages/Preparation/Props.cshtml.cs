using System.Globalization;
using System.Numerics;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Live;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Pages.Preparation;

/// <summary>Props: made of markers picked on the live Stage, with a pivot of their own.</summary>
public sealed class PropsModel(EidolonDb db, LiveStage stage) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int? Prop { get; set; }

    public IReadOnlyList<(PropRow Row, RigidBody Body)> Rows { get; private set; } = [];

    public (PropRow Row, RigidBody Body)? Chosen { get; private set; }

    public string FreeName { get; private set; } = "Prop 1";

    public string Error { get; private set; } = string.Empty;

    public Task OnGetAsync(CancellationToken cancel) => Load(cancel);

    /// <summary>Makes a prop of live markers by their slots.</summary>
    public async Task<IActionResult> OnPostMakeAsync([FromBody] NewProp made, CancellationToken cancel)
    {
        var name = made.Name.Trim();
        if (name.Length is 0 or > 40 || name.Contains(':', StringComparison.Ordinal) || name.Contains(',', StringComparison.Ordinal))
        {
            return new JsonResult(new { error = "A name of 1 to 40 letters is wanted, without : and ," });
        }

        if (await db.Props.AnyAsync(p => p.Name == name, cancel))
        {
            return new JsonResult(new { error = $"there is a prop '{name}' already" });
        }

        try
        {
            var body = RigidBody.FromWorld(
                name,
                [
                    .. made.Places.Select(p =>
                        p.Length == 3 ? new Vector3(p[0], p[1], p[2]) : throw new ArgumentException("a marker has no place")
                    ),
                ]
            );
            var row = new PropRow
            {
                ProductionId = await db.Productions.Select(p => p.Id).FirstAsync(cancel),
                Name = name,
                Markers = RigidBodyJson.Write(body),
                Tie = string.Empty,
            };
            db.Props.Add(row);
            await db.SaveChangesAsync(cancel);
            stage.Track(stage.Performers, stage.Part);
            return new JsonResult(new { id = row.Id });
        }
        catch (ArgumentException e)
        {
            return new JsonResult(new { error = e.Message });
        }
    }

    /// <summary>Moves and turns the pivot within the prop's own frame; millimetres and degrees.</summary>
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
        var row = await db.Props.FirstOrDefaultAsync(p => p.Id == id, cancel);
        if (row is null)
        {
            return NotFound();
        }

        Prop = id;
        var v = new[] { x, y, z, rx, ry, rz }
            .Select(t =>
                float.TryParse(t, NumberStyles.Float, CultureInfo.InvariantCulture, out var n) && MathF.Abs(n) < 10_000 ? n : float.NaN
            )
            .ToArray();
        if (v.Any(float.IsNaN))
        {
            await Load(cancel);
            Error = "The pivot wants numbers: millimetres, then degrees.";
            return Page();
        }

        var turn =
            Rotations.AboutAxis(1, v[4] * MathF.PI / 180)
            * Rotations.AboutAxis(0, v[3] * MathF.PI / 180)
            * Rotations.AboutAxis(2, v[5] * MathF.PI / 180);
        row.Markers = RigidBodyJson.Write(RigidBodyJson.Read(row.Markers, row.Name).WithPivot(new Vector3(v[0], v[1], v[2]) / 1000, turn));
        row.Tie = tie is "model" or "camera" ? tie : string.Empty;
        await db.SaveChangesAsync(cancel);
        stage.Track(stage.Performers, stage.Part);
        return RedirectToPage(new { prop = id });
    }

    public async Task<IActionResult> OnPostDeleteAsync(int id, CancellationToken cancel)
    {
        await db.Props.Where(p => p.Id == id).ExecuteDeleteAsync(cancel);
        stage.Track(stage.Performers, stage.Part);
        return RedirectToPage();
    }

    private async Task Load(CancellationToken cancel)
    {
        Rows =
        [
            .. (await db.Props.AsNoTracking().OrderBy(p => p.Name).ToListAsync(cancel)).Select(r =>
                (r, RigidBodyJson.Read(r.Markers, r.Name))
            ),
        ];
        Chosen = Rows.Where(r => r.Row.Id == Prop).Select(r => ((PropRow, RigidBody)?)r).FirstOrDefault();
        FreeName = Enumerable.Range(1, 1000).Select(i => $"Prop {i}").First(n => Rows.All(r => r.Row.Name != n));
    }

    /// <summary>Places of the markers picked, metres.</summary>
    public sealed record NewProp(string Name, float[][] Places);
}
