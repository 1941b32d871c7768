using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Quality;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Storage.Samples;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>A take at one of its Steps, Label to Retarget. The page is thin: it opens the take, and every change is a Ledger entry.</summary>
public sealed partial class StepModel(
    TakeService takes,
    Slates slates,
    FrameNotes frameNotes,
    Services.Films witness,
    SceneService scenes,
    CastService casts,
    JobQueue queue,
    JobBook jobs,
    RecipeService recipes,
    LedgerService ledger,
    DamageRepair damage,
    StateNotes notes,
    SizeService sizes,
    RideImport rideImport,
    CastBatch batch
) : PageModel
{
    [BindProperty(SupportsGet = true, Name = "id")]
    public int Id { get; set; }

    [BindProperty(SupportsGet = true, Name = "step")]
    public string Step { get; set; } = "label";

    /// <summary>The revision the page showed when a change was asked for.</summary>
    [BindProperty(Name = "seen")]
    public int? Seen { get; set; }

    /// <summary>The cast that is worked on at Retarget.</summary>
    [BindProperty(SupportsGet = true, Name = "cast")]
    public int? CastId { get; set; }

    public OpenTake Open { get; private set; } = null!;

    public Take Take => Open.Take;

    public int Index => Math.Max(0, StepThread.Names.ToList().FindIndex(n => n.Equals(Step, StringComparison.OrdinalIgnoreCase)));

    public bool[] Through { get; private set; } = [];

    /// <summary>What is known of the present state; null while a long take is looked at.</summary>
    public StateNote? Note { get; private set; }

    /// <summary>The first entries of the marker node that the numbers are compared with; null for the take as it was recorded.</summary>
    public int? Head { get; private set; }

    /// <summary>The measures of the markers in that state.</summary>
    public MarkerQuality? Before { get; private set; }

    /// <summary>Wait until Findings are known.</summary>
    public bool Wait { get; private set; }

    public IReadOnlyList<Finding> Findings { get; private set; } = [];

    /// <summary>Names the labels were not sure of, as the last run said.</summary>
    public JsonArray? Doubts => Open.Last("label")?.Report?["frames"] as JsonArray;

    /// <summary>Findings that names are the cure of.</summary>
    public IEnumerable<Finding> NameFindings => Findings.Where(f => f.Kind is "swap" or "link drift" or "stillness");

    /// <summary>What the Step's own list holds for a person to look at; the knot in the thread shows it.</summary>
    public int ToLookAt => Step == "label" ? (Doubts?.Count ?? 0) + NameFindings.Count() : Findings.Count(f => f.Severity != Severity.Note);

    public MarkerSet Set { get; private set; } = new("none", [], []);

    /// <summary>Other takes of the day in which the performer of the chosen cast is solved.</summary>
    public IReadOnlyList<Take> Others { get; private set; } = [];

    public IReadOnlyList<(Subject Subject, SubjectVersion Version)> Characters { get; private set; } = [];

    /// <summary>Current versions of the take's subjects.</summary>
    public IReadOnlyDictionary<int, SubjectVersion> Versions { get; private set; } = new Dictionary<int, SubjectVersion>();

    public JobRow? Job { get; private set; }

    /// <summary>Damaged frames the take goes on without, in words; empty usually.</summary>
    public string LeftOut { get; private set; } = string.Empty;

    /// <summary>The cameras' pictures are kept: points can be made anew.</summary>
    public bool HasPictures { get; private set; }

    /// <summary>What rides along with the solves: hands and faces; empty at another Step.</summary>
    public IReadOnlyList<RideAlong> Rides { get; private set; } = [];

    /// <summary>The films that are shown beside the Stage; null where there are none, or at another Step.</summary>
    public FilmView? Films => _films ??= Step == "solve" && Open.Filmed is { } role ? FilmView.Of(role) : null;

    private FilmView? _films;

    /// <summary>The film that was put beside the take; null where there is none.</summary>
    public WitnessVideo? Witness { get; private set; }

    /// <summary>The films of a performer who has some.</summary>
    public FilmView FilmsOf(OpenTake.Role role) => Films?.Role == role ? Films : FilmView.Of(role)!;

    /// <summary>A solved performer's bones, against another body's.</summary>
    public SizeService.Sizes SizesOf(OpenTake.Role role, int against) => sizes.Of(Open, role, against);

    /// <summary>Who a performer's bones can be held against.</summary>
    public IReadOnlyList<SizeService.Body> Bodies(OpenTake.Role role) => sizes.Bodies(Take.ProductionId, role.Subject.Id);

    /// <summary>The bones of a solve against those of a performer or a character.</summary>
    public IActionResult OnGetSizes(int node, int against)
    {
        try
        {
            Open = takes.Open(Id);
            return Open.Solved.FirstOrDefault(r => r.Node.Id == node) is { } role
                ? Partial("_Sizes", sizes.Of(Open, role, against))
                : NotFound();
        }
        catch (RefusedException e)
        {
            return BadRequest(Sentence(e.Message));
        }
    }

    /// <summary>Names of who performed, for people.</summary>
    public string Who => Take.PerformerNames.Length > 0 ? Take.PerformerNames : "nobody yet";

    /// <summary>The cast that is worked on: the one that was chosen, else the first.</summary>
    public OpenTake.Role? Cast => Open.Casts.FirstOrDefault(c => c.Node.Id == CastId) ?? Open.Casts.FirstOrDefault();

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        if (!StepThread.Names.Any(n => n.Equals(Step, StringComparison.OrdinalIgnoreCase)))
        {
            return NotFound();
        }

        if (Step.Equals("record", StringComparison.OrdinalIgnoreCase))
        {
            return Redirect($"/record?From={Id}");
        }

        try
        {
            if (Index >= 5)
            {
                return Redirect($"/scenes/{(await scenes.OfTake(Id, cancel)).Id}/{Step.ToLowerInvariant()}{Request.QueryString}");
            }

            Job = await jobs.OpenOf(Owner, cancel);
            Open = takes.Open(Id);
        }
        catch (RefusedException)
        {
            return NotFound();
        }

        await Look(cancel);
        var streams = await slates.Telling(Id, cancel);
        HasPictures = streams.Any(s => s.Kind == StreamKind.Centroids);
        Rides = Step == "solve" ? RideAlong.Of(Open, Set, streams) : [];
        LeftOut = string.Join(
            "; ",
            streams.Where(s => s.LeftOut.Length > 0).Select(s => $"{FrameSpans.Words(FrameSpans.Read(s.LeftOut))} of '{s.Name}'")
        );
        return Page();
    }

    /// <summary>What is known of the state and of the one it is compared with.</summary>
    private async Task Look(CancellationToken cancel)
    {
        (Set, Through) = (StateNotes.SetOf(Open), StepThread.Through(Take));
        Note = Wait ? notes.Of(Open) : notes.Ready(Open);
        Ignored = await slates.Ignored(Id, cancel);
        LedgerVersions = await slates.Versions(Id, cancel);
        Findings = Note is null ? [] : TakeService.Regarded(Note.Findings(Step), Ignored);
        Witness = await witness.Of(Id, cancel);
        Characters = casts.Characters(Take.ProductionId);
        Jotted = Step == "retarget" ? await frameNotes.Of(Id, cancel) : [];
        Others = Step == "retarget" && Cast is { } cast ? await batch.Others(Id, cast.Subject.Id, cancel) : [];
        Versions = await slates.Current([.. Take.Parts.Select(p => p.SubjectId)], cancel);
        Compare(cancel);
    }

    private void Compare(CancellationToken cancel)
    {
        var entries = Open.Markers.Node.Entries;
        if (Step != "clean" || Note is null || entries.Count == 0)
        {
            return;
        }

        // Numbers of nameless dots say nothing: without a choice the labels are what cleaning is measured against.
        Head ??= entries.ToList().FindLastIndex(e => e.On && e.Operation == "label") + 1;
        if (takes.MarkersAt(Open, Head.Value, cancel) is ({ } before, var content))
        {
            Before = notes.Quality(content, before.Take, Set);
        }
    }

    /// <summary>A table of gloves or of a face that was recorded beside the take.</summary>
    public async Task<IActionResult> OnPostRecordedAsync(IFormFile? file, int performer, CancellationToken cancel)
    {
        try
        {
            if (file is null || file.Length == 0)
            {
                throw new RefusedException("choose a table of gloves or of a face (.csv)");
            }

            using var bytes = new MemoryStream();
            await file.CopyToAsync(bytes, cancel);
            var (operation, recording) = await rideImport.Put(Id, performer, bytes.ToArray(), Path.GetFileName(file.FileName), cancel);
            await Use(performer, operation, recording, cancel);
        }
        catch (Exception e) when (e is RefusedException or InvalidInputException)
        {
            TempData["error"] = Sentence(e.Message);
        }

        return RedirectToPage(new { id = Id, step = Step });
    }

    /// <summary>Where a recording of that kind is used already, the new one takes its place: an entry says so, and can be undone.</summary>
    private async Task Use(int performer, Operation operation, int recording, CancellationToken cancel)
    {
        var open = takes.Open(Id);
        var role = open.Performers.FirstOrDefault(p => p.Subject.Id == performer);
        var before = role?.State.Node.Entries.LastOrDefault(e => e.On && e.Operation == operation.Name)?.Parameters;
        if (before is null || (operation.Name == HandOperations.Fingers.Name && (string?)before["from"] != "gloves"))
        {
            return;
        }

        var parameters = (JsonObject)before.DeepClone();
        parameters[HandOperations.Recording] = recording;
        // What was said of the moment was said of the other recording.
        parameters.Remove("offset");
        parameters.Remove("open");
        parameters.Remove("fist");
        await ledger.Add(Owner, open.Take.Name, operation.Name, parameters, role!.Node.Id, null, cancel);
    }

    /// <summary>Removes an imported table that nothing uses.</summary>
    public async Task<IActionResult> OnPostRemoveRecordingAsync(int stream, CancellationToken cancel)
    {
        try
        {
            await rideImport.Remove(Id, stream, cancel);
        }
        catch (RefusedException e)
        {
            TempData["error"] = Sentence(e.Message);
        }

        return RedirectToPage(new { id = Id, step = Step });
    }

    public async Task<IActionResult> OnPostCircleAsync(CancellationToken cancel)
    {
        await slates.Circle(Id, cancel);
        return RedirectToPage(new { id = Id, step = Step });
    }

    /// <summary>A performer of the take plays a character from now on.</summary>
    public async Task<IActionResult> OnPostPlayAsync(int performer, int character, CancellationToken cancel)
    {
        try
        {
            var node = await casts.Play(Id, performer, character, cancel);
            var name = await slates.NameOf(Id, cancel) ?? throw new RefusedException("there is no such take");
            await ledger.Add(LedgerOwner.Take(Id), name, "retarget", CastProposal.For(takes.Open(Id), performer), node.Id, Seen, cancel);
            return RedirectToPage(
                new
                {
                    id = Id,
                    step = "retarget",
                    cast = node.Id,
                }
            );
        }
        catch (RefusedException e)
        {
            TempData["error"] = Sentence(e.Message);
            return RedirectToPage(new { id = Id, step = "retarget" });
        }
    }

    /// <summary>The cast that is worked on, with its set-up, in the other takes of the day.</summary>
    public async Task<IActionResult> OnPostBatchAsync(int node, CancellationToken cancel)
    {
        try
        {
            var given = await batch.Give(Id, node, cancel);
            TempData["batch"] = $"{given} take{(given == 1 ? "" : "s")} wait in the queue; the Board shows how they come along.";
        }
        catch (RefusedException e)
        {
            TempData["error"] = Sentence(e.Message);
        }

        return RedirectToPage(
            new
            {
                id = Id,
                step = "retarget",
                cast = node,
            }
        );
    }

    /// <summary>A performer does not play a character any more.</summary>
    public async Task<IActionResult> OnPostUnplayAsync(int node, CancellationToken cancel)
    {
        try
        {
            await casts.Stop(Id, node, cancel);
            takes.Refresh(Id);
        }
        catch (RefusedException e)
        {
            TempData["error"] = Sentence(e.Message);
        }

        return RedirectToPage(new { id = Id, step = "retarget" });
    }

    /// <summary>Names of the set for each performer, and the column of each in the take, −1 where it is not there.</summary>
    public IEnumerable<(string Name, string Side, int Column)> MarkerNames() =>
        Prefixes()
            .SelectMany(p =>
                Set.Markers.Select(m =>
                {
                    var name = Core.Markers.MarkerNames.Join(p, m.Name);
                    return (name, m.Name[^1] is 'L' or 'R' ? m.Name[^1].ToString() : "C", Open.Marked.IndexOf(name));
                })
            );

    /// <summary>Performers that are measured, with what stands before their markers' names.</summary>
    public IReadOnlyList<Core.Solving.TakePerformer> Known()
    {
        try
        {
            return Open.Resources.Performers();
        }
        catch (Exception e) when (LedgerRunner.IsReason(e))
        {
            return [];
        }
    }

    private IEnumerable<string?> Prefixes() =>
        Take.Performers.Any() ? Take.Performers.Select(p => p.Prefix.Length == 0 ? null : p.Prefix) : [null];
}
