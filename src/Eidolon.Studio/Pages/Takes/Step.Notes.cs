using Eidolon.Core;
using Eidolon.Storage.Model;
using Microsoft.AspNetCore.Mvc;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>Notes at frames: what was adjusted there, and why.</summary>
public sealed partial class StepModel
{
    public IReadOnlyList<FrameNote> Jotted { get; private set; } = [];

    /// <summary>Writes a note down.</summary>
    /// <param name="frame">Of the recording, whatever was trimmed since.</param>
    public async Task<IActionResult> OnPostJotAsync(int frame, string? text, CancellationToken cancel)
    {
        try
        {
            await frameNotes.Keep(Id, frame, text, cancel);
            return await Notes(null, cancel);
        }
        catch (RefusedException e)
        {
            return await Notes(null, cancel, Sentence(e.Message), text ?? string.Empty);
        }
    }

    /// <summary>Takes a note away; the answer offers to put it back.</summary>
    public async Task<IActionResult> OnPostUnjotAsync(int note, CancellationToken cancel) =>
        await Notes(await frameNotes.Remove(Id, note, cancel), cancel);

    private async Task<IActionResult> Notes(FrameNote? gone, CancellationToken cancel, string error = "", string typed = "") =>
        await slates.NameOf(Id, cancel) is null
            ? NotFound()
            : Partial(
                "_Notes",
                NotesView.Of(await frameNotes.Of(Id, cancel), takes.Open(Id)) with
                {
                    Gone = gone,
                    Error = error,
                    Typed = typed,
                }
            );
}
