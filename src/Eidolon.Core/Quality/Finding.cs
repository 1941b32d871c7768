namespace Eidolon.Core.Quality;

/// <summary>A measured problem. Frames inclusive, counted from 0.</summary>
public sealed record Finding(string Kind, int Start, int End, Severity Severity, string Subject, string Message, double Measure)
{
    /// <summary>The other one of two, for findings about a pair.</summary>
    public string Other { get; init; } = string.Empty;
}
