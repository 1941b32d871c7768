using System.Globalization;

namespace Eidolon.Core.Characters;

/// <summary>One thing about a rest pose that keeps motions from coming over as they are.</summary>
/// <param name="Joint">The character's own joint; empty where it is about the whole.</param>
/// <param name="What">In words, with its figure.</param>
/// <param name="Degrees">By how much it is turned; null where it is no turn.</param>
/// <param name="Centimetres">By how much it is long or tall; null where it is no length.</param>
public sealed record RestReason(string Joint, string What, double? Degrees = null, double? Centimetres = null)
{
    /// <summary>What puts it right; null where only another file does, or the size.</summary>
    public RestRemedy? Remedy { get; init; }

    /// <summary>The words.</summary>
    public override string ToString() => What;

    internal static RestReason Turned(string joint, double degrees, Func<string, string> words, RestRemedy remedy) =>
        new(joint, words(degrees.ToString("0", CultureInfo.InvariantCulture) + "°"), Degrees: degrees) { Remedy = remedy };
}
