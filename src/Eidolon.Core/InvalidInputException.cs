namespace Eidolon.Core;

/// <summary>An input that cannot be read or is not valid: says which file, the place in it, and why.</summary>
public sealed class InvalidInputException : Exception
{
    /// <summary>Says which file, where in it, and why.</summary>
    public InvalidInputException(string file, string place, string reason, Exception? inner = null)
        : base($"{file}: {place}: {reason}".ReplaceLineEndings(" "), inner)
    {
        File = file;
        Place = place;
        Reason = reason;
    }

    /// <summary>The name of the file as the person gave it.</summary>
    public string File { get; }

    /// <summary>Line, byte or path inside the file.</summary>
    public string Place { get; }

    /// <summary>What is wrong, in words that say what to do.</summary>
    public string Reason { get; }
}
