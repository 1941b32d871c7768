using Eidolon.Core.Geometry;

namespace Eidolon.Core.Optical.Calibration;

/// <summary>Where the wand is in one frame: its middle marker and its direction towards the far end; Side and Up stand across it.</summary>
internal readonly record struct WandPlace(Vector3d Middle, Vector3d Direction, Vector3d Side, Vector3d Up)
{
    public static WandPlace Of(Vector3d middle, Vector3d direction)
    {
        var d = direction.Normalised();
        var other = Math.Abs(d.Y) < 0.8 ? new Vector3d(0, 1, 0) : new Vector3d(1, 0, 0);
        var side = Vector3d.Cross(d, other).Normalised();
        return new WandPlace(middle, d, side, Vector3d.Cross(side, d));
    }

    public Vector3d At(double offset) => Middle + (Direction * offset);

    /// <summary>Middle moved by the first three, direction tilted by the last two (radians).</summary>
    public WandPlace Moved(ReadOnlySpan<double> d) => Of(Middle + new Vector3d(d[0], d[1], d[2]), Direction + (Side * d[3]) + (Up * d[4]));
}
