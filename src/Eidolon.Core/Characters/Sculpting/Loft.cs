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
    private readonly float[] _at;
    private readonly Vector3 _along;
    private readonly Vector3 _across;
    private readonly Vector3 _ahead;
    private readonly float _reach;

    /// <param name="across">Which way is wide; ahead is across × along.</param>
    /// <param name="sections">At least two, each further along the line from the first to the last.</param>
    public Loft(Vector3 across, params LoftSection[] sections)
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(sections.Length, 2);
        _sections = sections;
        _along = Vector3.Normalize(sections[^1].Centre - sections[0].Centre);
        _across = Vector3.Normalize(across - (_along * Vector3.Dot(across, _along)));
        _ahead = Vector3.Cross(_across, _along);
        _at = [.. sections.Select(s => Vector3.Dot(s.Centre - sections[0].Centre, _along))];
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
        var along = Vector3.Dot(p - _sections[0].Centre, _along);
        var i = 0;
        while (i + 2 < _at.Length && along > _at[i + 1])
        {
            i++;
        }

        var inside = Math.Clamp((along - _at[i]) / (_at[i + 1] - _at[i]), 0, 1);
        var beyond = MathF.Max(-along, along - _at[^1]);
        var dome = along < 0 ? DomeA : DomeB;
        // The line through the middles is smooth like the measures: no kink where two stretches meet.
        var x = Vector3.Dot(p, _across) - Between(i, inside, Across);
        var z = Vector3.Dot(p, _ahead) - Between(i, inside, Ahead);
        var wide = Between(i, inside, Wide);
        var deep = Between(i, inside, z >= 0 ? Front : Back);
        var k = Norm(MathF.Abs(x) / wide, MathF.Abs(z) / deep);
        var flat = MathF.Sqrt((x * x) + (z * z));
        if (beyond > 0 && dome > 0)
        {
            var m = MathF.Sqrt((k * k) + (beyond / dome * (beyond / dome)));
            return m < 1e-4f ? -MathF.Min(wide, deep) : (1 - (1 / m)) * MathF.Sqrt((flat * flat) + (beyond * beyond));
        }

        var side = k < 0.05f ? -MathF.Min(wide, deep) : flat * (1 - (1 / k));
        // A flat end meets the side in a round edge.
        var end =
            DomeA > 0 && DomeB > 0
                ? float.MinValue
                : MathF.Max(DomeA > 0 ? float.MinValue : -along, DomeB > 0 ? float.MinValue : along - _at[^1]);
        var round = MathF.Max(Round - MathF.Abs(side - end), 0);
        return side > 0 && end > 0 ? MathF.Sqrt((side * side) + (end * end)) : MathF.Max(side, end) + (round * round / (4 * Round));
    }

    private static float Wide(Loft l, int i) => l._sections[i].Wide;

    private static float Front(Loft l, int i) => l._sections[i].Front;

    private static float Back(Loft l, int i) => l._sections[i].Back;

    private static float Across(Loft l, int i) => Vector3.Dot(l._sections[i].Centre, l._across);

    private static float Ahead(Loft l, int i) => Vector3.Dot(l._sections[i].Centre, l._ahead);

    /// <summary>A measure between sections: a cubic through them that stays between its neighbours (Fritsch and Carlson 1980, limited by the smaller slope).</summary>
    private float Between(int i, float t, Func<Loft, int, float> of)
    {
        float V(int k) => of(this, Math.Clamp(k, 0, _sections.Length - 1));
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
