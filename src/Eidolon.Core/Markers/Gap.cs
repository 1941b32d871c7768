namespace Eidolon.Core.Markers;

/// <summary>Frames in which a marker is not seen, both ends inclusive.</summary>
public readonly record struct Gap(int Start, int End)
{
    /// <summary>Frames it lasts.</summary>
    public int Length => End - Start + 1;

    /// <summary>The marker is seen on both of its sides: neither end of the take lies in it.</summary>
    public bool HasTwoEnds(int frameCount) => Start > 0 && End < frameCount - 1;
}
