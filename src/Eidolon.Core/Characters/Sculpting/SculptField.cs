using System.Numerics;

namespace Eidolon.Core.Characters.Sculpting;

/// <summary>The blended distance field of a garment's parts.</summary>
/// <remarks>Blend: Quilez' quadratic polynomial smooth minimum.</remarks>
internal sealed class SculptField
{
    private readonly Garment _garment;
    private readonly (Vector3 Low, Vector3 High)[] _boxes;

    public SculptField(Garment garment)
    {
        _garment = garment;
        _boxes = [.. garment.Parts.Select(p => (p.Shape.Low, p.Shape.High))];
        Low = new(float.MaxValue);
        High = new(float.MinValue);
        foreach (var (part, box) in garment.Parts.Zip(_boxes))
        {
            if (part.Act == SculptAct.Add)
            {
                Low = Vector3.Min(Low, box.Low - new Vector3(part.Blend * .25f));
                High = Vector3.Max(High, box.High + new Vector3(part.Blend * .25f));
            }
        }
    }

    public Vector3 Low { get; }

    public Vector3 High { get; }

    /// <summary>May lie inside.</summary>
    public bool Holds(Vector3 p) => Vector3.Clamp(p, Low, High) == p;

    public float Distance(Vector3 p)
    {
        var d = 1f;
        for (var i = 0; i < _boxes.Length; i++)
        {
            var part = _garment.Parts[i];
            if (part.Act == SculptAct.Add)
            {
                // Too far to matter even with the blend.
                var near = Vector3.Clamp(p, _boxes[i].Low, _boxes[i].High);
                if ((p - near).LengthSquared() is var far && far > 0 && MathF.Sqrt(far) > MathF.Max(d, 0) + part.Blend)
                {
                    continue;
                }

                d = Smooth(d, part.Shape.Distance(p), part.Blend);
            }
            else
            {
                var e = part.Shape.Distance(p);
                d = -Smooth(-d, part.Act == SculptAct.Cut ? e : -e, part.Blend);
            }
        }

        return _garment.Floor is { } y ? MathF.Max(d, y - p.Y) : d;
    }

    /// <summary>The way straight out of the surface.</summary>
    public Vector3 Normal(Vector3 p, float h)
    {
        var n = new Vector3(
            Distance(p + new Vector3(h, 0, 0)) - Distance(p - new Vector3(h, 0, 0)),
            Distance(p + new Vector3(0, h, 0)) - Distance(p - new Vector3(0, h, 0)),
            Distance(p + new Vector3(0, 0, h)) - Distance(p - new Vector3(0, 0, h))
        );
        return n.LengthSquared() < 1e-14f ? Vector3.UnitY : Vector3.Normalize(n);
    }

    /// <summary>Moves a net vertex onto the surface itself.</summary>
    public Vector3 Settle(Vector3 p, float cell)
    {
        for (var i = 0; i < 3; i++)
        {
            p -= Normal(p, cell * 0.4f) * Math.Clamp(Distance(p), -cell * 0.6f, cell * 0.6f) * 0.8f;
        }

        return p;
    }

    private static float Smooth(float a, float b, float k)
    {
        var h = MathF.Max(k - MathF.Abs(a - b), 0) / k;
        return MathF.Min(a, b) - (h * h * k * 0.25f);
    }
}
