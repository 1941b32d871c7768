using System.Numerics;

namespace Eidolon.Core.Polish;

/// <summary>A key of a layer: a turn as a rotation vector in degrees, or a Release key, at which the layer lets go.</summary>
public sealed record LayerKey(int Frame, Vector3 Degrees, bool Release = false);
