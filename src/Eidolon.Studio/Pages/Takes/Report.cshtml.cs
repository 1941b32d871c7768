using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Operations;
using Eidolon.Core.Quality;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.Storage.Library;
using Eidolon.Studio.Lanes;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>What was made of a take on its characters, to print: how each was set up, what was measured, what is left to look at, pictures.</summary>
public sealed class ReportModel(TakeService takes, StateNotes notes, Slates slates, FrameNotes frameNotes, SubjectLibrary library)
    : PageModel
{
    [BindProperty(SupportsGet = true, Name = "id")]
    public int Id { get; set; }

    public OpenTake Open { get; private set; } = null!;

    public IReadOnlyList<Sheet> Sheets { get; private set; } = [];

    /// <summary>What was written down, in order of time.</summary>
    public NotesView Jotted { get; private set; } = null!;

    /// <summary>One cast on paper.</summary>
    /// <param name="Asked">How the retarget was set up.</param>
    /// <param name="Result">The retarget's report.</param>
    /// <param name="Freed">The report of pushing out, where it was done after it.</param>
    /// <param name="Drift">How far each held part is from where it is to be, a frame each, metres are millimetres here.</param>
    /// <param name="Postures">The performer above, the character below.</param>
    public sealed record Sheet(
        OpenTake.Role Cast,
        int Version,
        JsonObject Asked,
        RetargetSetup Setup,
        JsonObject Result,
        JsonObject? Freed,
        IReadOnlyDictionary<BodyRole, float[]> Drift,
        IReadOnlyList<Finding> Findings,
        IReadOnlyList<Finding> Ignored,
        string Postures
    )
    {
        /// <summary>Findings of clipping, by parts.</summary>
        public JsonArray Clipping => Cast.State.Latest("clipping") as JsonArray ?? [];

        public double WorstSlide =>
            (Result["contacts"] as JsonArray ?? []).Select(c => (double)c!["slideMillimetres"]!).DefaultIfEmpty(0).Max();

        /// <summary>Parts that were held, each with its worst drift while it was held in full and how much of the take that is.</summary>
        public IEnumerable<(BodyRole Role, int Frames, float Worst)> Held =>
            Drift
                .Select(d => (d.Key, Full: d.Value.Where((_, f) => Setup.Hold(d.Key).At(f).Place >= 1).ToList()))
                .Where(d => d.Full.Count > 0)
                .Select(d => (d.Key, d.Full.Count, d.Full.Max()));

        /// <summary>A part as a person calls it.</summary>
        public static string Part(BodyRole role) =>
            BodyRoles.Side(role) switch
            {
                'L' => "Left " + HoldParts.Name(role).ToLowerInvariant(),
                'R' => "Right " + HoldParts.Name(role).ToLowerInvariant(),
                _ => HoldParts.Name(role),
            };
    }

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        try
        {
            Open = takes.Open(Id);
        }
        catch (RefusedException)
        {
            return NotFound();
        }

        var ignored = await slates.Ignored(Id, cancel);
        Jotted = NotesView.Of(await frameNotes.Of(Id, cancel), Open);
        var note = notes.Of(Open);
        Sheets = [.. Open.Played.Select(cast => SheetOf(cast, note, ignored)).OfType<Sheet>()];
        return Page();
    }

    private Sheet? SheetOf(OpenTake.Role cast, StateNote note, IReadOnlyList<Storage.Model.IgnoredFinding> ignored)
    {
        if (
            cast.State.Last(RetargetOperation.Retarget.Name)?.Report is not JsonObject result
            || Open.Performers.FirstOrDefault(p => p.Subject.Id == cast.Subject.Id)?.Motion is not { } source
        )
        {
            return null;
        }

        var asked = cast.State.Node.Entries.Last(e => e.Operation == RetargetOperation.Retarget.Name).Parameters;
        var setup = RetargetOperation.SetupFrom(asked);
        var own = note.Findings("retarget")
            .Where(f => f.Subject.Contains(cast.Name, StringComparison.Ordinal) || Open.Played.Count() == 1)
            .ToList();
        var regarded = TakeService.Regarded(own, ignored);
        return new Sheet(
            cast,
            library.Prepare(cast.Node.TargetId)?.Version.Number ?? 0,
            asked,
            setup,
            result,
            cast.State.Last(RetargetOperation.PushOut.Name)?.Report as JsonObject,
            HoldDrift.Of(source, cast.Motion!, setup, (float)((double?)result["groundMetres"] ?? 0)),
            regarded,
            [.. own.Except(regarded)],
            Postures.Svg([new(source)]) + Postures.Svg([new(cast.Motion!, library.Sketch(cast.Node.TargetId))])
        );
    }
}
