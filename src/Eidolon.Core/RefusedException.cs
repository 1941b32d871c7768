namespace Eidolon.Core;

/// <summary>What a person asked for cannot be done; the message says why, in words for them.</summary>
public sealed class RefusedException : Exception
{
    /// <summary>A sentence for a person.</summary>
    public RefusedException(string message)
        : base(message) { }

    /// <summary>A sentence for a person, and what caused it.</summary>
    public RefusedException(string message, Exception inner)
        : base(message, inner) { }
}
