namespace Eidolon.Core.Formats;

/// <summary>Names of length units and their size in metres.</summary>
public static class Units
{
    /// <summary>Metres of a unit by its short name: m, cm, mm, in, ft.</summary>
    public static bool TryMetres(string unit, out double metres)
    {
        metres = unit.Trim().ToLowerInvariant() switch
        {
            "m" or "meter" or "meters" or "metre" or "metres" => 1,
            "cm" or "centimeter" or "centimeters" or "centimetres" => 0.01,
            "mm" or "millimeter" or "millimeters" or "millimetres" => 0.001,
            "in" or "inch" or "inches" => 0.0254,
            "ft" or "feet" => 0.3048,
            "dm" => 0.1,
            _ => 0,
        };
        return metres > 0;
    }
}
