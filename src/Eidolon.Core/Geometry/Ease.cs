namespace Eidolon.Core.Geometry;

/// <summary>Going over from 0 to 1.</summary>
public static class Ease
{
    /// <summary>The cubic with level ends (Hermite): 0 up to 0, 1 from 1 on.</summary>
    public static float Smooth(float t)
    {
        t = Math.Clamp(t, 0, 1);
        return t * t * (3 - (2 * t));
    }
}
