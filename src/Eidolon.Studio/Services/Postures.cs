using System.Globalization;
using System.Numerics;
using System.Text;
using Eidolon.Core.Skeletons;

namespace Eidolon.Studio.Services;

/// <summary>A row of small figures that says what a take is: six moments, seen from the performer's front left.</summary>
public static class Postures
{
    private const int Moments = 6;

    private static readonly (BodyRole From, BodyRole To, string Class)[] Bones =
    [
        (BodyRole.ThighR, BodyRole.ShinR, "pr"),
        (BodyRole.ShinR, BodyRole.FootR, "pr"),
        (BodyRole.FootR, BodyRole.ToesR, "pr"),
        (BodyRole.UpperArmR, BodyRole.ForearmR, "pr"),
        (BodyRole.ForearmR, BodyRole.HandR, "pr"),
        (BodyRole.Pelvis, BodyRole.Chest, "pc pt"),
        (BodyRole.Chest, BodyRole.Neck, "pc pt"),
        (BodyRole.UpperArmL, BodyRole.UpperArmR, "pc"),
        (BodyRole.ThighL, BodyRole.ThighR, "pc"),
        (BodyRole.ThighL, BodyRole.ShinL, "pl"),
        (BodyRole.ShinL, BodyRole.FootL, "pl"),
        (BodyRole.FootL, BodyRole.ToesL, "pl"),
        (BodyRole.UpperArmL, BodyRole.ForearmL, "pl"),
        (BodyRole.ForearmL, BodyRole.HandL, "pl"),
    ];

    public static string Svg(Motion motion)
    {
        var s = motion.Skeleton;
        if (Bones.Any(b => s.IndexOf(b.From) < 0 || s.IndexOf(b.To) < 0))
        {
            return string.Empty;
        }

        var text = new StringBuilder(
            "<svg class=\"e-postures\" viewBox=\"0 0 156 32\" aria-hidden=\"true\"><path class=\"pf\" d=\"M0 30.5H156\"/>"
        );
        var turns = new Quaternion[s.Count];
        var p = new Vector3[s.Count];
        for (var k = 0; k < Moments; k++)
        {
            ForwardKinematics.World(motion, (int)((k + 0.5) * motion.FrameCount / Moments), turns, p);
            var pelvis = p[s.IndexOf(BodyRole.Pelvis)];
            // Seen from front left of the way the hips face at that moment.
            var yaw = -MathF.Atan2(Vector3.Transform(Vector3.UnitZ, turns[0]).X, Vector3.Transform(Vector3.UnitZ, turns[0]).Z) + 0.9f;
            (float X, float Y) At(BodyRole r)
            {
                var d = p[s.IndexOf(r)] - pelvis;
                var x = (d.X * MathF.Cos(yaw)) + (d.Z * MathF.Sin(yaw));
                return (13 + (k * 26) + (x * 15.5f), 30 - (p[s.IndexOf(r)].Y * 15.5f));
            }

            foreach (var b in Bones)
            {
                var (a, c) = (At(b.From), At(b.To));
                text.Append(CultureInfo.InvariantCulture, $"<path class=\"{b.Class}\" d=\"M{a.X:0.0} {a.Y:0.0}L{c.X:0.0} {c.Y:0.0}\"/>");
            }

            var head = At(BodyRole.Head);
            text.Append(CultureInfo.InvariantCulture, $"<circle class=\"ph\" cx=\"{head.X:0.0}\" cy=\"{head.Y - 1.2f:0.0}\" r=\"1.9\"/>");
        }

        return text.Append("</svg>").ToString();
    }
}
