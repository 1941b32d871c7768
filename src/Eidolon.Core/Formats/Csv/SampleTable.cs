namespace Eidolon.Core.Formats.Csv;

/// <summary>Samples of a device as a table: a row a frame, a column a value.</summary>
/// <param name="FrameRate">Frames a second.</param>
/// <param name="Units">The units as the file names them, parted by blanks.</param>
/// <param name="Columns">Names, without the frame's own column.</param>
/// <param name="Values">[frame × columns + column]; NaN where a cell is empty.</param>
/// <param name="Frames">The number each row gives its frame; counted from 0 where the table has no such column.</param>
/// <param name="Warnings">What reading it had to say.</param>
public sealed record SampleTable(
    double FrameRate,
    string Units,
    IReadOnlyList<string> Columns,
    float[] Values,
    IReadOnlyList<int> Frames,
    IReadOnlyList<string> Warnings
)
{
    /// <summary>Rows.</summary>
    public int FrameCount => Columns.Count == 0 ? 0 : Values.Length / Columns.Count;
}
