using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Markers;

/// <summary>One marker of a set.</summary>
/// <param name="Segment">The role whose bone carries it.</param>
/// <param name="Offset">Metres from that role's joint, world axes, performer in the T-pose facing +Z; null when not known.</param>
public sealed record MarkerDefinition(string Name, BodyRole Segment, Vector3? Offset = null);
