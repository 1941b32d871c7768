namespace Eidolon.Studio.Live;

/// <summary>A slate to record.</summary>
/// <param name="Performer">One name, or several separated by ", ".</param>
public sealed record RecordRequest(
    int DayId,
    string SetUp,
    int Number,
    string Performer,
    string Scene,
    string Note,
    string? Props = null,
    string? MarkerSet = null
);
