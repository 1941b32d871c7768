using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Geometry;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>
/// Joins clips on one skeleton: each later clip is moved on the floor to meet the one before, and the overlap blends; planted feet are held
/// through it.
/// </summary>
public static class ClipJoiner
{
    /// <summary>Joins clips one after another; each overlaps the next by <paramref name="overlap"/> frames.</summary>
    public static BakedMotion Join(IReadOnlyList<ClipMotion> clips, int overlap)
    {
        var result = clips[0].Motion;
        var contacts = clips[0].Contacts.ToList();
        var reports = new List<OverlapReport>();
        foreach (var clip in clips.Skip(1))
        {
            var next = clip.Motion;
            if (next.Skeleton.Count != result.Skeleton.Count || Math.Abs(next.FrameRate - result.FrameRate) > 1e-6)
            {
                throw new ArgumentException("clips must be on the same character and at the same frame rate");
            }

            var length = Math.Clamp(overlap, 2, Math.Min(result.FrameCount, next.FrameCount) - 1);
            var start = result.FrameCount - length;
            var (turn, shift) = Align(result, start, next, length);
            var moved = Move(next, turn, shift);
            result = Blend(result, moved, length);
            contacts.AddRange(clip.Contacts.Select(c => c with { Start = c.Start + start, End = c.End + start }));
            var slide = HoldFeet(result, start, start + length - 1, contacts);
            reports.Add(new OverlapReport(start, start + length - 1, shift.Length(), Rotations.Log(turn).Length() * 180 / Math.PI, slide));
        }

        return new BakedMotion(result, reports, contacts);
    }

    /// <summary>The heading turn and floor shift that bring the joints of the later clip's overlap closest to the earlier's.</summary>
    private static (Quaternion Turn, Vector3 Shift) Align(Motion a, int start, Motion b, int length)
    {
        var fit = default(FloorFit);
        var step = Math.Max(1, length / 8);
        var count = a.Skeleton.Count;
        Span<Quaternion> turns = new Quaternion[count];
        var (pa, pb) = (new Vector3[count], new Vector3[count]);
        for (var f = 0; f < length; f += step)
        {
            ForwardKinematics.World(a, start + f, turns, pa);
            ForwardKinematics.World(b, f, turns, pb);
            fit.Add(pa, pb);
        }

        return fit.Lay();
    }

    private static Motion Move(Motion motion, Quaternion turn, Vector3 shift)
    {
        var result = motion.Copy();
        var s = motion.Skeleton;
        var pelvis = Math.Max(0, s.IndexOf(BodyRole.Pelvis));
        for (var f = 0; f < motion.FrameCount; f++)
        {
            var r = result.RotationsAt(f);
            var t = result.TranslationsAt(f);
            var above = s.Parents[pelvis] < 0 ? Quaternion.Identity : RestAbove(s, pelvis);
            var local = Quaternion.Normalize(Quaternion.Conjugate(above) * turn * above);
            r[pelvis] = Quaternion.Normalize(local * r[pelvis]);
            t[pelvis] = Vector3.Transform(t[pelvis], local) + Vector3.Transform(shift, Quaternion.Conjugate(above));
        }

        return result;
    }

    private static Quaternion RestAbove(Skeleton s, int joint) => s.RestRotations[s.Parents[joint]];

    private static Motion Blend(Motion a, Motion b, int length)
    {
        var n = a.Skeleton.Count;
        var start = a.FrameCount - length;
        var result = new Motion(a.Skeleton, a.FrameRate, start + b.FrameCount) { FirstFrame = a.FirstFrame };
        a.Rotations.AsSpan(0, start * n).CopyTo(result.Rotations);
        a.Translations.AsSpan(0, start * n).CopyTo(result.Translations);
        b.Rotations.AsSpan(length * n).CopyTo(result.Rotations.AsSpan((start + length) * n));
        b.Translations.AsSpan(length * n).CopyTo(result.Translations.AsSpan((start + length) * n));
        for (var f = 0; f < length; f++)
        {
            var w = CubicSpline.MinimumJerk((f + 1) / (float)(length + 1));
            for (var j = 0; j < n; j++)
            {
                var at = ((start + f) * n) + j;
                result.Rotations[at] = Quaternion.Normalize(Rotations.Slerp(a.Rotations[at], b.Rotations[(f * n) + j], w));
                result.Translations[at] = Vector3.Lerp(a.Translations[at], b.Translations[(f * n) + j], w);
            }
        }

        return result;
    }

    /// <summary>Feet that stand during the overlap are held at one place by the legs; returns the worst slide left, millimetres.</summary>
    private static double HoldFeet(Motion motion, int start, int end, IReadOnlyList<ContactEdit> edits)
    {
        if (BodyRoles.Required.Any(r => motion.Skeleton.IndexOf(r) < 0))
        {
            return double.NaN;
        }

        Retargeting.FootPin.Hold(motion, start, end, edits);
        var world = ForwardKinematics.WorldPositions(motion);
        double worst = 0;
        foreach (var c in BodyContacts.Find(motion, edits).Joints)
        {
            int a = Math.Max(c.Start, start),
                b = Math.Min(c.End, end);
            if (b > a)
            {
                worst = Math.Max(worst, FootSlideMeasure.Slide(world, motion.Skeleton.Count, motion.Skeleton.IndexOf(c.Role), a, b) * 1000);
            }
        }

        return worst;
    }
}
