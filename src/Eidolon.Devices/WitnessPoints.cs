namespace Eidolon.Devices;

/// <summary>The points a witness camera's body tracker sends: 25 of the body and 21 of each hand, then strokes that draw the picture it saw.</summary>
public static class WitnessPoints
{
    public const int BodyCount = 25;
    public const int HandCount = 21;
    public const int Count = BodyCount + (2 * HandCount);

    /// <summary>Frames a second of a witness camera.</summary>
    public const double Rate = 30;

    /// <summary>Strokes of a picture: x, y, x, y, width; pixels.</summary>
    public const int Strokes = 44;
    public const int StrokeValues = 5;

    /// <summary>Values a frame: x, y, confidence of every point, then the strokes, the farthest first.</summary>
    public const int Values = (Count * 3) + (Strokes * StrokeValues);

    /// <summary>Names in the order they are sent.</summary>
    public static IReadOnlyList<string> Names { get; } =
    [
        "Crown",
        "Nose",
        "EarL",
        "EarR",
        "Neck",
        "Chest",
        "Pelvis",
        "ShoulderL",
        "ShoulderR",
        "ElbowL",
        "ElbowR",
        "WristL",
        "WristR",
        "KnuckleL",
        "KnuckleR",
        "HipL",
        "HipR",
        "KneeL",
        "KneeR",
        "AnkleL",
        "AnkleR",
        "HeelL",
        "HeelR",
        "ToeL",
        "ToeR",
        .. Hand("L"),
        .. Hand("R"),
    ];

    /// <summary>Names of the columns of a table of them.</summary>
    public static IReadOnlyList<string> Columns { get; } = [.. Names.SelectMany(n => new[] { $"{n}.u", $"{n}.v", $"{n}.confidence" })];

    private static IEnumerable<string> Hand(string side) =>
        Enumerable.Range(0, HandCount).Select(i => i == 0 ? $"Palm{side}" : $"{(Finger)((i - 1) / 4)}{side}{((i - 1) % 4) + 1}");

    private enum Finger
    {
        Thumb,
        Index,
        Middle,
        Ring,
        Little,
    }
}
