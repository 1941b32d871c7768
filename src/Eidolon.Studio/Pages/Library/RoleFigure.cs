using Eidolon.Core.Skeletons;

namespace Eidolon.Studio.Pages.Library;

/// <summary>Where each role lies on the mirror figure and its two hands; left is drawn on the left.</summary>
public static class RoleFigure
{
    private static readonly Dictionary<BodyRole, (double X, double Y)> Left = new()
    {
        [BodyRole.Root] = (100, 436),
        [BodyRole.Pelvis] = (100, 206),
        [BodyRole.SpineLower] = (100, 178),
        [BodyRole.SpineMid] = (100, 155),
        [BodyRole.SpineUpper] = (100, 134),
        [BodyRole.Chest] = (100, 112),
        [BodyRole.NeckLower] = (100, 84),
        [BodyRole.Neck] = (100, 66),
        [BodyRole.Head] = (100, 40),
        [BodyRole.ClavicleL] = (80, 84),
        [BodyRole.UpperArmL] = (58, 94),
        [BodyRole.UpperArmTwistL] = (47, 125),
        [BodyRole.ForearmL] = (37, 158),
        [BodyRole.ForearmTwistL] = (29, 184),
        [BodyRole.HandL] = (19, 214),
        [BodyRole.ThighL] = (80, 240),
        [BodyRole.ShinL] = (77, 317),
        [BodyRole.FootL] = (76, 392),
        [BodyRole.ToesL] = (66, 414),
    };

    private static readonly string[] Fingers = ["Thumb", "Index", "Middle", "Ring", "Little"];

    /// <summary>Every role that can be set, with its place in a square of 200.</summary>
    public static IReadOnlyList<(BodyRole Role, double X, double Y, bool Small)> Places { get; } = [.. Body(), .. Hands()];

    private static IEnumerable<(BodyRole, double, double, bool)> Body()
    {
        foreach (var (role, (x, y)) in Left)
        {
            yield return (role, 56 + (0.44 * x), 6 + (0.44 * y), Small(role));
            if (BodyRoles.Mirror(role) != role)
            {
                yield return (BodyRoles.Mirror(role), 56 + (0.44 * (200 - x)), 6 + (0.44 * y), Small(role));
            }
        }
    }

    /// <summary>Fingers as a fan beside each hand: the thumb towards the body.</summary>
    private static IEnumerable<(BodyRole, double, double, bool)> Hands()
    {
        foreach (var side in "LR")
        {
            for (var f = 0; f < Fingers.Length; f++)
            {
                for (var k = 1; k <= 3; k++)
                {
                    var (x, y) = Finger(f, k);
                    yield return (Enum.Parse<BodyRole>($"{Fingers[f]}{side}{k}"), side == 'L' ? x : 200 - x, y, true);
                }
            }
        }
    }

    /// <summary>A finger's joint: they hang from a wrist beside the thigh, the left hand's thumb to the right.</summary>
    internal static (double X, double Y) Finger(int finger, int joint)
    {
        var angle = ((finger == 0 ? 48 : 17 - (12 * (finger - 1))) + 90) * Math.PI / 180;
        var reach = (finger == 0 ? 13 : 24) + (joint - 1) * (finger == 0 ? 9.0 : 8.2);
        return (28 - (Math.Cos(angle) * reach), 112 + (Math.Sin(angle) * reach));
    }

    private static bool Small(BodyRole role) =>
        BodyRoles.Stem(role).EndsWith("Twist", StringComparison.Ordinal) || role is BodyRole.NeckLower or BodyRole.Root;
}
