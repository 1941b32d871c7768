using Eidolon.Core.Hands;

namespace Eidolon.Core.Formats.Csv;

/// <summary>A pair of gloves' recording as a table: columns SENSOR.qx, .qy, .qz, .qw for each of the twelve sensors, in any order.</summary>
public static class GloveCsv
{
    private static readonly string[] Axes = ["qx", "qy", "qz", "qw"];

    /// <summary>Unit of the columns as they are written.</summary>
    public const string Units = "quaternion";

    /// <summary>Names of the columns in the order of <see cref="GloveTake.Samples"/>.</summary>
    public static IReadOnlyList<string> Columns { get; } = [.. GloveTake.Sensors.SelectMany(b => Axes.Select(a => $"{b}.{a}"))];

    /// <summary>True when the bytes are a table of gloves.</summary>
    public static bool Is(ReadOnlySpan<byte> bytes) =>
        SampleTableCsv.Is(bytes) && CsvLines.Next(ref bytes) is var mark && mark.IndexOf("quaternion"u8) >= 0;

    /// <summary>Writes what <see cref="Read"/> reads.</summary>
    public static void Write(Stream stream, GloveTake take) =>
        SampleTableCsv.Write(stream, take.FrameRate, Units, Columns, take.Samples, GloveTake.Stride);

    /// <summary>Reads a recording; a glove that is not there at all is left empty with a warning.</summary>
    /// <exception cref="InvalidInputException">A sensor of a glove has only some of its columns, or no glove is there.</exception>
    public static GloveTake Read(ReadOnlySpan<byte> bytes, string file)
    {
        var table = SampleTableCsv.Read(bytes, file);
        var at = table.Columns.Select((c, i) => (c, i)).ToDictionary(x => x.c, x => x.i, StringComparer.OrdinalIgnoreCase);
        var samples = new float[table.FrameCount * GloveTake.Stride];
        Array.Fill(samples, float.NaN);
        var warnings = table.Warnings.ToList();
        var half = Columns.Count / 2;
        var gloves = 0;
        for (var side = 0; side < 2; side++)
        {
            string[] own = [.. Columns.Skip(side * half).Take(half)];
            if (!own.Any(at.ContainsKey))
            {
                warnings.Add($"there is no {(side == 0 ? "left" : "right")} glove");
                continue;
            }

            gloves++;
            for (var k = 0; k < own.Length; k++)
            {
                if (!at.TryGetValue(own[k], out var column))
                {
                    throw new InvalidInputException(
                        file,
                        "line 2",
                        $"the column '{own[k]}' is missing: a glove has six sensors of four values"
                    );
                }

                for (var f = 0; f < table.FrameCount; f++)
                {
                    samples[(f * GloveTake.Stride) + (side * half) + k] = table.Values[(f * table.Columns.Count) + column];
                }
            }
        }

        return gloves == 0 || table.FrameCount == 0
            ? throw new InvalidInputException(file, "line 2", $"no column is of a glove ({Columns[0]} …)")
            : new GloveTake(table.FrameRate, samples) { Warnings = warnings };
    }
}
