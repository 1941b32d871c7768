namespace Eidolon.Core.Video;

/// <summary>Frames of a film, both ends inside, in which its tracker had left and right legs exchanged.</summary>
/// <param name="File">Index of the film.</param>
public readonly record struct ExchangedLegs(int File, int Start, int End);
