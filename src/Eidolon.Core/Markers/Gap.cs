namespace Eidolon.Core.Markers;

/// <summary>Frames in which a marker is not seen, both ends inclusive.</summary>
public readonly record struct Gap(int Start, int End)
{
    /// <summary>Frames it lasts.</summary>
    public int Length => End - Start + 1;
}
