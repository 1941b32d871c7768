using Eidolon.Storage.Model;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>The notes of a take as a list.</summary>
/// <param name="Rate">Frames a second.</param>
/// <param name="Gone">A note that was taken away just now: it can be put back.</param>
/// <param name="Error">Why a note was not kept.</param>
/// <param name="Typed">What was typed then.</param>
public sealed record NotesView(IReadOnlyList<FrameNote> Notes, double Rate, FrameNote? Gone = null, string Error = "", string Typed = "");
