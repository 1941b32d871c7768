using System.Numerics;

namespace Eidolon.Core.Solving;

/// <summary>A marker on a performer: the joint that carries it, its place in that joint's frame (metres), and its weight in a solve.</summary>
public sealed record PerformerMarker(string Name, int Joint, Vector3 Offset, float Weight = 1);
