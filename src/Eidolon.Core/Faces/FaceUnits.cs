namespace Eidolon.Core.Faces;

/// <summary>What a face is told by: action units of the Facial Action Coding System, left and right apart where they can be, 0 to 1.</summary>
/// <remarks>Units after Ekman &amp; Friesen, "Facial Action Coding System", 1978.</remarks>
public static class FaceUnits
{
    private static readonly (int Unit, string Words)[] Both =
    [
        (1, "Inner brow up"),
        (2, "Outer brow up"),
        (4, "Brow down"),
        (5, "Eye wide"),
        (6, "Cheek up"),
        (7, "Eye narrows"),
        (9, "Nose wrinkles"),
        (10, "Upper lip up"),
        (11, "Fold deepens"),
        (12, "Mouth corner up"),
        (13, "Mouth corner in"),
        (14, "Dimple"),
        (15, "Mouth corner down"),
        (16, "Lower lip down"),
        (20, "Mouth stretches"),
        (43, "Eye shuts"),
    ];

    private static readonly (int Unit, string Words)[] Middle =
    [
        (17, "Chin up"),
        (18, "Lips pucker"),
        (22, "Lips funnel"),
        (23, "Lips tighten"),
        (24, "Lips press"),
        (25, "Lips part"),
        (26, "Jaw opens"),
        (27, "Mouth wide open"),
        (28, "Lips in"),
        (51, "Jaw left"),
        (52, "Jaw right"),
        (53, "Jaw ahead"),
        (54, "Jaw back"),
    ];

    private static readonly Dictionary<string, string> Words = Both.SelectMany(u =>
            new[] { ($"AU{u.Unit:00}L", u.Words), ($"AU{u.Unit:00}R", u.Words) }
        )
        .Concat(Middle.Select(u => ($"AU{u.Unit:00}", u.Words)))
        .ToDictionary(u => u.Item1, u => u.Item2, StringComparer.Ordinal);

    /// <summary>Numbers of the units that have a left and a right.</summary>
    public static IReadOnlyList<int> Sided { get; } = [.. Both.Select(u => u.Unit)];

    /// <summary>Names of all 45, in the order a tracker sends them.</summary>
    public static IReadOnlyList<string> Names { get; } = [.. Words.Keys];

    /// <summary>The jaw that opens, and both eyes that shut.</summary>
    public const string Jaw = "AU26",
        EyeL = "AU43L",
        EyeR = "AU43R";

    /// <summary>A unit in words; a weight of another name by its name.</summary>
    public static string Title(string name) => Words.GetValueOrDefault(name, name);

    /// <summary>'L', 'R' or 'C'.</summary>
    public static char Side(string name) => name.Length > 0 && name[^1] is 'L' or 'R' ? name[^1] : 'C';
}
