namespace Eidolon.Studio.Live;

/// <summary>How far a recording has come.</summary>
internal enum RecordingState
{
    PreRoll,
    Recording,
    Ending,
    Kept,
    Nothing,
}
