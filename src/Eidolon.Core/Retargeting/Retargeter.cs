using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Clipping;
using Eidolon.Core.Geometry;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>Transfers a motion onto another character: turns between T-pose frames, scaled travel, planted feet and held hands.</summary>
/// <remarks>Gleicher, "Retargetting Motion to New Characters", 1998; Lee &amp; Shin 1999; Kovar et al., "Footskate Cleanup", 2002.</remarks>
public static class Retargeter
{
    /// <param name="source">Motion whose skeleton has roles.</param>
    /// <param name="target">Skeleton with roles; its rest pose should pass the rest check.</param>
    /// <param name="volumes">What of the character may not go into the rest of it; by average proportions when null.</param>
    public static (Motion Motion, RetargetReport Report) Retarget(
        Motion source,
        Skeleton target,
        RetargetSetup? setup = null,
        BodyVolumes? volumes = null,
        CancellationToken cancel = default,
        IProgress<double>? progress = null
    )
    {
        setup ??= new RetargetSetup();
        var sourceWorldTurns = new Quaternion[source.Rotations.Length];
        var sourceWorld = ForwardKinematics.WorldPositions(source, sourceWorldTurns);
        var contacts = BodyContacts.Find(source, setup.Contacts).Joints;
        if (setup.ChangesNothing && SameShape(source.Skeleton, target))
        {
            return Copy(source, target, contacts, volumes);
        }

        var (motion, report) = new RetargetWork(
            source,
            BonePolicy.Apply(source.Skeleton, target, setup.CopiedBones),
            setup,
            sourceWorld,
            sourceWorldTurns,
            contacts,
            GroundLevel.Of(source.Skeleton, sourceWorld, contacts)
        ).Run(volumes, cancel, progress);
        return setup.CopiedBones.Count == 0 ? (motion, report) : (motion.On(target), Stretched(source.Skeleton, target, setup, report));
    }

    /// <summary>The same for a stretch whose contacts, and the ground they stand on, are known from the whole.</summary>
    internal static (Motion Motion, RetargetReport Report) Stretch(
        Motion source,
        Skeleton target,
        RetargetSetup setup,
        IReadOnlyList<Contact> contacts,
        float ground
    )
    {
        var turns = new Quaternion[source.Rotations.Length];
        var world = ForwardKinematics.WorldPositions(source, turns);
        return setup.ChangesNothing && SameShape(source.Skeleton, target)
            ? Copy(source, target, contacts, null)
            : new RetargetWork(
                source,
                BonePolicy.Apply(source.Skeleton, target, setup.CopiedBones),
                setup,
                world,
                turns,
                contacts,
                ground
            ).Run(null, default, null);
    }

    /// <summary>Says that bones have the performer's length.</summary>
    private static RetargetReport Stretched(Skeleton source, Skeleton target, RetargetSetup setup, RetargetReport report)
    {
        var most = BonePolicy.MostStretched(source, target, setup.CopiedBones);
        return most < 0.5
            ? report
            : report with
            {
                Warnings =
                [
                    .. report.Warnings,
                    $"bones have the performer's length: the figure is stretched by up to {most:0} %, for a preview only",
                ],
            };
    }

    /// <summary>Same tree, same lengths, same frames: the motion can be taken over unchanged.</summary>
    private static bool SameShape(Skeleton a, Skeleton b)
    {
        if (a.Count != b.Count)
        {
            return false;
        }

        for (var j = 0; j < a.Count; j++)
        {
            if (
                a.Parents[j] != b.Parents[j]
                || a[j].Role != b[j].Role
                || (j > 0 && (a[j].Offset - b[j].Offset).Length() > 2e-5f)
                || MathF.Abs(Quaternion.Dot(a[j].RestRotation, b[j].RestRotation)) < 0.9999999f
            )
            {
                return false;
            }
        }

        return true;
    }

    private static (Motion, RetargetReport) Copy(Motion source, Skeleton target, IReadOnlyList<Contact> contacts, BodyVolumes? volumes)
    {
        var motion = source.Copy().On(target);
        var turns = new Quaternion[motion.Rotations.Length];
        var world = ForwardKinematics.WorldPositions(motion, turns);
        var held = contacts.Select(c => Held(target, c, world)).ToList();
        var ends = new[] { BodyRole.HandL, BodyRole.HandR, BodyRole.FootL, BodyRole.FootR };
        return (
            motion,
            new RetargetReport(
                1,
                held,
                ends.ToDictionary(r => r, _ => 0.0),
                RetargetSetup.Held.Where(r => target.IndexOf(r) >= 0).ToDictionary(r => r, _ => new float[source.FrameCount]),
                [],
                new FastestTurn(BodyRole.Pelvis, 0, 1),
                ClippingMeasure.Measure(motion, world, turns, volumes),
                ["source and character have the same skeleton: the motion is taken over unchanged"]
            )
        );
    }

    internal static HeldContact Held(Skeleton s, Contact c, Vector3[] world)
    {
        var joint = s.IndexOf(c.Role);
        return new HeldContact(c.Role, s[joint].Name, c.Start, c.End, FootSlideMeasure.Slide(world, s.Count, joint, c.Start, c.End) * 1000);
    }
}
