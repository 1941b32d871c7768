namespace Eidolon.Core.Quality;

/// <summary>How much a Finding matters; the worst comes first.</summary>
public enum Severity
{
    /// <summary>The take cannot be used so.</summary>
    MustFix,

    /// <summary>A person should look.</summary>
    Look,

    /// <summary>Good to know.</summary>
    Note,
}
