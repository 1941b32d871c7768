namespace Eidolon.Core.Formats.C3d;

/// <summary>One C3D parameter, decoded. Type: −1 text, 1 byte, 2 int16, 4 float32 (as in the format's own numbering).</summary>
public sealed record C3dParameter(string Name, int Type, int[] Dimensions, float[] Numbers, string[] Texts, string Description)
{
    /// <summary>Bytes its values take in a file.</summary>
    public long Bytes => Dimensions.Aggregate(1L, (n, d) => n * d) * Math.Abs(Type);

    /// <summary>A parameter of numbers.</summary>
    public static C3dParameter Number(string name, int type, params float[] values) =>
        new(name, type, values.Length == 1 ? [] : [values.Length], values, [], string.Empty);

    /// <summary>A parameter of texts, padded to the longest.</summary>
    public static C3dParameter Text(string name, params string[] texts)
    {
        var width = Math.Min(255, Math.Max(1, texts.Select(t => System.Text.Encoding.UTF8.GetByteCount(t)).DefaultIfEmpty(1).Max()));
        return new(name, -1, texts.Length == 1 ? [width] : [width, texts.Length], [], texts, string.Empty);
    }
}
