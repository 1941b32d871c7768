using Eidolon.Core.Faces;

namespace Eidolon.Core.Formats.Csv;

/// <summary>A face's recording as a table: a column a weight, 0 to 1, and "sure", how sure the tracker is; in any order.</summary>
public static class FaceCsv
{
    /// <summary>Unit of the columns as they are written.</summary>
    public const string Units = "weight";

    private const string Sure = "sure";

    /// <summary>True when the bytes are a table of a face's weights.</summary>
    public static bool Is(ReadOnlySpan<byte> bytes) =>
        SampleTableCsv.Is(bytes) && CsvLines.Next(ref bytes) is var mark && mark.IndexOf("weight"u8) >= 0;

    /// <summary>Writes what <see cref="Read"/> reads.</summary>
    public static void Write(Stream stream, FaceTake take) =>
        SampleTableCsv.Write(stream, take.FrameRate, Units, [.. take.Names, Sure], take.Values, take.Names.Count + 1);

    /// <summary>Reads a recording; without a column "sure" every frame with weights is believed.</summary>
    /// <exception cref="InvalidInputException">There is no weight at all.</exception>
    public static FaceTake Read(ReadOnlySpan<byte> bytes, string file)
    {
        var table = SampleTableCsv.Read(bytes, file);
        string[] names = [.. table.Columns.Where(c => c != Sure)];
        if (names.Length == 0 || table.FrameCount == 0)
        {
            throw new InvalidInputException(file, "line 2", "no column is a weight");
        }

        var at = table.Columns.Select((c, i) => (c, i)).ToDictionary(x => x.c, x => x.i, StringComparer.Ordinal);
        var stride = names.Length + 1;
        var values = new float[table.FrameCount * stride];
        var far = 0;
        for (var f = 0; f < table.FrameCount; f++)
        {
            var row = f * table.Columns.Count;
            var seen = false;
            for (var k = 0; k < names.Length; k++)
            {
                var v = table.Values[row + at[names[k]]];
                far += v is < -0.01f or > 1.01f ? 1 : 0;
                values[(f * stride) + k] = float.IsFinite(v) ? Math.Clamp(v, 0, 1) : float.NaN;
                seen |= float.IsFinite(v);
            }

            values[(f * stride) + names.Length] =
                !seen ? 0
                : at.TryGetValue(Sure, out var s) ? Math.Clamp(float.IsFinite(table.Values[row + s]) ? table.Values[row + s] : 0, 0, 1)
                : 1;
        }

        string[] warnings = [.. table.Warnings, .. far > 0 ? new[] { $"{far} weights are outside 0 to 1 and cut off there" } : []];
        return new FaceTake(table.FrameRate, names, values) { Warnings = warnings };
    }
}
