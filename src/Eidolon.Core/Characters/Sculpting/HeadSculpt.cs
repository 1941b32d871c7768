using System.Numerics;
using Eidolon.Core.Faces;

namespace Eidolon.Core.Characters.Sculpting;

/// <summary>How a head differs from the plain one; lengths in centimetres of a head 23.4 high.</summary>
public sealed record HeadForm
{
    /// <summary>Width of the skull against the plain one.</summary>
    public float Wide { get; init; } = 1;

    /// <summary>Depth of the skull against the plain one.</summary>
    public float Deep { get; init; } = 1;

    /// <summary>Width of the jaw against the plain one.</summary>
    public float Jaw { get; init; } = 1;

    /// <summary>How far the chin stands out further than the plain one.</summary>
    public float Chin { get; init; }

    /// <summary>How far the brow stands out further than the plain one.</summary>
    public float Brow { get; init; }

    /// <summary>How strongly the cheekbones stand out against the plain ones; 0 for none.</summary>
    public float Cheek { get; init; } = 1;

    /// <summary>Length of the nose against the plain one; 0 for none.</summary>
    public float Nose { get; init; } = 1;

    /// <summary>Size of the ears against the plain one; 0 for none.</summary>
    public float Ears { get; init; } = 1;
}

/// <summary>A head in planes: skull, brow, nose, cheeks, jaw, ears.</summary>
/// <param name="origin">Middle of the skull, 8 cm under the crown of a plain head.</param>
/// <param name="cm">Metres a centimetre of the plain head.</param>
public sealed class HeadSculpt(Vector3 origin, float cm, HeadForm form)
{
    /// <summary>Metres a centimetre of the plain head.</summary>
    public float Cm => cm;

    /// <summary>A place on the head: to the left, up, ahead, centimetres.</summary>
    public Vector3 At(float x, float y, float z) => origin + (new Vector3(x * form.Wide, y, z * form.Deep) * cm);

    /// <summary>How far a place of the face goes for a unit at its full weight, metres.</summary>
    public Vector3 Move(string unit, FacePart part, Vector3 p, Vector3 middle, float half) =>
        FaceShapes.Move(unit, part, (p - origin) / cm, (middle - origin) / cm, half / cm) * cm;

    /// <summary>How far a place of the skin goes.</summary>
    public Vector3 MoveSkin(string unit, Vector3 p) => Move(unit, FacePart.Skin, p, origin, cm);

    /// <summary>Its parts, without the neck.</summary>
    public IReadOnlyList<SculptPart> Parts(SkinBinding binding)
    {
        SculptPart Part(SculptShape shape, float blend) => new(shape, binding, blend * cm);
        LoftSection Section(float y, float z, float wide, float front, float back) =>
            new(At(0, y, z), wide * form.Wide * cm, front * form.Deep * cm, back * form.Deep * cm);
        Limb Ball(Vector3 at, float r, Vector3 squash) => new(at, at + new Vector3(0, .001f, 0), r * cm, r * cm, squash);
        var j = form.Jaw;
        var parts = new List<SculptPart>
        {
            Part(Ball(At(0, -1.6f, -.6f), 9.55f, new(.80f * form.Wide, 1, .98f * form.Deep)), 2),
            Part(
                new Loft(
                    -Vector3.UnitX,
                    Section(-.5f, 1.4f, 6.7f, 7.3f, 6),
                    Section(-5.5f, 1.5f, 6.4f * ((j + 1) / 2), 7.2f, 6),
                    Section(-10, 1.7f, 5.5f * j, 7.1f, 5),
                    Section(-13.3f, 2.2f, 4.1f * j, 6.7f + form.Chin, 3.5f)
                )
                {
                    Square = 2.4f,
                    DomeA = 2 * cm,
                    DomeB = 2.1f * cm,
                },
                3
            ),
        };
        foreach (var s in new[] { 1f, -1f })
        {
            parts.Add(
                Part(new Limb(At(s * 1.2f, -1.6f, 8.0f + form.Brow), At(s * 4.4f, -1.9f, 6.7f + form.Brow), 1.25f * cm, 1.1f * cm), 1.6f)
            );
            if (form.Cheek > 0)
            {
                parts.Add(Part(Ball(At(s * 4.1f, -6.3f, 4.7f + (1.2f * form.Cheek)), 2.1f, new(1, 1, .8f)), 2.4f));
            }

            if (form.Ears > 0)
            {
                parts.Add(Part(Ball(At(s * 7.3f, -4.6f, -.9f), 2.9f * form.Ears, new(.38f, 1, .66f)), .7f));
            }
        }

        // A socket under the brow, where the eye lies.
        foreach (var s in new[] { 1f, -1f })
        {
            parts.Add(new(Ball(At(s * 3.1f, -4.1f, 9.6f), 1.7f, new(1.25f, .8f, 1)), null, 1.4f * cm, SculptAct.Cut));
        }

        if (form.Nose > 0)
        {
            var tip = 9.3f + (1.7f * form.Nose);
            parts.Add(Part(new Limb(At(0, -2.6f, 8.5f), At(0, -7.6f, tip), .75f * cm, 1.25f * cm, new(.9f, 1, 1)), .9f));
            parts.Add(Part(Ball(At(0, -8.0f, tip - .7f), 1.2f, new(1.45f, .75f, 1)), .7f));
        }

        parts.Add(Part(new Limb(At(1.5f, -10.9f, 8.3f), At(-1.5f, -10.9f, 8.3f), .95f * cm, .95f * cm), 1.2f));
        return parts;
    }
}
