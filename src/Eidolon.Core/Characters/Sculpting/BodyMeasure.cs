using System.Numerics;

namespace Eidolon.Core.Characters.Sculpting;

/// <summary>Lays shapes along bones: cross-sections in centimetres of the sheet they were drawn on.</summary>
/// <param name="bones">The rig at rest.</param>
/// <param name="cm">Metres a centimetre of the sheet.</param>
public sealed class BodyMeasure(FigureBones bones, float cm)
{
    /// <summary>Metres a centimetre of the sheet.</summary>
    public float Cm => cm;

    /// <summary>The rig.</summary>
    public FigureBones Bones => bones;

    /// <summary>A step in centimetres: to the left, up, ahead.</summary>
    public Vector3 V(float x, float y, float z) => new Vector3(x, y, z) * Cm;

    /// <summary>A loft that stands upright, along a straight line between two places. Sections: share of the way, half-widths, how far ahead its middle is.</summary>
    public Loft Upright(Vector3 from, Vector3 to, params (float T, float Wide, float Front, float Back, float Ahead)[] sections) =>
        new(
            to.Y >= from.Y ? Vector3.UnitX : -Vector3.UnitX,
            [
                .. sections.Select(s => new LoftSection(
                    Vector3.Lerp(from, to, s.T) + V(0, 0, s.Ahead),
                    s.Wide * Cm,
                    s.Front * Cm,
                    s.Back * Cm
                )),
            ]
        );

    /// <summary>A loft through places of the sheet, one above the other. Sections: height, half-widths, how far ahead the middle is.</summary>
    public Loft Stack(params (float Up, float Wide, float Front, float Back, float Ahead)[] sections) =>
        new(
            sections[^1].Up >= sections[0].Up ? Vector3.UnitX : -Vector3.UnitX,
            [.. sections.Select(s => new LoftSection(V(0, s.Up, s.Ahead), s.Wide * Cm, s.Front * Cm, s.Back * Cm))]
        );

    /// <summary>A round bar between two places of the sheet.</summary>
    public Limb Bar(Vector3 a, Vector3 b, float radiusA, float radiusB) => new(a * Cm, b * Cm, radiusA * Cm, radiusB * Cm);

    /// <summary>An egg at a place of the sheet.</summary>
    public Limb Egg(Vector3 at, float wide, float high, float deep) =>
        new((at * Cm) - new Vector3(0, .0005f, 0), (at * Cm) + new Vector3(0, .0005f, 0), Cm, Cm, new Vector3(wide, high, deep));

    /// <summary>A loft along an arm in the T-pose. Sections: share of the way, how far ahead and behind, up, down.</summary>
    public Loft Level(Vector3 from, Vector3 to, params (float T, float Deep, float Up, float Down)[] sections) =>
        new(
            Vector3.UnitZ * (to.X >= from.X ? 1 : -1),
            [.. sections.Select(s => new LoftSection(Vector3.Lerp(from, to, s.T), s.Deep * Cm, s.Up * Cm, s.Down * Cm))]
        );
}
