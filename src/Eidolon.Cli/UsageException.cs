namespace Eidolon.Cli;

/// <summary>The arguments do not make sense together: exit 2.</summary>
internal sealed class UsageException(string message) : Exception(message);
