using System.Text.Json.Nodes;
using Eidolon.Core.Geometry;
using Eidolon.Core.Optical;

namespace Eidolon.Studio.Api;

/// <summary>A placed camera as the Stage draws it: where it stands and the directions in which its picture's corners lie.</summary>
internal static class CameraDrawing
{
    /// <param name="name">On its badge.</param>
    public static JsonObject Of(CameraModel c, string name)
    {
        JsonArray Corner(double u, double v)
        {
            var (x, y) = c.Undistort(u, v);
            return Numbers((c.Rotation.Transposed * new Vector3d(x, y, 1)).Normalised());
        }

        return new JsonObject
        {
            ["name"] = name,
            ["place"] = Numbers(c.Position),
            ["corners"] = new JsonArray(Corner(0, 0), Corner(c.Width, 0), Corner(c.Width, c.Height), Corner(0, c.Height)),
        };
    }

    private static JsonArray Numbers(Vector3d v) => [Math.Round(v.X, 4), Math.Round(v.Y, 4), Math.Round(v.Z, 4)];
}
