namespace Eidolon.Core.Formats;

/// <summary>The three bytes that some programs put before a text in UTF-8: they are no part of it.</summary>
internal static class Utf8Mark
{
    private static ReadOnlySpan<byte> Mark => [0xEF, 0xBB, 0xBF];

    /// <summary>The text behind the mark; the same where there is none.</summary>
    public static ReadOnlySpan<byte> Without(ReadOnlySpan<byte> bytes) => bytes.StartsWith(Mark) ? bytes[Mark.Length..] : bytes;

    /// <summary>Bytes of the mark at the beginning; 0 where there is none.</summary>
    public static int Length(ReadOnlySpan<byte> bytes) => bytes.StartsWith(Mark) ? Mark.Length : 0;
}
