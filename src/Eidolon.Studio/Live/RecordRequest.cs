namespace Eidolon.Studio.Live;

/// <summary>A slate to record.</summary>
public sealed record RecordRequest(int DayId, string SetUp, int Number, string Performer, string Scene, string Note);
