using System.Numerics;

namespace Eidolon.Core.Clipping;

/// <summary>The skin of a character at rest: places of its vertices, metres, and the joint each follows most.</summary>
public sealed record SkinPoints(Vector3[] Places, int[] Joints);
