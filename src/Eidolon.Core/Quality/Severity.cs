namespace Eidolon.Core.Quality;

/// <summary>How much a Finding matters; the worst comes first.</summary>
public enum Severity
{
    MustFix,
    Look,
    Note,
}
