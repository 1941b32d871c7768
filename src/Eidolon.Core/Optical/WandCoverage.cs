namespace Eidolon.Core.Optical;

/// <summary>Counts, while the wand is waved, in which of the 8 × 6 fields of each picture it has been.</summary>
public sealed class WandCoverage(IReadOnlyList<CameraModel> cameras)
{
    /// <summary>Cells across a camera's picture.</summary>
    public const int Columns = 8;

    /// <summary>Cells down a camera's picture.</summary>
    public const int Rows = 6;
    private readonly bool[][] _fields = [.. cameras.Select(_ => new bool[Columns * Rows])];

    /// <summary>Fields seen, row by row from the top left.</summary>
    public IReadOnlyList<bool> Fields(int camera) => _fields[camera];

    /// <summary>Share of fields, 0…1.</summary>
    public double Share(int camera) => _fields[camera].Count(x => x) / (double)(Columns * Rows);

    /// <summary>A dot of the wand, pixels.</summary>
    public void Add(int camera, double u, double v)
    {
        int c = (int)(u * Columns / cameras[camera].Width),
            r = (int)(v * Rows / cameras[camera].Height);
        if (c is >= 0 and < Columns && r is >= 0 and < Rows)
        {
            _fields[camera][(r * Columns) + c] = true;
        }
    }
}
