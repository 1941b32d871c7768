namespace Eidolon.Devices;

/// <summary>What a face tracker sends: a weight for each action unit of the Facial Action Coding System, left and right apart.</summary>
/// <remarks>Units after Ekman &amp; Friesen, "Facial Action Coding System", 1978.</remarks>
public static class FaceWeights
{
    /// <summary>Frames a second.</summary>
    public const double Rate = 60;

    /// <summary>Units that have a left and a right.</summary>
    public static IReadOnlyList<int> Sided { get; } = [1, 2, 4, 5, 6, 7, 9, 10, 11, 12, 13, 14, 15, 16, 20, 43];

    private static readonly int[] Middle = [17, 18, 22, 23, 24, 25, 26, 27, 28, 51, 52, 53, 54];

    /// <summary>Names in the order they are sent.</summary>
    public static IReadOnlyList<string> Names { get; } =
    [.. Sided.SelectMany(u => new[] { $"AU{u:00}L", $"AU{u:00}R" }), .. Middle.Select(u => $"AU{u:00}")];
}
