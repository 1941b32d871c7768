using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>Holds planted feet of a motion in place over a range, fading the correction at its ends.</summary>
internal static class FootPin
{
    public static void Hold(Motion motion, int start, int end, IReadOnlyList<ContactEdit> edits)
    {
        var s = motion.Skeleton;
        var n = s.Count;
        var margin = (int)(motion.FrameRate * 0.3);
        int a = Math.Max(0, start - margin),
            b = Math.Min(motion.FrameCount - 1, end + margin);
        var turns = new Quaternion[motion.Rotations.Length];
        var world = ForwardKinematics.WorldPositions(motion, turns);
        var contacts = BodyContacts.Find(motion, edits).Joints;
        foreach (var leg in LimbRoles.WithToes)
        {
            var foot = s.IndexOf(leg.Foot);
            var toes = s.IndexOf(leg.Toes);
            var ankle = Enumerable.Range(0, motion.FrameCount).Select(f => world[(f * n) + foot]).ToArray();
            var footTurns = Enumerable.Range(0, motion.FrameCount).Select(f => turns[(f * n) + foot]).ToArray();
            var hold = new FootHold(leg.Foot, motion.FrameCount, motion.FrameRate);
            hold.Plan(contacts.Where(c => c.Start <= b && c.End >= a).ToList(), ankle, footTurns, toes >= 0 ? s[toes].Offset : null, ankle);
            var limb = new LimbReach(s, leg.Thigh, leg.Shin, leg.Foot);
            for (var f = a; f <= b; f++)
            {
                var ease = Math.Min(1, Math.Min((f - a + 1) / (margin * 0.5f), (b - f + 1) / (margin * 0.5f)));
                var r = turns.AsSpan(f * n, n);
                var p = world.AsSpan(f * n, n);
                var keep = r[foot];
                limb.Reach(r, p, ankle[f] + (hold.Offset[f] * ease));
                r[foot] = hold.Turn[f] is { } t ? Geometry.Rotations.Slerp(keep, t, ease) : keep;
                var (upper, lower, _) = limb.Joints;
                foreach (var j in new[] { upper, lower, foot })
                {
                    var parent = s.Parents[j];
                    motion.Rotations[(f * n) + j] = Quaternion.Normalize(Quaternion.Conjugate(r[parent]) * r[j]);
                }
            }
        }
    }
}
