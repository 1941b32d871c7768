using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters;

/// <summary>Breaks joint names into words and reads the habits of naming out of them.</summary>
internal static class NameTokens
{
    /// <summary>Words that mark a joint as something beside the main chain.</summary>
    private static readonly HashSet<string> Aside =
    [
        "twist",
        "roll",
        "end",
        "nub",
        "tip",
        "ik",
        "pole",
        "helper",
        "socket",
        "weapon",
        "cape",
        "coat",
        "hair",
        "effector",
        "site",
        "target",
        "ctrl",
        "control",
    ];

    public static NameMeaning Read(string name)
    {
        var tokens = Split(name);
        char side = 'C';
        string? stem = null;
        var number = 0;
        bool twist = false,
            aside = false;
        for (var i = 0; i < tokens.Count; i++)
        {
            var t = tokens[i];
            if (JointWords.Side(t) is { } told)
            {
                side = told;
                continue;
            }

            if (int.TryParse(t, out var n))
            {
                number = n;
                continue;
            }

            twist |= t is "twist" or "roll";
            aside |= Aside.Contains(t);
            // "upper arm", "lower leg", "fore arm", "up leg" as two words.
            if (t is "upper" or "up" or "lower" or "low" or "lo" or "fore" && i + 1 < tokens.Count && tokens[i + 1] is "arm" or "leg")
            {
                stem =
                    (t[0] == 'u') ? (tokens[i + 1] == "arm" ? "UpperArm" : "Thigh")
                    : tokens[i + 1] == "arm" ? "Forearm"
                    : "Shin";
                i++;
                continue;
            }

            if (
                JointWords.Known.TryGetValue(t, out var s)
                && !(stem is "Thumb" or "Index" or "Middle" or "Ring" or "Little" || (stem is not null && s is "Root" or "Hand"))
            )
            {
                stem = s;
            }
            else if (stem == "Hand" && JointWords.Known.TryGetValue(t, out var finger))
            {
                stem = finger;
            }
            else if (stem is null && t.Length > 3 && t[0] is 'l' or 'r' && JointWords.Known.TryGetValue(t[1..], out var sided))
            {
                (stem, side) = (sided, t[0] == 'l' ? 'L' : 'R');
            }
        }

        return new NameMeaning(stem, side, number, twist, aside);
    }

    /// <summary>Lower-case words: at separators, at capitals, between letters and digits; a namespace before ':' is dropped.</summary>
    private static List<string> Split(string name)
    {
        name = JointWords.Plain(name[(name.LastIndexOf(':') + 1)..]);
        var tokens = new List<string>();
        var start = 0;
        void Cut(int end)
        {
            if (end > start)
            {
                tokens.Add(name[start..end].ToLowerInvariant());
            }
        }

        for (var i = 0; i < name.Length; i++)
        {
            if (!char.IsLetterOrDigit(name[i]))
            {
                Cut(i);
                start = i + 1;
            }
            else if (
                i > start
                && (
                    char.IsDigit(name[i]) != char.IsDigit(name[i - 1])
                    || (char.IsUpper(name[i]) && (char.IsLower(name[i - 1]) || (i + 1 < name.Length && char.IsLower(name[i + 1]))))
                )
            )
            {
                Cut(i);
                start = i;
            }
        }

        Cut(name.Length);
        return tokens;
    }

    public readonly record struct NameMeaning(string? Stem, char Side, int Number, bool Twist, bool Aside);
}
