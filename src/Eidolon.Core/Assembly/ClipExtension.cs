using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>
/// A clip with frames that it does not have: it runs on as it went, ever slower, and a foot that stands goes on standing. So clips that were cut
/// short can overlap all the same, and the jolt between them goes.
/// </summary>
internal static class ClipExtension
{
    /// <summary>A speed is down to a third after so long, seconds.</summary>
    private const double SlowsSeconds = 0.08;

    /// <summary>Speeds are taken over so long, seconds.</summary>
    private const double Reach = 0.03;

    /// <summary>With so many frames more at its end.</summary>
    /// <param name="feet">When its feet stand; null for a body without legs.</param>
    public static Motion After(Motion motion, int frames, PlantedFeet? feet) => Extended(motion, frames, motion.FrameCount - 1, -1, feet);

    /// <summary>With so many frames more before its beginning.</summary>
    public static Motion Before(Motion motion, int frames, PlantedFeet? feet) => Extended(motion, frames, 0, 1, feet);

    private static Motion Extended(Motion motion, int frames, int edge, int inward, PlantedFeet? feet)
    {
        var s = motion.Skeleton;
        var n = s.Count;
        var result = new Motion(s, motion.FrameRate, motion.FrameCount + frames)
        {
            FirstFrame = motion.FirstFrame,
            Warnings = motion.Warnings,
        };
        var own = inward < 0 ? 0 : frames * n;
        motion.Rotations.CopyTo(result.Rotations, own);
        motion.Translations.CopyTo(result.Translations, own);
        var reach = Math.Clamp((int)Math.Round(Reach * motion.FrameRate), 1, Math.Max(1, motion.FrameCount - 1));
        var back = Math.Clamp(edge + (inward * reach), 0, motion.FrameCount - 1);
        var slows = SlowsSeconds * motion.FrameRate;
        var (turns, places) = (new Quaternion[n], new Vector3[n]);
        ForwardKinematics.World(motion, edge, turns, places);
        var standing = feet is null
            ? []
            : LimbRoles
                .WithToes.Where(l => feet.Of(BodyRoles.Side(l.Foot))[edge])
                .Select(l => (Leg: l, Place: places[s.IndexOf(l.Foot)], Turn: turns[s.IndexOf(l.Foot)]))
                .ToArray();
        for (var k = 1; k <= frames; k++)
        {
            var at = inward < 0 ? motion.FrameCount - 1 + k : frames - k;
            // So far it would have gone at its speed, were it not slowing down.
            var far = (float)(slows * (1 - Math.Exp(-k / slows)) / Math.Max(1, Math.Abs(edge - back)));
            var r = result.RotationsAt(at);
            var t = result.TranslationsAt(at);
            for (var j = 0; j < n; j++)
            {
                var (now, then) = ((edge * n) + j, (back * n) + j);
                var speed = Rotations.Log(Quaternion.Normalize(Quaternion.Conjugate(motion.Rotations[then]) * motion.Rotations[now]));
                r[j] = Quaternion.Normalize(motion.Rotations[now] * Rotations.Exp(speed * far));
                t[j] = motion.Translations[now] + ((motion.Translations[now] - motion.Translations[then]) * far);
            }

            ForwardKinematics.World(result, at, turns, places);
            foreach (var (leg, place, turn) in standing)
            {
                var limb = new LimbReach(s, leg.Thigh, leg.Shin, leg.Foot);
                limb.Reach(turns, places, place);
                var (upper, lower, foot) = limb.Joints;
                turns[foot] = turn;
                foreach (var j in new[] { upper, lower, foot })
                {
                    r[j] = Quaternion.Normalize(Quaternion.Conjugate(turns[s.Parents[j]]) * turns[j]);
                }

                if (s.IndexOf(leg.Toes) is >= 0 and var toes)
                {
                    r[toes] = motion.Rotations[(edge * n) + toes];
                }
            }
        }

        return result;
    }
}
