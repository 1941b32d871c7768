using System.Numerics;

namespace Eidolon.StandIns.Acting;

/// <summary>One time a foot stands: from, to (seconds), the floor point under the ankle, heading (radians), and how it comes and goes.</summary>
internal readonly record struct Footfall(float Down, float Up, Vector3 At, float Yaw, bool HeelFirst = false, bool ToeLast = false)
{
    public Vector3 Forward => new(MathF.Sin(Yaw), 0, MathF.Cos(Yaw));
}
