using System.Globalization;
using System.Numerics;

namespace Eidolon.Core.Characters.Sculpting;

/// <summary>What a surface is made of.</summary>
/// <param name="Name">Name in the file.</param>
/// <param name="Colour">Linear red, green, blue, 0 to 1.</param>
public sealed record SurfaceMaterial(string Name, Vector3 Colour)
{
    /// <summary>Of a colour as screens write it, such as "#b58a70" (sRGB, IEC 61966-2-1).</summary>
    public static SurfaceMaterial Of(string name, string hex)
    {
        float Part(int at) => Linear(int.Parse(hex.AsSpan(at, 2), NumberStyles.HexNumber, CultureInfo.InvariantCulture) / 255f);
        return new(name, new Vector3(Part(1), Part(3), Part(5)));
    }

    /// <summary>A linear colour as screens write it.</summary>
    public static string Hex(Vector3 linear)
    {
        int Part(float c) => (int)MathF.Round(255 * Math.Clamp(Shown(c), 0, 1));
        return $"#{Part(linear.X):x2}{Part(linear.Y):x2}{Part(linear.Z):x2}";
    }

    private static float Shown(float c) => c <= 0.0031308f ? c * 12.92f : (1.055f * MathF.Pow(c, 1 / 2.4f)) - 0.055f;

    private static float Linear(float c) => c <= 0.04045f ? c / 12.92f : MathF.Pow((c + 0.055f) / 1.055f, 2.4f);
}
