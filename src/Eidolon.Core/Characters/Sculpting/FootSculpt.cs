using System.Numerics;

namespace Eidolon.Core.Characters.Sculpting;

/// <summary>What is worn on a foot: measures in centimetres of the body's sheet.</summary>
/// <param name="Length">Of the sole.</param>
/// <param name="Wide">Of the sole at the ball.</param>
/// <param name="High">Of the instep.</param>
/// <param name="Sole">Thickness of the sole.</param>
public sealed record ShoeForm(float Length, float Wide, float High, float Sole);

/// <summary>A shoe with a sole that bends at the ball.</summary>
public static class FootSculpt
{
    /// <summary>The upper and the sole.</summary>
    public static IEnumerable<Garment> Of(BodyMeasure m, char side, ShoeForm form, SurfaceMaterial upper, SurfaceMaterial sole, float cell)
    {
        var bones = m.Bones;
        var ankle = bones.P(FigureBones.Role("Foot", side));
        var toes = bones.Has(FigureBones.Role("Toes", side)) ? bones.P(FigureBones.Role("Toes", side)) : ankle + m.V(0, -7, 12);
        var way = Vector3.Normalize((toes - ankle) with { Y = 0 });
        var across = Vector3.Cross(Vector3.UnitY, way);
        // On the floor where the rig stands on it; otherwise under its own toes.
        var ground = MathF.Abs(bones.Skeleton.RestPositions.Min(p => p.Y)) < .08f ? 0 : toes.Y - (1.6f * m.Cm);
        var heel = (ankle with { Y = ground }) - (way * (form.Length * .235f * m.Cm));
        var binding = bones.LegBinding(side);
        Vector3 At(float z, float y) => heel + (way * (form.Length * z * m.Cm)) + new Vector3(0, y * m.Cm, 0);
        // Along the foot, wide across; ahead of the section is down, behind it up.
        LoftSection S(float z, float wide, float up) =>
            new(At(z, form.Sole), form.Wide * wide * m.Cm / 2, (form.Sole + .4f) * m.Cm, form.High * up * m.Cm);
        Loft Last(float more) =>
            new(
                across,
                S(.10f, .66f * more, .72f),
                S(.24f, .70f * more, .98f),
                S(.40f, .72f * more, .92f),
                S(.58f, .88f * more, .62f),
                S(.74f, 1.0f * more, .40f),
                S(.90f, .84f * more, .30f)
            )
            {
                Square = 2.6f,
                DomeA = .10f * form.Length * m.Cm,
                DomeB = .10f * form.Length * m.Cm,
            };
        yield return new Garment(
            upper,
            cell,
            [
                new(Last(1), binding, .01f),
                new(
                    new Limb(
                        ankle + m.V(0, 2.2f, -.6f),
                        (ankle with { Y = ground }) + m.V(0, form.High * .75f, 0),
                        form.High * .46f * m.Cm,
                        form.High * .56f * m.Cm,
                        new(.92f, 1, 1.12f)
                    ),
                    binding,
                    2.4f * m.Cm
                ),
            ]
        )
        {
            Floor = ground + (form.Sole * .8f * m.Cm),
        };
        yield return new Garment(
            sole,
            cell * .8f,
            [
                new(Last(1.07f), binding, .01f),
                new(new Limb(At(-5, form.Sole - 200), At(5, form.Sole - 200), 200 * m.Cm, 200 * m.Cm), null, .4f * m.Cm, SculptAct.Keep),
            ]
        )
        {
            Floor = ground + .002f,
        };
    }
}
