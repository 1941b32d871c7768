using System.CommandLine;
using Eidolon.Core;

namespace Eidolon.Cli;

/// <summary>Parses, runs and turns every expected failure into one line and an exit code.</summary>
internal static class Runner
{
    public static int Run(RootCommand root, string[] args)
    {
        var parsed = root.Parse(args);
        if (parsed.Errors.Count > 0)
        {
            Console.Error.WriteLine($"eidolon: {parsed.Errors[0].Message}");
            return ExitCodes.Usage;
        }

        try
        {
            return parsed.Invoke(new InvocationConfiguration { EnableDefaultExceptionHandler = false });
        }
        catch (UsageException e)
        {
            Console.Error.WriteLine($"eidolon: {e.Message}");
            return ExitCodes.Usage;
        }
        catch (InvalidInputException e)
        {
            Console.Error.WriteLine($"eidolon: {e.Message}");
            return ExitCodes.InvalidInput;
        }
        catch (Exception e) when (e is ArgumentException or RefusedException)
        {
            // What cannot be done with these data is refused, and says why.
            Console.Error.WriteLine($"eidolon: {Input(args)}: content: {e.Message.ReplaceLineEndings(" ")}");
            return ExitCodes.InvalidInput;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            Console.Error.WriteLine($"eidolon: {e.Message.ReplaceLineEndings(" ")}");
            return ExitCodes.InvalidInput;
        }
    }

    private static string Input(string[] args) => args.Length > 1 ? args[1] : "input";
}
