using Eidolon.Core.Geometry;

namespace Eidolon.Core.Optical;

/// <summary>How many cameras see each place of the floor, at hip height.</summary>
public static class FloorCoverage
{
    private const double Cell = 0.5;
    private const double Height = 1;

    /// <summary>Cells of half a metre over a floor of the given size around the origin, metres.</summary>
    public static IReadOnlyList<(double X, double Z, int Cameras)> Of(CameraRing ring, double width, double depth)
    {
        var cells = new List<(double, double, int)>();
        for (var x = -(width / 2) + (Cell / 2); x < width / 2; x += Cell)
        {
            for (var z = -(depth / 2) + (Cell / 2); z < depth / 2; z += Cell)
            {
                cells.Add((x, z, ring.Cameras.Count(c => c.TryProject(new Vector3d(x, Height, z), out _, out _))));
            }
        }

        return cells;
    }
}
