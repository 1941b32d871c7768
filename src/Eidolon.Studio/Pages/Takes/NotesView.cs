using Eidolon.Storage.Model;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>The notes of a take as a list.</summary>
/// <param name="Rate">Frames a second.</param>
/// <param name="First">The frame of the recording that the take begins with now.</param>
/// <param name="Count">Frames it has now.</param>
/// <param name="Gone">A note that was taken away just now: it can be put back.</param>
/// <param name="Error">Why a note was not kept.</param>
/// <param name="Typed">What was typed then.</param>
public sealed record NotesView(
    IReadOnlyList<FrameNote> Notes,
    double Rate,
    int First,
    int Count,
    FrameNote? Gone = null,
    string Error = "",
    string Typed = ""
)
{
    /// <summary>The notes of a take as it is now.</summary>
    public static NotesView Of(IReadOnlyList<FrameNote> notes, Services.OpenTake open) =>
        new(notes, open.Take.FrameRate, open.Marked.FirstFrame, open.FrameCount);

    /// <summary>The frame of a note as the take counts them now; null where it was trimmed off.</summary>
    public int? FrameOf(FrameNote note) => note.Frame - First is var f && f >= 0 && f < Count ? f : null;

    /// <summary>When that is.</summary>
    public string TimeOf(int frame) => TimeSpan.FromSeconds(frame / Rate).ToString(@"m\:ss\.ff");
}
