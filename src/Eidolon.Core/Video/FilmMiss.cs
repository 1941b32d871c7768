namespace Eidolon.Core.Video;

/// <summary>A point of a film that is far from where the body has it.</summary>
/// <param name="File">Index of the film.</param>
/// <param name="Frame">Of the film itself.</param>
public readonly record struct FilmMiss(int File, int Frame, string Point, double Pixels);
