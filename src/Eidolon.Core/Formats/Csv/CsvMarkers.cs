using System.Globalization;
using System.Numerics;
using System.Text;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Formats.Csv;

/// <summary>Points as a table: a comment line with rate, unit and up axis, a header, one row a frame; empty cells where a point is not seen.</summary>
public static class CsvMarkers
{
    private const string Mark = "# points";

    /// <summary>Writes one row a frame, three columns a marker; hidden samples are empty.</summary>
    public static void Write(Stream stream, MarkerTake take, string units = "m", string up = "Y")
    {
        Units.TryMetres(units, out var metres);
        using var w = new StreamWriter(stream, new UTF8Encoding(false), leaveOpen: true);
        var inv = CultureInfo.InvariantCulture;
        w.Write(string.Create(inv, $"{Mark}, frameRate={take.FrameRate:R}, units={units}, upAxis={up}, firstFrame={take.FirstFrame}\n"));
        w.Write("frame,time");
        foreach (var n in take.Names)
        {
            var safe = n.Replace(',', '_');
            w.Write($",{safe}.x,{safe}.y,{safe}.z");
        }

        w.Write('\n');
        for (var f = 0; f < take.FrameCount; f++)
        {
            w.Write(string.Create(inv, $"{f},{f / take.FrameRate:0.######}"));
            foreach (var p in take.At(f))
            {
                if (!MarkerTake.Seen(p))
                {
                    w.Write(",,,");
                    continue;
                }

                var v = C3d.C3dAxes.ToFile(p, up);
                w.Write(string.Create(inv, $",{v.X / metres:0.#######},{v.Y / metres:0.#######},{v.Z / metres:0.#######}"));
            }

            w.Write('\n');
        }
    }

    /// <summary>Reads what <see cref="Write"/> writes, with any unit and axis its head names; metres and y up afterwards.</summary>
    /// <exception cref="InvalidInputException">A row or column cannot be read; says which.</exception>
    public static MarkerTake Read(byte[] bytes, string file)
    {
        var lines = Encoding.UTF8.GetString(Utf8Mark.Without(bytes)).Split('\n');
        double rate = 0,
            metres = 1;
        var up = "Y";
        int row = 0,
            first = 0;
        var warnings = new List<string>();
        if (lines[0].StartsWith('#'))
        {
            (rate, metres, up, first) = ReadMark(lines[0], file);
            row = 1;
        }
        else
        {
            warnings.Add("the table names no unit and no up axis; metres and Y up are read");
        }

        var header = row < lines.Length ? lines[row].Trim('\r').Split(',') : [];
        var lead = header.TakeWhile(h => !h.EndsWith(".x", StringComparison.OrdinalIgnoreCase)).Count();
        if (
            header.Length - lead < 3
            || (header.Length - lead) % 3 != 0
            || header.Length > 30000
            || !header.Skip(lead).Select((h, i) => IsAxis(h, i % 3)).All(fits => fits)
            || header.Skip(lead).Chunk(3).Any(point => point.Select(h => h.Trim()[..^2]).Distinct().Count() > 1)
        )
        {
            throw new InvalidInputException(file, $"line {row + 1}", "a header 'frame,time,Name.x,Name.y,Name.z,…' is expected");
        }

        var names = header.Skip(lead).Where((_, i) => i % 3 == 0).Select(h => h.Trim()[..^2]).ToArray();
        if (names.Distinct().Count() != names.Length)
        {
            throw new InvalidInputException(file, $"line {row + 1}", "two points have the same name");
        }

        var positions = new List<Vector3>();
        var times = new List<double>();
        for (var i = row + 1; i < lines.Length; i++)
        {
            var line = lines[i].AsSpan().Trim('\r');
            if (line.IsEmpty)
            {
                continue;
            }

            ReadRow(line, lead, names.Length, positions, times, (float)metres, up, file, i + 1);
        }

        if (times.Count == 0)
        {
            throw new InvalidInputException(file, $"line {row + 1}", "there are no rows");
        }

        // A column of frame numbers alone, or none, tells times with a rate.
        var numbered = lead == 0 || (lead == 1 && header[0].Trim().Equals("frame", StringComparison.OrdinalIgnoreCase));
        var clock = numbered ? (rate > 0 ? rate : 120) : 1;
        (rate, var frames) = RowTimes.Place([.. times.Select(t => t / clock)], rate, names.Length, file, row + 2, warnings);
        rate = FrameRates.Usable(rate, file, $"line {(row == 0 ? 2 : 1)}");
        return Placed(names, rate, frames, positions, warnings, first);
    }

    private static MarkerTake Placed(string[] names, double rate, int[] frames, List<Vector3> rows, List<string> warnings, int first)
    {
        var take = new MarkerTake(names, rate, frames[^1] + 1) { Warnings = warnings, FirstFrame = first };
        for (var i = 0; i < frames.Length; i++)
        {
            for (var m = 0; m < names.Length; m++)
            {
                take[frames[i], m] = rows[(i * names.Length) + m];
            }
        }

        return take;
    }

    /// <summary>"Name.x", then "Name.y", then "Name.z".</summary>
    private static bool IsAxis(string cell, int axis) =>
        cell.Trim() is { Length: > 2 } name && name.EndsWith($".{"xyz"[axis]}", StringComparison.OrdinalIgnoreCase);

    private static (double Rate, double Metres, string Up, int First) ReadMark(string line, string file)
    {
        var values = new Dictionary<string, string>(StringComparer.OrdinalIgnoreCase);
        foreach (var pair in line.Split(',').Select(p => p.Split('=', 2)).Where(p => p.Length == 2))
        {
            if (!values.TryAdd(pair[0].Trim(), pair[1].Trim()))
            {
                throw new InvalidInputException(file, "line 1", $"'{pair[0].Trim()}' is said twice");
            }
        }

        var up = values.GetValueOrDefault("upAxis", "Y").ToUpperInvariant();
        if (up.TrimStart('+', '-') is not ("X" or "Y" or "Z"))
        {
            throw new InvalidInputException(file, "line 1", $"'{up}' is no up axis (X, Y or Z)");
        }

        if (
            !double.TryParse(values.GetValueOrDefault("frameRate", "0"), CultureInfo.InvariantCulture, out var rate)
            || !double.IsFinite(rate)
            || rate < 0
            || !Units.TryMetres(values.GetValueOrDefault("units", "m"), out var metres)
        )
        {
            throw new InvalidInputException(file, "line 1", "the frame rate or the unit cannot be read");
        }

        return (rate, metres, up, int.TryParse(values.GetValueOrDefault("firstFrame", "0"), out var f) ? f : 0);
    }

    private static void ReadRow(
        ReadOnlySpan<char> line,
        int lead,
        int points,
        List<Vector3> positions,
        List<double> times,
        float metres,
        string up,
        string file,
        int number
    )
    {
        var at = 0;
        Span<float> v = stackalloc float[3];
        var expected = lead + (points * 3);
        var column = 0;
        foreach (var range in line.Split(','))
        {
            var cell = line[range].Trim();
            if (column >= expected)
            {
                throw new InvalidInputException(file, $"line {number}", $"more than {expected} columns");
            }

            if (column < lead)
            {
                if (column == lead - 1)
                {
                    times.Add(
                        double.TryParse(cell, CultureInfo.InvariantCulture, out var t) && double.IsFinite(t)
                            ? t
                            : throw new InvalidInputException(file, $"line {number}", "the time is not a number")
                    );
                }
            }
            else
            {
                var k = (column - lead) % 3;
                v[k] =
                    cell.IsEmpty ? float.NaN
                    : float.TryParse(cell, CultureInfo.InvariantCulture, out var x) && float.IsFinite(x) ? x
                    : throw new InvalidInputException(file, $"line {number}", $"'{cell[..Math.Min(16, cell.Length)]}' is not a number");
                if (k == 2)
                {
                    var p = new Vector3(v[0], v[1], v[2]);
                    positions.Add(float.IsNaN(p.X + p.Y + p.Z) ? MarkerTake.Hidden : C3d.C3dAxes.ToInside(p, up) * metres);
                    at++;
                }
            }

            column++;
        }

        if (column != expected)
        {
            throw new InvalidInputException(file, $"line {number}", $"{column} columns, {expected} are needed");
        }

        if (lead == 0)
        {
            times.Add(times.Count);
        }
    }
}
