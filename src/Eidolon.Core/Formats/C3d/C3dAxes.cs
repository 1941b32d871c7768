using System.Numerics;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Formats.C3d;

/// <summary>Turns between a file whose upright axis is X, Y or Z (or points down) and Y up inside. All are proper rotations.</summary>
internal static class C3dAxes
{
    public static Vector3 ToInside(Vector3 v, string up) =>
        up switch
        {
            "Z" => new Vector3(v.X, v.Z, -v.Y),
            "-Z" => new Vector3(v.X, -v.Z, v.Y),
            "X" => new Vector3(-v.Y, v.X, v.Z),
            "-X" => new Vector3(v.Y, -v.X, v.Z),
            "-Y" => new Vector3(v.X, -v.Y, -v.Z),
            _ => v,
        };

    /// <summary>The same as a turn, for what has turns of its own.</summary>
    public static Quaternion TurnToInside(string up) =>
        Rotations.FromAxes(ToInside(Vector3.UnitX, up), ToInside(Vector3.UnitY, up), ToInside(Vector3.UnitZ, up));

    public static Vector3 ToFile(Vector3 v, string up) =>
        up switch
        {
            "Z" => new Vector3(v.X, -v.Z, v.Y),
            "-Z" => new Vector3(v.X, v.Z, -v.Y),
            "X" => new Vector3(v.Y, -v.X, v.Z),
            "-X" => new Vector3(-v.Y, v.X, v.Z),
            "-Y" => new Vector3(v.X, -v.Y, -v.Z),
            _ => v,
        };
}
