using Eidolon.Core.Geometry;

namespace Eidolon.Core.Video;

/// <summary>A joint that stands in a frame.</summary>
/// <param name="Marker">Index of the model's marker.</param>
/// <param name="Place">Where, metres.</param>
/// <param name="FloorWeight">One over the variance of the place along the floor, 1/m².</param>
/// <param name="HeightWeight">One over the variance of its height, 1/m².</param>
internal readonly record struct FilmStand(int Marker, Vector3d Place, double FloorWeight, double HeightWeight);
