using Eidolon.Core.Video;

namespace Eidolon.Core.Formats.Csv;

/// <summary>A film's body points as a table: columns POINT.u, POINT.v (pixels) and POINT.confidence (0 to 1), in any order.</summary>
public static class WitnessCsv
{
    /// <summary>Points that a body cannot be found without.</summary>
    private static readonly string[] Needed = ["ShoulderL", "ShoulderR", "HipL", "HipR", "KneeL", "KneeR", "AnkleL", "AnkleR"];

    /// <summary>True when the bytes are a table of a film's points.</summary>
    public static bool Is(ReadOnlySpan<byte> bytes)
    {
        if (!SampleTableCsv.Is(bytes))
        {
            return false;
        }

        CsvLines.Next(ref bytes);
        var header = CsvLines.Next(ref bytes);
        return header.IndexOf(".u,"u8) >= 0 || header.EndsWith(".u"u8);
    }

    /// <summary>Reads what one film's tracker saw; a point without a confidence column is taken as seen wherever it has pixels.</summary>
    /// <exception cref="InvalidInputException">A column or a needed point is missing; says which.</exception>
    public static FilmTake Read(ReadOnlySpan<byte> bytes, string file)
    {
        var table = SampleTableCsv.Read(bytes, file);
        var names = Points(table, file);
        if (Needed.FirstOrDefault(n => !names.Contains(n)) is { } missing)
        {
            throw new InvalidInputException(
                file,
                "line 2",
                $"the point '{missing}' is missing: hips, knees, ankles and shoulders are needed"
            );
        }

        return new FilmTake(table.FrameRate, names, Values(table, names)) { Warnings = table.Warnings };
    }

    /// <summary>Points of a film that a person put by hand, in the columns of the film itself.</summary>
    /// <param name="index">Which film they belong to, from 0.</param>
    /// <exception cref="InvalidInputException">A correction is for a frame that the film does not have.</exception>
    public static IReadOnlyList<FilmFix> Corrections(FilmTake film, int index, ReadOnlySpan<byte> bytes, string file)
    {
        var table = SampleTableCsv.Read(bytes, file);
        var names = Points(table, file);
        var values = Values(table, names);
        var fixes = new List<FilmFix>();
        for (var row = 0; row < table.FrameCount; row++)
        {
            var frame = table.Frames[row];
            if (frame >= film.FrameCount)
            {
                throw new InvalidInputException(
                    file,
                    $"line {row + 3}",
                    $"the film has {film.FrameCount} frames, there is no frame {frame}"
                );
            }

            for (var p = 0; p < names.Count; p++)
            {
                var at = ((row * names.Count) + p) * 3;
                if (film.IndexOf(names[p]) >= 0 && float.IsFinite(values[at]) && float.IsFinite(values[at + 1]))
                {
                    fixes.Add(new FilmFix(index, frame, names[p], values[at], values[at + 1]));
                }
            }
        }

        return fixes;
    }

    private static List<string> Points(SampleTable table, string file)
    {
        var names = table.Columns.Where(c => c.EndsWith(".u", StringComparison.Ordinal)).Select(c => c[..^2]).ToList();
        return names.FirstOrDefault(n => !table.Columns.Contains(n + ".v")) is { } half
            ? throw new InvalidInputException(file, "line 2", $"'{half}.u' has no '{half}.v'")
            : names;
    }

    private static float[] Values(SampleTable table, List<string> names)
    {
        var columns = table.Columns.Select((c, i) => (c, i)).ToDictionary(x => x.c, x => x.i);
        var values = new float[table.FrameCount * names.Count * 3];
        for (var p = 0; p < names.Count; p++)
        {
            int u = columns[names[p] + ".u"],
                v = columns[names[p] + ".v"],
                c = columns.GetValueOrDefault(names[p] + ".confidence", -1);
            for (var f = 0; f < table.FrameCount; f++)
            {
                var row = f * table.Columns.Count;
                var to = ((f * names.Count) + p) * 3;
                (values[to], values[to + 1]) = (table.Values[row + u], table.Values[row + v]);
                values[to + 2] =
                    c < 0 ? 1
                    : float.IsFinite(table.Values[row + c]) ? table.Values[row + c]
                    : 0;
            }
        }

        return values;
    }
}
