using System.Buffers.Text;
using System.Globalization;
using System.Text;

namespace Eidolon.Core.Formats.Csv;

/// <summary>
/// Samples of a device: a comment line with rate and units, a header with the names of the columns in any order, one row a frame; an empty cell is
/// a lost sample.
/// </summary>
public static class SampleTableCsv
{
    private const string Mark = "# samples";
    private const string Frame = "frame";
    private const int MostColumns = 4096;

    /// <summary>A number beyond this is no measurement.</summary>
    private const float Most = 1e9f;

    /// <summary>True when the bytes begin as such a table does.</summary>
    public static bool Is(ReadOnlySpan<byte> bytes) => bytes.StartsWith("# samples"u8);

    /// <summary>Writes what <see cref="Read"/> reads.</summary>
    /// <param name="stride">Values a frame in <paramref name="values"/>; the columns are the first of them.</param>
    public static void Write(Stream stream, double rate, string units, IReadOnlyList<string> columns, float[] values, int stride)
    {
        using var w = new StreamWriter(stream, new UTF8Encoding(false), leaveOpen: true);
        var inv = CultureInfo.InvariantCulture;
        w.Write(string.Create(inv, $"{Mark}, frameRate={rate:R}, units={units}\n{Frame},{string.Join(',', columns)}\n"));
        for (var f = 0; f < values.Length / stride; f++)
        {
            w.Write(f.ToString(inv));
            for (var k = 0; k < columns.Count; k++)
            {
                var v = values[(f * stride) + k];
                w.Write(',');
                w.Write(float.IsFinite(v) ? v.ToString("0.#####", inv) : string.Empty);
            }

            w.Write('\n');
        }
    }

    /// <summary>Reads the table.</summary>
    /// <exception cref="InvalidInputException">Names the line and what is wrong in it.</exception>
    public static SampleTable Read(ReadOnlySpan<byte> bytes, string file)
    {
        bytes = Utf8Mark.Without(bytes);
        var (rate, units) = ReadMark(CsvLines.Next(ref bytes), file);
        var header = Encoding.UTF8.GetString(CsvLines.Next(ref bytes)).Split(',', StringSplitOptions.TrimEntries);
        var own = Array.IndexOf(header, Frame);
        var columns = header.Where((_, i) => i != own).ToArray();
        if (columns.Length == 0 || columns.Length > MostColumns || columns.Any(c => c.Length == 0))
        {
            throw new InvalidInputException(file, "line 2", $"a header with the names of 1 to {MostColumns} columns is expected");
        }

        if (columns.GroupBy(c => c, StringComparer.OrdinalIgnoreCase).FirstOrDefault(g => g.Count() > 1) is { } twice)
        {
            throw new InvalidInputException(file, "line 2", $"the column '{twice.Key}' comes twice");
        }

        var rows = new Rows(file, header.Length, own);
        var line = 2;
        while (bytes.Length > 0)
        {
            line++;
            var row = CsvLines.Next(ref bytes);
            if (!row.IsEmpty)
            {
                rows.Add(row, line);
            }
        }

        return rows.Values.Count == 0
            ? throw new InvalidInputException(file, $"line {line}", "there are no rows")
            : new SampleTable(rate, units, columns, [.. rows.Values], rows.Frames, rows.Warnings);
    }

    private static (double Rate, string Units) ReadMark(ReadOnlySpan<byte> line, string file)
    {
        var parts = Encoding.UTF8.GetString(line).Split(',', StringSplitOptions.TrimEntries);
        string? Value(string key) =>
            parts.FirstOrDefault(p => p.StartsWith(key + "=", StringComparison.OrdinalIgnoreCase))?[(key.Length + 1)..];
        return parts[0] == Mark && double.TryParse(Value("frameRate"), NumberStyles.Float, CultureInfo.InvariantCulture, out var rate)
            ? (FrameRates.Usable(rate, file, "line 1"), Value("units") ?? string.Empty)
            : throw new InvalidInputException(file, "line 1", $"'{Mark}, frameRate=100, units=…' is expected");
    }

    private sealed class Rows(string file, int cells, int frame)
    {
        private const float MostFrames = 1e7f;

        public List<float> Values { get; } = [];

        public List<int> Frames { get; } = [];

        public List<string> Warnings { get; } = [];

        public void Add(ReadOnlySpan<byte> row, int line)
        {
            if (frame < 0)
            {
                Frames.Add(Frames.Count);
            }

            for (var c = 0; c < cells; c++)
            {
                var end = row.IndexOf((byte)',');
                if (end < 0 != (c == cells - 1))
                {
                    throw new InvalidInputException(
                        file,
                        $"line {line}",
                        end < 0 ? $"the row ends after {c + 1} of {cells} cells" : $"the row has more than {cells} cells"
                    );
                }

                var cell = (end < 0 ? row : row[..end]).Trim((byte)' ');
                row = end < 0 ? default : row[(end + 1)..];
                var value = Number(cell, line, c);
                if (c == frame)
                {
                    Follow(value, line);
                }
                else
                {
                    Values.Add(value);
                }
            }
        }

        private float Number(ReadOnlySpan<byte> cell, int line, int column)
        {
            if (cell.IsEmpty || cell.SequenceEqual("NaN"u8))
            {
                return float.NaN;
            }

            return Utf8Parser.TryParse(cell, out float value, out var used) && used == cell.Length && Math.Abs(value) < Most
                ? value
                : throw new InvalidInputException(
                    file,
                    $"line {line}, cell {column + 1}",
                    $"'{Encoding.UTF8.GetString(cell)}' is not a number"
                );
        }

        private void Follow(float number, int line)
        {
            if (!(number >= 0 && number < MostFrames) || number != MathF.Floor(number))
            {
                throw new InvalidInputException(file, $"line {line}", $"'{number}' is no frame number");
            }

            if (Frames.Count > 0 && number != Frames[^1] + 1)
            {
                if (!(number > Frames[^1]))
                {
                    throw new InvalidInputException(file, $"line {line}", $"frame {number} comes after frame {Frames[^1]}");
                }

                if (Warnings.Count == 0)
                {
                    Warnings.Add(
                        $"frame numbers jump from {Frames[^1]} to {number} (line {line}): rows are taken as following one another, an empty cell tells a lost sample"
                    );
                }
            }

            Frames.Add((int)number);
        }
    }
}
