namespace Eidolon.Studio.Live;

/// <summary>A slate to record.</summary>
/// <param name="Performers">Ids, in the order of the slate.</param>
/// <param name="Props">Ids.</param>
/// <param name="MarkerSet">Id; null for the production's own.</param>
public sealed record RecordRequest(
    int DayId,
    string SetUp,
    int Number,
    int[] Performers,
    string Note,
    int[]? Props = null,
    int? MarkerSet = null
);
