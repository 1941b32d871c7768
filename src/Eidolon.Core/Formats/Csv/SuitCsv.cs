using Eidolon.Core.Inertial;

namespace Eidolon.Core.Formats.Csv;

/// <summary>A suit's recording as a table: columns BONE.gx … BONE.mz for each of the seventeen bones, in any order.</summary>
public static class SuitCsv
{
    private static readonly string[] Axes = ["gx", "gy", "gz", "ax", "ay", "az", "mx", "my", "mz"];

    /// <summary>Names of the columns in the order of <see cref="SuitTake.Samples"/>.</summary>
    public static IReadOnlyList<string> Columns { get; } = [.. SuitBones.All.SelectMany(b => Axes.Select(a => $"{b}.{a}"))];

    /// <summary>Units of the columns as they are written.</summary>
    public const string Units = "rad/s m/s2 uT";

    /// <summary>Writes what <see cref="Read"/> reads.</summary>
    public static void Write(Stream stream, SuitTake take) =>
        SampleTableCsv.Write(stream, take.FrameRate, Units, Columns, take.Samples, SuitTake.Stride);

    /// <summary>Reads a recording; columns of other names are left out with a warning.</summary>
    /// <exception cref="InvalidInputException">A column of a sensor is missing, always empty, or has a unit that is not known.</exception>
    public static SuitTake Read(ReadOnlySpan<byte> bytes, string file)
    {
        var table = SampleTableCsv.Read(bytes, file);
        var scales = Scales(table.Units, file);
        var at = table.Columns.Select((c, i) => (c, i)).ToDictionary(x => x.c, x => x.i, StringComparer.OrdinalIgnoreCase);
        var samples = new float[table.FrameCount * SuitTake.Stride];
        for (var k = 0; k < Columns.Count; k++)
        {
            if (!at.TryGetValue(Columns[k], out var column))
            {
                throw new InvalidInputException(file, "line 2", $"the column '{Columns[k]}' is missing: all seventeen sensors are needed");
            }

            var scale = scales[k % SuitTake.ValuesPerSensor / 3];
            var seen = false;
            for (var f = 0; f < table.FrameCount; f++)
            {
                var v = table.Values[(f * table.Columns.Count) + column];
                samples[(f * SuitTake.Stride) + k] = v * scale;
                seen |= float.IsFinite(v);
            }

            if (!seen)
            {
                throw new InvalidInputException(file, $"column {Columns[k]}", "it has no sample at all: this sensor did not send");
            }
        }

        var other = table.Columns.Where(c => !Columns.Contains(c, StringComparer.OrdinalIgnoreCase)).ToArray();
        return new SuitTake(table.FrameRate, samples)
        {
            Warnings =
                other.Length == 0
                    ? table.Warnings
                    : [.. table.Warnings, $"{other.Length} columns are of no sensor of the suit and left out ({other[0]} …)"],
        };
    }

    private static float[] Scales(string units, string file)
    {
        var scales = new[] { 1f, 1f, 1f };
        foreach (var unit in units.Split(' ', StringSplitOptions.RemoveEmptyEntries))
        {
            var (kind, scale) = unit switch
            {
                "rad/s" => (0, 1f),
                "deg/s" => (0, MathF.PI / 180),
                "m/s2" or "m/s²" => (1, 1f),
                "g" => (1, 9.80665f),
                "uT" or "µT" or "μT" => (2, 1f),
                "mG" => (2, 0.1f),
                _ => throw new InvalidInputException(file, "line 1", $"the unit '{unit}' is not known (rad/s deg/s, m/s2 g, uT mG)"),
            };
            scales[kind] = scale;
        }

        return scales;
    }
}
