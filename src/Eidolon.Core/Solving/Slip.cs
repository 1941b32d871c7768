using System.Numerics;

namespace Eidolon.Core.Solving;

/// <summary>A marker that sits elsewhere on its bone from a frame on.</summary>
/// <param name="Marker">Its name, without what stands before it.</param>
/// <param name="Frame">The first frame at the new place, counted from 0.</param>
/// <param name="By">How far it went, metres in its bone's axes.</param>
public readonly record struct Slip(string Marker, int Frame, Vector3 By);
