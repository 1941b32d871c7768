using System.Globalization;
using System.Text;
using Eidolon.Core;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Skeletons;
using Eidolon.Storage;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Pages.Takes;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Pages.Preparation;

/// <summary>Performers: bodies from height and build, measured from takes; every measurement is a version.</summary>
public sealed class PerformersModel(
    EidolonDb db,
    BoardService board,
    Productions productions,
    SubjectLibrary library,
    JobQueue jobs,
    JobCancels cancels
) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public int? Performer { get; set; }

    public IReadOnlyList<BoardService.Shelf> Rows { get; private set; } = [];

    public BoardService.Shelf? Chosen { get; private set; }

    /// <summary>Versions before the current one, the latest first.</summary>
    public IReadOnlyList<SubjectVersion> Older { get; private set; } = [];

    /// <summary>Takes of the performer that it can be measured from.</summary>
    public IReadOnlyList<Take> References { get; private set; } = [];

    /// <summary>Bone, left and right length in metres.</summary>
    public IReadOnlyList<(string Bone, double? Left, double? Right)> Bones { get; private set; } = [];

    public string Error { get; private set; } = string.Empty;

    public Task OnGetAsync(CancellationToken cancel) => Load(cancel);

    public async Task<IActionResult> OnPostAddAsync(string? name, string? height, string? arms, CancellationToken cancel)
    {
        var tall = float.TryParse(height, NumberStyles.Float, CultureInfo.InvariantCulture, out var h) ? h : float.NaN;
        var reach = float.TryParse(arms, NumberStyles.Float, CultureInfo.InvariantCulture, out var a) && a is > 0.8f and < 1.2f ? a : 1;
        try
        {
            if (!(tall is >= 0.9f and <= 2.4f))
            {
                throw new RefusedException("The height must be 0.9 to 2.4 m.");
            }

            var production = await productions.Own(cancel);
            var subject = await library.Add(production.Id, SubjectKind.Performer, name, cancel);
            await library.Guess(subject.Id, tall, reach, cancel);
            return RedirectToPage(new { performer = subject.Id });
        }
        catch (RefusedException e)
        {
            Error = e.Message;
            await Load(cancel);
            return Page();
        }
    }

    /// <summary>Measures a performer from a take, as a job.</summary>
    public async Task<IActionResult> OnPostMeasureAsync(int performer, int take, CancellationToken cancel)
    {
        var name = await db.Subjects.Where(s => s.Id == performer).Select(s => s.Name).FirstOrDefaultAsync(cancel);
        return name is null || !await db.Parts.AnyAsync(p => p.TakeId == take && p.SubjectId == performer, cancel)
            ? NotFound()
            : Partial("_Job", JobView.Of(await jobs.Measure(take, performer, $"Measure {name}", cancel), cancels));
    }

    public Task<IActionResult> OnGetJobAsync(int job, CancellationToken cancel) => JobFragment.Follow(this, db, cancels, job, cancel);

    public IActionResult OnPostStop(int job)
    {
        cancels.Stop(job);
        return new NoContentResult();
    }

    private async Task Load(CancellationToken cancel)
    {
        if (await productions.First(cancel) is not { } production)
        {
            return;
        }

        Rows = await board.Library(production.Id, SubjectKind.Performer, cancel);
        Chosen = Performer is { } id ? Rows.FirstOrDefault(r => r.Subject.Id == id) : Rows.FirstOrDefault();
        if (Chosen is not { } chosen)
        {
            return;
        }

        Older = await db
            .SubjectVersions.AsNoTracking()
            .Where(v => v.SubjectId == chosen.Subject.Id && v.Number != chosen.Subject.Version)
            .OrderByDescending(v => v.Number)
            .Select(v => new SubjectVersion
            {
                Number = v.Number,
                Content = v.Content,
                Why = v.Why,
                CreatedUtc = v.CreatedUtc,
            })
            .ToListAsync(cancel);
        References = await db
            .Takes.AsNoTracking()
            .Where(t => t.State == TakeState.Kept && t.Parts.Any(p => p.SubjectId == chosen.Subject.Id))
            .OrderByDescending(t => t.SetUp.Contains("rom"))
            .ThenBy(t => t.Name)
            .ToListAsync(cancel);
        if (SubjectLibrary.Current(db, chosen.Subject.Id).Version is { Measured: true } version)
        {
            Bones = Lengths(version, chosen.Subject.Name);
        }
    }

    private static IReadOnlyList<(string, double?, double?)> Lengths(SubjectVersion version, string name)
    {
        var lengths = PerformerJson.Read(Encoding.UTF8.GetBytes(version.Body), name).BoneLengths;
        return
        [
            .. lengths
                .Keys.Select(k => k[^1] is 'L' or 'R' ? k[..^1] : k)
                .Distinct()
                .Select(k =>
                    (
                        BodyRoles.BoneTo(k),
                        lengths.TryGetValue(k + "L", out var l) ? l
                        : lengths.TryGetValue(k, out var m) ? m
                        : (double?)null,
                        lengths.TryGetValue(k + "R", out var r) ? r : (double?)null
                    )
                ),
        ];
    }
}
