using System.Numerics;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Faces;

/// <summary>Which drawn part of a face a place belongs to.</summary>
public enum FacePart
{
    /// <summary>The skin under the drawn parts.</summary>
    Skin,

    /// <summary>An eye.</summary>
    Eye,

    /// <summary>A brow.</summary>
    Brow,

    /// <summary>The line of the mouth.</summary>
    Mouth,
}

/// <summary>How each action unit at its full weight moves the parts of a face. Lengths in centimetres of a head 23.4 high; to the left, up, ahead.</summary>
/// <remarks>Directions after Ekman &amp; Friesen, "Facial Action Coding System", 1978; amounts chosen by eye for drawn faces.</remarks>
public static class FaceShapes
{
    /// <summary>How much higher the corners of a mouth at rest lie than its middle.</summary>
    public const float CornersUp = .4f;

    /// <summary>How far a place goes.</summary>
    /// <param name="unit">One of <see cref="FaceUnits.Names"/>.</param>
    /// <param name="p">The place at rest, about the middle of the skull.</param>
    /// <param name="middle">Middle of the part: the eye's, the brow's, the mouth's.</param>
    /// <param name="half">Half of the part's width.</param>
    public static Vector3 Move(string unit, FacePart part, Vector3 p, Vector3 middle, float half)
    {
        var side = FaceUnits.Side(unit);
        if (side != 'C' && part is FacePart.Eye or FacePart.Brow && middle.X > 0 != (side == 'L'))
        {
            return Vector3.Zero;
        }

        var number = int.Parse(unit.AsSpan(2, 2), System.Globalization.CultureInfo.InvariantCulture);
        return part switch
        {
            FacePart.Eye => new Vector3(0, Eye(number, p.Y - middle.Y), 0),
            FacePart.Brow => Brow(number, (MathF.Abs(p.X) - MathF.Abs(middle.X)) / half, MathF.Sign(middle.X)),
            FacePart.Mouth => Mouth(number, side, Math.Clamp((p.X - middle.X) / half, -1, 1), p.Y - middle.Y, half),
            _ => Skin(number, side, p),
        };
    }

    /// <summary>Lids are drawn by the eye itself: shut, it is a line.</summary>
    private static float Eye(int unit, float y) =>
        unit switch
        {
            43 => -.92f * y - .25f,
            7 => -.35f * y,
            6 => -.22f * y + .08f,
            5 => .3f * y,
            9 => -.15f * y,
            _ => 0,
        };

    /// <param name="t">−1 at the inner end, 1 at the outer.</param>
    private static Vector3 Brow(int unit, float t, float sign)
    {
        var inner = Math.Clamp((1 - t) / 2, 0, 1);
        return unit switch
        {
            1 => new(0, .9f * inner, 0),
            2 => new(0, .9f * (1 - inner), 0),
            4 => new(-.28f * sign, -.62f * (.5f + (.5f * inner)), .1f),
            5 => new(0, .22f, 0),
            9 => new(0, -.2f * inner, 0),
            _ => Vector3.Zero,
        };
    }

    /// <param name="x">−1 at the right corner, 1 at the left.</param>
    /// <param name="y">Over the line of the mouth: above is the upper lip.</param>
    private static Vector3 Mouth(int unit, char side, float x, float y, float half)
    {
        // A unit of one side has its whole say at its own corner and none at the other.
        var own = side switch
        {
            'L' => Ease.Smooth((x + .35f) / .7f),
            'R' => Ease.Smooth((.35f - x) / .7f),
            _ => 1,
        };
        // The line rises towards its corners.
        y -= CornersUp * MathF.Abs(x);
        var corner = x * x * own;
        var lip = MathF.Sqrt(MathF.Max(0, 1 - (x * x)));
        var lower = Ease.Smooth((.08f - y) / .16f);
        Vector3 Open(float gap, float narrow) => new(-narrow * x * half, -gap * lip * lower, -.12f * gap * lip * lower);
        var outwards = MathF.Sign(x) * corner;
        return unit switch
        {
            10 => new(0, .4f * lip * (1 - lower) * own, .1f * lip * own),
            11 => new(0, .12f * corner, 0),
            12 => new(.55f * outwards, .75f * corner, -.35f * corner),
            13 => new(.15f * outwards, .5f * corner, -.1f * corner),
            14 => new(.35f * outwards, 0, -.3f * corner),
            15 => new(.1f * outwards, -.7f * corner, -.1f * corner),
            16 => new(0, -.45f * lip * lower * own, 0),
            17 => new(0, .25f * (1 - (x * x * .5f)), .1f),
            18 => new(-.5f * x * half, 0, .35f * lip),
            20 => new(.7f * outwards, -.1f * corner, -.35f * corner),
            22 => new Vector3(-.4f * x * half, 0, .4f * lip) + Open(.45f, 0),
            23 => new(-.12f * x * half, -.5f * y, 0),
            24 => new(0, -.7f * y, -.05f),
            25 => Open(.5f, 0),
            26 => Open(1.7f, .12f),
            27 => Open(2.8f, .22f),
            28 => new(0, -.6f * y, -.25f * lip),
            51 => new(.5f * lip * lower, 0, 0),
            52 => new(-.5f * lip * lower, 0, 0),
            53 => new(0, 0, .3f * lip * lower),
            54 => new(0, 0, -.3f * lip * lower),
            _ => Vector3.Zero,
        };
    }

    private static Vector3 Skin(int unit, char side, Vector3 p)
    {
        var front = Ease.Smooth((p.Z - 1) / 5);
        // The chin and the jaw to the ears, which turn about them; the cheeks; the nose; the brow.
        var jaw = Ease.Smooth((-9.2f - p.Y) / 3.4f) * Ease.Smooth((p.Z + 3) / 7);
        var half =
            side == 'L' ? Ease.Smooth((p.X + .6f) / 1.8f)
            : side == 'R' ? Ease.Smooth((.6f - p.X) / 1.8f)
            : 1;
        float About(float x, float y, float r) =>
            Bell(((MathF.Abs(p.X) - x) * (MathF.Abs(p.X) - x)) + ((p.Y - y) * (p.Y - y)), r) * front * half;
        var cheek = About(4.3f, -7.2f, 3.2f);
        var corner = About(2.8f, -10.6f, 2.2f);
        return unit switch
        {
            1 => new(0, .35f * About(1.6f, -1.6f, 1.8f), 0),
            2 => new(0, .35f * About(4.6f, -1.8f, 1.8f), 0),
            4 => new(0, -.3f * About(2.6f, -1.8f, 2.4f), .12f * About(1.2f, -2, 1.6f)),
            6 => new(0, .4f * cheek, .25f * cheek),
            9 => new(0, .3f * About(1, -6.6f, 1.8f), 0),
            10 => new(0, .25f * About(1.4f, -9.8f, 1.6f), .1f * About(1.4f, -9.8f, 1.6f)),
            12 => new(0, (.45f * cheek) + (.3f * corner), .35f * cheek),
            14 => new(0, 0, -.3f * corner),
            15 => new(0, -.3f * corner, 0),
            17 => new(0, .4f * jaw, .15f * jaw),
            18 or 22 => new(0, 0, .35f * About(0, -10.9f, 2)),
            20 => new(MathF.Sign(p.X) * .3f * corner, 0, 0),
            25 => new(0, -.3f * jaw, 0),
            26 => new(0, -1.35f * jaw, -.45f * jaw),
            27 => new(0, -2.2f * jaw, -.8f * jaw),
            51 => new(.7f * jaw, 0, 0),
            52 => new(-.7f * jaw, 0, 0),
            53 => new(0, 0, .6f * jaw),
            54 => new(0, 0, -.5f * jaw),
            _ => Vector3.Zero,
        };
    }

    private static float Bell(float square, float r) => MathF.Exp(-square / (r * r));
}
