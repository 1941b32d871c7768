using System.Numerics;
using Eidolon.Core.Hands;

namespace Eidolon.Core.Characters.Sculpting;

/// <summary>A hand: palm, ball of the thumb, four fingers of three bones and a thumb.</summary>
public static class HandSculpt
{
    private static readonly string[] Long = ["Index", "Middle", "Ring", "Little"];

    /// <summary>Length of the hand from the wrist to the tip of the middle finger, metres.</summary>
    public static float Length(FigureBones bones, char side)
    {
        var middle = FigureBones.Role("Middle", side, 3);
        return bones.Has(middle)
            ? (bones.P(FigureBones.Role("Middle", side, 1)) - bones.P(FigureBones.Role("Hand", side))).Length()
                + (bones.End(middle) - bones.P(FigureBones.Role("Middle", side, 1))).Length()
            : HandShape.LengthShare * bones.Unit;
    }

    /// <summary>The hand as a garment: skin, or a glove.</summary>
    /// <param name="stout">Thickness against the usual one.</param>
    public static Garment Of(FigureBones bones, char side, SurfaceMaterial material, float stout = 1)
    {
        var sign = side == 'L' ? 1f : -1f;
        var length = Length(bones, side);
        var wrist = bones.P(FigureBones.Role("Hand", side));
        var arm = bones.ArmBinding(side);
        Vector3 At(float x, float y, float z) => wrist + (new Vector3(x * sign, y, z) * length);
        LoftSection Section(float x, float y, float z, float deep, float up, float down) =>
            new(At(x, y, z), deep * length * stout, up * length * stout, down * length * stout);
        var parts = new List<SculptPart>
        {
            new(
                new Loft(
                    Vector3.UnitZ * sign,
                    Section(-.07f, 0, 0, .146f, .118f, .118f),
                    Section(.05f, 0, 0, .150f, .110f, .115f),
                    Section(.20f, -.005f, -.005f, .185f, .090f, .105f),
                    Section(.36f, -.005f, -.018f, .202f, .078f, .088f),
                    Section(.45f, -.005f, -.022f, .186f, .054f, .060f)
                )
                {
                    Square = 2.5f,
                    DomeB = .045f * length,
                },
                arm,
                .02f * length
            ),
        };
        var thumb = Finger(bones, side, "Thumb", length);
        parts.Add(new(new Limb(At(.06f, -.035f, .06f), thumb[0], .085f * length * stout, .068f * length * stout), arm, .05f * length));
        Add(parts, bones, side, "Thumb", thumb, .054f * length * stout, .042f * length * stout, .022f * length);
        foreach (var name in Long)
        {
            var thick = (name == "Little" ? .86f : 1) * length * stout;
            Add(parts, bones, side, name, Finger(bones, side, name, length), .0415f * thick, .031f * thick, .016f * length);
        }

        return new Garment(material, .028f * length, parts) { Fade = .006f * length };
    }

    /// <summary>Joints and tip of a finger at rest; a rig without fingers gets an average hand's, a little bent.</summary>
    private static Vector3[] Finger(FigureBones bones, char side, string name, float length)
    {
        if (bones.Has(FigureBones.Role(name, side, 1)))
        {
            var own = new List<Vector3>();
            for (var n = 1; n <= 3 && bones.Has(FigureBones.Role(name, side, n)); n++)
            {
                own.Add(bones.P(FigureBones.Role(name, side, n)));
            }

            own.Add(bones.End(FigureBones.Role(name, side, own.Count)));
            return [.. own];
        }

        var chain = HandShape.Average(side, length).Fingers[HandShape.Names.ToList().IndexOf(name)];
        // A thumb at ease lies nearer to the palm than a stretched one.
        var ease = Quaternion.CreateFromAxisAngle(Vector3.UnitY, name == "Thumb" ? (side == 'L' ? .34f : -.34f) : 0);
        var at = bones.P(FigureBones.Role("Hand", side)) + chain.Base;
        Vector3[] result = [at, at, at, at];
        Vector3[] steps = [chain.Middle, chain.Last, chain.Tip];
        for (var k = 0; k < 3; k++)
        {
            var bent = Quaternion.CreateFromAxisAngle(chain.Bends, .16f * (k + 1));
            result[k + 1] = result[k] + Vector3.Transform(steps[k], ease * bent);
        }

        return result;
    }

    private static void Add(
        List<SculptPart> parts,
        FigureBones bones,
        char side,
        string name,
        Vector3[] joints,
        float root,
        float tip,
        float blend
    )
    {
        var binding = bones.FingerBinding(name, side, root);
        for (var k = 0; k + 1 < joints.Length; k++)
        {
            float R(float t) => root + ((tip - root) * t / (joints.Length - 1));
            var last = k + 2 == joints.Length;
            // The round end lies inside the last bone.
            var end = last ? Vector3.Lerp(joints[k], joints[k + 1], .8f) : joints[k + 1];
            parts.Add(new(new Limb(joints[k], end, R(k), R(k + 1)), binding, blend));
        }
    }
}
