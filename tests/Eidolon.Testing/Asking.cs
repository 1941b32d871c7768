using System.Text.RegularExpressions;
using Xunit;

namespace Eidolon.Testing;

/// <summary>What tests of a running studio do again and again.</summary>
public static partial class Asking
{
    /// <summary>How long anything may take: a machine with other work on it is slow, not broken.</summary>
    public const int PatienceSeconds = 300;

    /// <summary>The token that forms of the studio's pages carry.</summary>
    public static async Task<string> Antiforgery(this HttpClient http) =>
        Antiforgery().Match(await http.GetStringAsync("/keys")).Groups[1].Value;

    /// <summary>The token that live connections of the studio's pages carry.</summary>
    public static async Task<string> LiveToken(this HttpClient http) => Live().Match(await http.GetStringAsync("/keys")).Groups[1].Value;

    /// <summary>Waits until something holds, as long as patience lasts.</summary>
    public static async Task Until(Func<bool> condition)
    {
        for (var end = DateTime.UtcNow.AddSeconds(PatienceSeconds); DateTime.UtcNow < end; )
        {
            if (condition())
            {
                return;
            }

            await Task.Delay(50);
        }

        Assert.Fail("the condition was not met");
    }

    [GeneratedRegex("name=\"antiforgery\" content=\"([^\"]+)\"")]
    private static partial Regex Antiforgery();

    [GeneratedRegex("name=\"live\" content=\"([^\"]+)\"")]
    private static partial Regex Live();
}
