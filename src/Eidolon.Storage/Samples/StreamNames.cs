using System.Globalization;

namespace Eidolon.Storage.Samples;

/// <summary>What streams are called within a take. Devices name their own.</summary>
public static class StreamNames
{
    /// <summary>2D of the camera ring.</summary>
    public const string Ring = "ring";

    /// <summary>The points or markers of the take.</summary>
    public const string Markers = "markers";

    /// <summary>A performer's motion that was brought in.</summary>
    public static string Motion(int subject) => $"motion-{subject}";

    /// <summary>The suit that a performer wore.</summary>
    public static string Suit(int subject) => $"suit-{subject}";

    /// <summary>The gloves that a performer wore.</summary>
    /// <param name="recording">From 1: what is imported beside a recording is one of its own.</param>
    public static string Gloves(int subject, int recording = 1) => Numbered($"gloves-{subject}", recording);

    /// <summary>A performer's face.</summary>
    /// <inheritdoc cref="Gloves"/>
    public static string Face(int subject, int recording = 1) => Numbered($"face-{subject}", recording);

    /// <summary>Which of several recordings a stream of gloves or of a face is, from 1.</summary>
    public static int RecordingOf(string stream) =>
        stream.Split('-') is [_, _, var number] && int.TryParse(number, CultureInfo.InvariantCulture, out var n) ? n : 1;

    private static string Numbered(string name, int recording) => recording == 1 ? name : $"{name}-{recording}";

    /// <summary>A film of a performer, counted from 1.</summary>
    public static string Film(int subject, int number) => $"film-{subject}-{number}";

    /// <summary>The picture of such a film.</summary>
    public static string Picture(int subject, int number) => Film(subject, number) + "-picture";

    /// <summary>Places of a prop as the live stage followed it.</summary>
    public static string Places(int subject) => $"places-{subject}";
}
