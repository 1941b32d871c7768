namespace Eidolon.Core.Video;

/// <summary>A point that a person put right in a picture.</summary>
/// <param name="Film">Which film, from 0.</param>
/// <param name="Frame">The film's own frame.</param>
/// <param name="U">To the right, pixels.</param>
/// <param name="V">Down, pixels.</param>
public readonly record struct FilmFix(int Film, int Frame, string Point, float U, float V);
