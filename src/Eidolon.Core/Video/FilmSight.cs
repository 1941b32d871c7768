using Eidolon.Core.Optical;

namespace Eidolon.Core.Video;

/// <summary>Where one camera sees one point in one frame.</summary>
/// <param name="Point">Index of the point on the body.</param>
/// <param name="Weight">One over the variance, 1/pixel².</param>
internal readonly record struct FilmSight(CameraModel Camera, int Point, double U, double V, double Weight);
