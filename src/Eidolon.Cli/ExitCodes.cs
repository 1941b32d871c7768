namespace Eidolon.Cli;

/// <summary>The contract's exit codes.</summary>
internal static class ExitCodes
{
    public const int Done = 0;
    public const int Usage = 2;
    public const int InvalidInput = 3;
    public const int StrictFailed = 4;
}
