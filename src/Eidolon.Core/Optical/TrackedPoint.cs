using System.Numerics;

namespace Eidolon.Core.Optical;

/// <summary>A point of one frame.</summary>
/// <param name="Id">The same as long as the point is followed.</param>
/// <param name="Position">Metres.</param>
/// <param name="Rays">Number of cameras that saw it.</param>
/// <param name="Cameras">A bit for each of the first 32 cameras that saw it.</param>
/// <param name="Age">Frames it has been seen.</param>
public readonly record struct TrackedPoint(int Id, Vector3 Position, int Rays, int Age, uint Cameras = 0);
