using System.Globalization;
using Eidolon.Core.Characters;
using Eidolon.Core.Skeletons;

namespace Eidolon.Studio.Pages.Library;

/// <summary>Words for roles and remedies as the page of a character says them.</summary>
internal static class Words
{
    /// <summary>A role without its side: "UpperArm", "Twist" for both twist joints.</summary>
    public static string Of(BodyRole role) =>
        BodyRoles.Stem(role) is var s && s.EndsWith("Twist", StringComparison.Ordinal) ? "Twist" : BodyRoles.Stem(role);

    /// <summary>A role in a sentence: "left upper arm".</summary>
    public static string Said(BodyRole role)
    {
        var stem = string.Concat(
            BodyRoles.Stem(role).Select((c, i) => i > 0 && char.IsUpper(c) ? $" {char.ToLowerInvariant(c)}" : $"{char.ToLowerInvariant(c)}")
        );
        return BodyRoles.Side(role) switch
        {
            'L' => "left " + stem,
            'R' => "right " + stem,
            _ => stem,
        };
    }

    /// <summary>What a button of a remedy says.</summary>
    public static string Do(RestRemedy remedy) =>
        remedy switch
        {
            RestRemedy.TurnToFace => "Turn to face",
            RestRemedy.ArmL or RestRemedy.ArmR => "Straighten it",
            RestRemedy.Legs => "Straighten legs",
            RestRemedy.Collarbones => "Level both",
            RestRemedy.Alike => "Make alike",
            RestRemedy.Floor => "Put on the floor",
            _ => remedy.ToString(),
        };

    /// <summary>A length for people.</summary>
    public static string Metres(double metres) => metres.ToString("0.00", CultureInfo.InvariantCulture) + " m";
}
