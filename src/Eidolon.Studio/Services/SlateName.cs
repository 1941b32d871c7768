using System.Text.RegularExpressions;
using Eidolon.Core;

namespace Eidolon.Studio.Services;

/// <summary>What a set-up on the slate may be called, whether it is recorded or imported: it is part of files' names.</summary>
public static partial class SlateName
{
    /// <summary>Letters of a name, two at least.</summary>
    private const int Longest = 61;

    /// <exception cref="RefusedException">It cannot be one; says what can.</exception>
    public static void Check(string name)
    {
        if (!Good().IsMatch(name))
        {
            throw new RefusedException($"'{name}' cannot be a set-up's name: letters, digits, - and _ only. Try HL_009_lamp-walk.");
        }
    }

    /// <summary>The name a file's take gets: its own where that can be one, else as near to it as can be.</summary>
    public static string Of(string file)
    {
        var name = Odd().Replace(Path.GetFileNameWithoutExtension(file), "-").Trim('-', '_');
        name = name.Length > Longest ? name[..Longest] : name;
        return Good().IsMatch(name) ? name : "imported";
    }

    [GeneratedRegex("^[A-Za-z0-9][A-Za-z0-9_-]{1,60}$")]
    private static partial Regex Good();

    [GeneratedRegex("[^A-Za-z0-9_-]+")]
    private static partial Regex Odd();
}
