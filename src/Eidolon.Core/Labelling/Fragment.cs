namespace Eidolon.Core.Labelling;

/// <summary>A run of frames in which one dot was followed without a break: the unit that gets a name.</summary>
/// <param name="Index">Place in the list of all fragments.</param>
/// <param name="Column">Of the take it comes from.</param>
/// <param name="Start">First frame.</param>
/// <param name="End">Last frame.</param>
/// <param name="Given">Subject and marker of the name it already carries; null for none.</param>
internal sealed record Fragment(int Index, int Column, int Start, int End, (int Subject, int Marker)? Given)
{
    public int Length => End - Start + 1;
}
