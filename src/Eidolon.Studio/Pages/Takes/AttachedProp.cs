using System.Text.Json.Nodes;
using Eidolon.Core.Operations;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;

namespace Eidolon.Studio.Pages.Takes;

/// <summary>A prop at Retarget: where it was recorded, or by whose hands it goes.</summary>
/// <param name="Found">It is known where it was.</param>
/// <param name="Node">Where the entry is; null while it goes as it was recorded.</param>
/// <param name="Entry">The row of that entry; 0 without one.</param>
/// <param name="Parameters">Of the entry.</param>
/// <param name="Drift">What its report says of each hand.</param>
/// <param name="Refused">Why it cannot run.</param>
/// <param name="Casts">Whose hands there are.</param>
/// <param name="Chosen">The cast that is worked on.</param>
public sealed record AttachedProp(
    Subject Prop,
    bool Found,
    string Says,
    NodeRow? Node,
    int Entry,
    JsonObject Parameters,
    JsonArray Drift,
    string? Refused,
    IReadOnlyList<OpenTake.Role> Casts,
    int? Chosen
)
{
    /// <summary>Unfolded where somebody has it.</summary>
    public bool Open => Node is not null;

    /// <summary>A character has both hands on it.</summary>
    public bool BothHands => Refused is null && Node is not null && AttachOperation.BothOf([AttachOperation.HandsOf(Parameters)]).Count > 0;

    public static AttachedProp Of(OpenTake open, OpenTake.Role prop, OpenTake.Role? chosen)
    {
        var attached = open.Attached.FirstOrDefault(c => c.Subject.Id == prop.Subject.Id);
        var row = attached?.Node.Entries.FirstOrDefault(e => e.Operation == AttachOperation.Attach.Name);
        var report = attached?.State.Last(AttachOperation.Attach.Name);
        var says =
            prop.Places is null ? "not found yet"
            : row is null ? $"seen {100.0 * prop.Places.SeenFrames / Math.Max(1, prop.Places.FrameCount):0} %"
            : attached!.State.OutOfDate ? "out of date"
            : report?.Summary ?? "attached";
        return new AttachedProp(
            prop.Subject,
            prop.Places is not null,
            says,
            row is null ? null : attached!.Node,
            row?.Id ?? 0,
            row?.ToEntry().Parameters ?? [],
            report?.Report["hands"]?.DeepClone() as JsonArray ?? [],
            attached is { State.Refused: true } ? attached.State.Reason : null,
            [.. open.Casts.Where(c => c.Motion is not null)],
            chosen?.Node.Id
        );
    }
}
