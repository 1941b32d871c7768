using System.Numerics;

namespace Eidolon.Core.Hands;

/// <summary>What was seen of a finger at one frame: a place on one of its bones, in the hand's frame, metres.</summary>
/// <param name="Bone">0 to 2: the bone that begins at the joint, counted from the palm.</param>
/// <param name="Offset">Where on the bone, from its joint, as the finger lies straight.</param>
/// <param name="Target">Where it was seen; a point of the ray when there is one.</param>
/// <param name="Ray">Unit direction in which a camera saw it; zero when the place itself was measured.</param>
public readonly record struct FingerSight(int Bone, Vector3 Offset, Vector3 Target, Vector3 Ray = default);
