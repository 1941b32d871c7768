using System.Numerics;

namespace Eidolon.Core.Characters.Sculpting;

/// <summary>One cross-section of a <see cref="Loft"/>: half-widths about a place, metres.</summary>
/// <param name="Centre">Where its middle is.</param>
/// <param name="Wide">Half of its width.</param>
/// <param name="Front">How far it reaches ahead of its middle.</param>
/// <param name="Back">How far it reaches behind.</param>
public readonly record struct LoftSection(Vector3 Centre, float Wide, float Front, float Back)
{
    /// <summary>A section as deep behind its middle as ahead.</summary>
    public LoftSection(Vector3 centre, float wide, float deep)
        : this(centre, wide, deep, deep) { }
}

/// <summary>A solid through cross-sections that follow each other: torsos, limbs with a belly, skirts, hats.</summary>
public sealed record Loft : SculptShape
{
    private readonly LoftSection[] _sections;
    private readonly Vector3 _across;
    private readonly float _reach;

    /// <param name="across">Which way is wide; ahead is across × along.</param>
    /// <param name="sections">At least two, one after the other along the solid.</param>
    public Loft(Vector3 across, params LoftSection[] sections)
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(sections.Length, 2);
        (_across, _sections) = (Vector3.Normalize(across), sections);
        _reach = sections.Max(s => MathF.Max(s.Wide, MathF.Max(s.Front, s.Back)));
    }

    /// <summary>Exponent of the cross-section: 2 an ellipse, more is boxier.</summary>
    public float Square { get; init; } = 2;

    /// <summary>Radius of the edge of a flat end, metres.</summary>
    public float Round { get; init; } = 0.006f;

    /// <summary>How far a dome stands over the first section; 0 cuts it flat.</summary>
    public float DomeA { get; init; }

    /// <summary>How far a dome stands over the last section; 0 cuts it flat.</summary>
    public float DomeB { get; init; }

    /// <inheritdoc/>
    public override Vector3 Low => _sections.Aggregate(new Vector3(float.MaxValue), (m, s) => Vector3.Min(m, s.Centre)) - Around;

    /// <inheritdoc/>
    public override Vector3 High => _sections.Aggregate(new Vector3(float.MinValue), (m, s) => Vector3.Max(m, s.Centre)) + Around;

    private Vector3 Around => new(MathF.Max(_reach, MathF.Max(DomeA, DomeB)));

    /// <inheritdoc/>
    public override float Distance(Vector3 p)
    {
        var (i, t) = Nearest(p);
        var (a, b) = (_sections[i], _sections[i + 1]);
        var along = b.Centre - a.Centre;
        var length = along.Length();
        var dir = along / length;
        var inside = Math.Clamp(t, 0, 1);
        var q = p - (a.Centre + (along * inside));
        var beyond =
            i == 0 && t < 0 ? -t * length
            : i == _sections.Length - 2 && t > 1 ? (t - 1) * length
            : 0;
        var dome = t < 0 ? DomeA : DomeB;
        var across = Vector3.Normalize(_across - (dir * Vector3.Dot(_across, dir)));
        var ahead = Vector3.Cross(across, dir);
        var x = Vector3.Dot(q, across);
        var z = Vector3.Dot(q, ahead);
        var wide = Between(i, inside, s => s.Wide);
        var deep = z >= 0 ? Between(i, inside, s => s.Front) : Between(i, inside, s => s.Back);
        var k = Norm(MathF.Abs(x) / wide, MathF.Abs(z) / deep);
        var flat = MathF.Sqrt((x * x) + (z * z));
        if (beyond > 0 && dome > 0)
        {
            var m = MathF.Sqrt((k * k) + (beyond / dome * (beyond / dome)));
            return m < 1e-4f ? -MathF.Min(wide, deep) : (1 - (1 / m)) * MathF.Sqrt((flat * flat) + (beyond * beyond));
        }

        var side = k < 0.05f ? -MathF.Min(wide, deep) : flat * (1 - (1 / k));
        // A flat end meets the side in a round edge.
        var end = End(p);
        var round = MathF.Max(Round - MathF.Abs(side - end), 0);
        return side > 0 && end > 0 ? MathF.Sqrt((side * side) + (end * end)) : MathF.Max(side, end) + (round * round / (4 * Round));
    }

    /// <summary>Signed distance beyond the flat ends, metres; far below zero where both ends are domes.</summary>
    private float End(Vector3 p)
    {
        var d = float.MinValue;
        if (DomeA <= 0)
        {
            d = Vector3.Dot(p - _sections[0].Centre, Vector3.Normalize(_sections[0].Centre - _sections[1].Centre));
        }

        if (DomeB <= 0)
        {
            d = MathF.Max(d, Vector3.Dot(p - _sections[^1].Centre, Vector3.Normalize(_sections[^1].Centre - _sections[^2].Centre)));
        }

        return d;
    }

    /// <summary>The stretch between two sections that a point is nearest to, and how far along it (outside 0 to 1 beyond the ends).</summary>
    private (int Stretch, float T) Nearest(Vector3 p)
    {
        var (best, at, share) = (float.MaxValue, 0, 0f);
        for (var i = 0; i + 1 < _sections.Length; i++)
        {
            var (a, along) = (_sections[i].Centre, _sections[i + 1].Centre - _sections[i].Centre);
            var t = Vector3.Dot(p - a, along) / along.LengthSquared();
            var d = (p - (a + (along * Math.Clamp(t, 0, 1)))).LengthSquared();
            if (d < best)
            {
                (best, at, share) = (d, i, t);
            }
        }

        return (at, share);
    }

    /// <summary>A measure between sections: a cubic through them that stays between its neighbours (Fritsch and Carlson 1980, limited by the smaller slope).</summary>
    private float Between(int i, float t, Func<LoftSection, float> of)
    {
        float V(int k) => of(_sections[Math.Clamp(k, 0, _sections.Length - 1)]);
        var (a, b) = (V(i), V(i + 1));
        float Slope(float before, float after) => before * after <= 0 ? 0 : 2 * before * after / (before + after);
        var here = b - a;
        var ma = i == 0 ? here : Slope(a - V(i - 1), here);
        var mb = i + 2 >= _sections.Length ? here : Slope(here, V(i + 2) - b);
        var (t2, t3) = (t * t, t * t * t);
        return (((2 * t3) - (3 * t2) + 1) * a) + ((t3 - (2 * t2) + t) * ma) + (((-2 * t3) + (3 * t2)) * b) + ((t3 - t2) * mb);
    }

    private float Norm(float x, float z) =>
        Square == 2 ? MathF.Sqrt((x * x) + (z * z)) : MathF.Pow(MathF.Pow(x, Square) + MathF.Pow(z, Square), 1 / Square);
}
