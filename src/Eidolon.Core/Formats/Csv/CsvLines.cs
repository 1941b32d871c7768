namespace Eidolon.Core.Formats.Csv;

/// <summary>A text's lines one after the other, whichever way they end.</summary>
internal static class CsvLines
{
    /// <summary>Takes the next line off.</summary>
    public static ReadOnlySpan<byte> Next(ref ReadOnlySpan<byte> bytes)
    {
        var end = bytes.IndexOf((byte)'\n');
        var line = end < 0 ? bytes : bytes[..end];
        bytes = end < 0 ? default : bytes[(end + 1)..];
        return line.EndsWith("\r"u8) ? line[..^1] : line;
    }
}
