using System.Numerics;

namespace Eidolon.Core.Clipping;

/// <summary>A part of a body as a capsule between two places, each fixed to a joint.</summary>
/// <param name="Part">Its name: Chest, ForearmL.</param>
/// <param name="A">Joint of one end.</param>
/// <param name="OffsetA">That end in the joint's frame, metres.</param>
/// <param name="B">Joint of the other end.</param>
/// <param name="OffsetB">In that joint's frame.</param>
/// <param name="Radius">Metres.</param>
public sealed record BodyVolume(string Part, int A, Vector3 OffsetA, int B, Vector3 OffsetB, float Radius);
