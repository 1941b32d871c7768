using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Cleaning;

/// <summary>A joint planted on the floor (or a step), frames inclusive.</summary>
public readonly record struct Contact(BodyRole Role, int Start, int End)
{
    /// <summary>Frames it lasts.</summary>
    public int Length => End - Start + 1;
}
