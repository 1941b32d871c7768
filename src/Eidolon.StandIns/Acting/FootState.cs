using System.Numerics;

namespace Eidolon.StandIns.Acting;

/// <summary>A foot at one time: ankle (metres), turn, toe bend (radians) and whether it stands.</summary>
internal readonly record struct FootState(Vector3 Ankle, Quaternion Turn, float Toes, bool Planted);
