namespace Eidolon.Studio.Live;

/// <summary>One recording from its slate to its last stored frame: what arrives later cannot touch any other take.</summary>
internal sealed class Recording(int takeId, string name, double rate, RecordingStreams streams, IReadOnlyDictionary<string, int> ids)
{
    public int TakeId => takeId;

    public string Name => name;

    public double Rate => rate;

    public RecordingStreams Streams => streams;

    public IReadOnlyDictionary<string, int> Ids => ids;

    public Dictionary<string, (long Received, long Lost)> Before { get; set; } = [];

    public RecordingState State { get; set; } = RecordingState.PreRoll;

    public double Since { get; } = StudioClock.Now;

    public int Kept { get; set; }

    public double BytesPerSecond { get; set; }

    /// <summary>Why it was ended by the studio; empty when a person did.</summary>
    public string Shortened { get; set; } = string.Empty;

    /// <summary>How often its present write has failed for a reason that does not pass.</summary>
    public int Failures { get; set; }

    public TaskCompletionSource<int> Done { get; } = new(TaskCreationOptions.RunContinuationsAsynchronously);

    public bool Open => State is RecordingState.PreRoll or RecordingState.Recording or RecordingState.Ending;
}
