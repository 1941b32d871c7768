using System.ComponentModel.DataAnnotations;
using System.Text;
using Eidolon.Core;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Skeletons;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Pages.Takes;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Eidolon.Studio.Pages.Preparation;

/// <summary>Performers: bodies from height and build, measured from takes; every measurement is a version.</summary>
public sealed class PerformersModel(
    BoardService board,
    ShelfService shelf,
    Productions productions,
    SubjectLibrary library,
    JobQueue queue,
    JobBook jobs
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

    /// <summary>What a person typed into a field of a form that was refused: it stays there to be put right.</summary>
    public string Typed(string field, string otherwise) =>
        Error.Length > 0 && ModelState.TryGetValue(field, out var entry) ? entry.AttemptedValue ?? otherwise : otherwise;

    public Task OnGetAsync(CancellationToken cancel) => Load(cancel);

    /// <summary>A performer that nobody has measured yet.</summary>
    public sealed record Wish
    {
        private const string WrongHeight = "The height must be 0.9 to 2.4 m.";

        public string? Name { get; init; }

        /// <summary>Metres.</summary>
        [Required(ErrorMessage = WrongHeight), Range(0.9, 2.4, ErrorMessage = WrongHeight)]
        public float? Height { get; init; }

        /// <summary>Length of the arms against what is usual for the height.</summary>
        [Range(0.8, 1.2, ErrorMessage = "Arms are 0.8 to 1.2 times as long as usual.")]
        public float? Arms { get; init; }
    }

    public async Task<IActionResult> OnPostAddAsync([FromForm] Wish asked, CancellationToken cancel)
    {
        try
        {
            if (ModelState.Complaint() is { } complaint)
            {
                throw new RefusedException(complaint);
            }

            var production = await productions.Own(cancel);
            var subject = await library.Add(production.Id, SubjectKind.Performer, asked.Name, cancel);
            await library.Guess(subject.Id, asked.Height!.Value, asked.Arms ?? 1, cancel);
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
    public async Task<IActionResult> OnPostMeasureAsync(int performer, int take, CancellationToken cancel) =>
        await shelf.OnTake(performer, take, cancel) is { } name
            ? Partial("_Job", JobView.Of(await queue.Measure(take, performer, $"Measure {name}", cancel), jobs))
            : NotFound();

    public Task<IActionResult> OnGetJobAsync(int job, CancellationToken cancel) => JobFragment.Follow(this, jobs, job, cancel);

    public IActionResult OnPostStop(int job)
    {
        jobs.Stop(job);
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

        Older = await shelf.Older(chosen.Subject, cancel);
        References = await shelf.References(chosen.Subject.Id, cancel);
        if (shelf.Current(chosen.Subject.Id) is { Measured: true } version)
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
