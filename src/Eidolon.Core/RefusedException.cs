namespace Eidolon.Core;

/// <summary>What a person asked for cannot be done; the message says why, in words for them.</summary>
public sealed class RefusedException : Exception
{
    public RefusedException(string message)
        : base(message) { }

    public RefusedException(string message, Exception inner)
        : base(message, inner) { }
}
