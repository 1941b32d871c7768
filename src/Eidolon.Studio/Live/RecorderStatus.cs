namespace Eidolon.Studio.Live;

/// <summary>What the page shows while it records.</summary>
public sealed record RecorderStatus(string State, double Seconds, int Frames, int Seen, double Rate, long Dropped, long Bad, double LatencyMilliseconds, int TakeId, string TakeName, double WriteMegabytesPerSecond);
