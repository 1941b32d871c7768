using System.Globalization;
using System.Net;
using Eidolon.Core;

namespace Eidolon.Studio;

/// <summary>
/// What the studio was started with: where it keeps its data and where it listens. Nothing else decides on that, no setting of the
/// surroundings.
/// </summary>
/// <param name="Listen">Address of this machine; loopback only, as long as nobody has to sign in.</param>
public sealed record StudioArguments(string Data, IPAddress Listen, int Port)
{
    /// <summary>Usual port.</summary>
    public const int UsualPort = 5240;

    /// <summary>The options, a line each, for a person who asks for them.</summary>
    /// <param name="folder">Where data are kept when nothing is said, below .eidolon in the present folder.</param>
    /// <returns>Null when they were not asked for.</returns>
    public static string? Help(IReadOnlyList<string> args, string folder) =>
        args.Any(a => a is "--help" or "-h" or "-?")
            ? $"""
                Usage: ./eidolon {(args[0].StartsWith('-') ? "serve" : args[0])} [options]
                  --port N           where it listens; {UsualPort} when left out, 0 for any free one
                  --data FOLDER      where the productions are kept; .eidolon/{folder} in the present folder when left out
                  --listen ADDRESS   127.0.0.1 or ::1: this machine alone, as long as there are no accounts
                """
            : null;

    /// <exception cref="RefusedException">An option is not known, or its value cannot be used.</exception>
    public static StudioArguments Read(IReadOnlyList<string> args, string folder)
    {
        var read = new StudioArguments(Path.Combine(Directory.GetCurrentDirectory(), ".eidolon", folder), IPAddress.Loopback, UsualPort);
        // The first word is the verb of the launcher.
        for (var i = args.Count > 0 && !args[0].StartsWith('-') ? 1 : 0; i < args.Count; i += 2)
        {
            var value = i + 1 < args.Count ? args[i + 1] : throw new RefusedException($"{args[i]} wants a value");
            read = args[i] switch
            {
                "--port" => read with { Port = PortOf(value) },
                "--data" => read with { Data = Path.GetFullPath(value) },
                "--listen" => read with { Listen = AddressOf(value) },
                _ => throw new RefusedException($"there is no option {args[i]}: --data FOLDER, --port N, --listen ADDRESS"),
            };
        }

        return read;
    }

    private static int PortOf(string value) =>
        int.TryParse(value, NumberStyles.None, CultureInfo.InvariantCulture, out var port) && port <= 65535
            ? port
            : throw new RefusedException($"--port {value}: a port is a number from 0 (any free one) to 65535");

    private static IPAddress AddressOf(string value)
    {
        var address =
            value == "localhost" ? IPAddress.Loopback
            : IPAddress.TryParse(value, out var a) ? a
            : throw new RefusedException($"--listen {value}: an address is wanted, such as 127.0.0.1 or ::1");
        return IPAddress.IsLoopback(address)
            ? address
            : throw new RefusedException(
                $"--listen {value}: only addresses of this machine alone (127.0.0.1, ::1) as long as there are no accounts: "
                    + "anybody on the network could use the studio"
            );
    }
}
