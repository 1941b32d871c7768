using Eidolon.Core.Geometry;

namespace Eidolon.Core.Optical;

/// <summary>A point made of centroids nobody had taken.</summary>
/// <param name="Picked">The centroid of each camera, −1 for none.</param>
internal sealed record FoundPoint(Vector3d Position, int Rays, int[] Picked);
