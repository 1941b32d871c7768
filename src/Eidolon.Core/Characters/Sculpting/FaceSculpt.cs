using System.Numerics;
using Eidolon.Core.Faces;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters.Sculpting;

/// <summary>How eyes, brows and mouth are drawn; centimetres of a head 23.4 high.</summary>
public sealed record FaceForm
{
    /// <summary>Half of an eye's width.</summary>
    public float Eye { get; init; } = .7f;

    /// <summary>How far each eye lies beside the middle.</summary>
    public float Apart { get; init; } = 3.1f;

    /// <summary>Height of the eye line over the middle of the skull.</summary>
    public float Line { get; init; } = -3.9f;

    /// <summary>Thickness of the brows against the usual one; 0 for none.</summary>
    public float Brow { get; init; } = 1;

    /// <summary>Half of the mouth's width.</summary>
    public float Mouth { get; init; } = 2.4f;
}

/// <summary>Eyes that turn, brows and a mouth: drawn parts that lie on the planes of a head.</summary>
public static class FaceSculpt
{
    /// <summary>The drawn parts of a face.</summary>
    public static IEnumerable<Garment> Of(FigureBones bones, HeadSculpt head, SurfaceMaterial ink, SurfaceMaterial hair, FaceForm form)
    {
        var cm = head.Cm;
        var skin = new SculptField(new Garment(ink, cm, head.Parts(bones.Rigid(BodyRole.Head))));
        Vector3 On(float x, float y)
        {
            // From well before the face straight back until the skin is met.
            var p = head.At(x, y, 14);
            for (var k = 0; k < 60 && skin.Distance(p) > 1e-4f; k++)
            {
                p.Z -= MathF.Max(skin.Distance(p) * .8f, 1e-4f);
            }

            return p;
        }

        var rigid = bones.Rigid(BodyRole.Head);
        foreach (var s in new[] { 1f, -1f })
        {
            var role = s > 0 ? BodyRole.EyeL : BodyRole.EyeR;
            var at = On(s * form.Apart, form.Line);
            yield return new Garment(
                ink,
                form.Eye * .36f * cm,
                [
                    new(
                        new Limb(
                            at - new Vector3(0, .0002f, 0),
                            at + new Vector3(0, .0002f, 0),
                            cm,
                            cm,
                            new(form.Eye, form.Eye * 1.25f, form.Eye * .55f)
                        ),
                        bones.Has(role) ? bones.Rigid(role) : rigid,
                        .001f
                    ),
                ]
            )
            {
                Moves = Moves(FacePart.Eye, at, form.Eye * cm),
            };
            if (form.Brow > 0)
            {
                var (a, b, c) = (
                    On(s * (form.Apart - 1.5f), form.Line + 2.1f),
                    On(s * form.Apart, form.Line + 2.45f),
                    On(s * (form.Apart + 1.7f), form.Line + 1.9f)
                );
                var r = .42f * form.Brow * cm;
                yield return new Garment(
                    hair,
                    .4f * cm,
                    [new(new Limb(a, b, r * .9f, r), rigid, .002f), new(new Limb(b, c, r, r * .6f), rigid, .002f)]
                )
                {
                    Moves = Moves(FacePart.Brow, b, 1.6f * cm),
                };
            }
        }

        var (left, middle, right) = (
            On(form.Mouth, -11.15f + FaceShapes.CornersUp),
            On(0, -11.15f),
            On(-form.Mouth, -11.15f + FaceShapes.CornersUp)
        );
        yield return new Garment(
            ink,
            .26f * cm,
            [
                new(new Limb(left, middle, .16f * cm, .24f * cm), rigid, .001f),
                new(new Limb(middle, right, .24f * cm, .16f * cm), rigid, .001f),
            ]
        )
        {
            Moves = Moves(FacePart.Mouth, middle, form.Mouth * cm),
        };

        Func<string, Vector3, Vector3> Moves(FacePart part, Vector3 at, float half) => (unit, p) => head.Move(unit, part, p, at, half);
    }
}
