namespace Eidolon.Storage.Model;

/// <summary>Where a take is in its recording.</summary>
public enum TakeState
{
    Recording,
    Kept,
}
