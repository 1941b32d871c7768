using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Core.Characters;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Operations;
using Eidolon.Core.Quality;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Retargeting;

public sealed class RetargetTests
{
    private static readonly Person Performer = new("Odd", 1.78f, 1.03f, 91);

    private static Motion Act(string scene, int take = 1) => Acts.Perform(scene, Performer, take).Actors[0].Motion;

    private static Skeleton Character(string name) =>
        RoleFinder.Assign(
            GltfReader.GltfBindingOf(GltfReader.Open(HarbourCharacters.Build(name), name + ".glb"), name).Skeleton,
            null,
            name
        );

    [Fact]
    public void The_same_skeleton_in_and_out_changes_nothing()
    {
        var source = Act("lamp-walk");
        var (motion, report) = Retargeter.Retarget(source, source.Skeleton);
        Assert.True(Samples.Worst(source, motion) < 0.01);
        Assert.Equal(1, report.Scale);
    }

    [Theory]
    [InlineData("lamp-walk", "Stevedore")]
    [InlineData("lamp-walk", "Lamplighter")]
    [InlineData("haul-rope", "Stevedore")]
    [InlineData("haul-rope", "Lamplighter")]
    [InlineData("gangplank-hop", "Stevedore")]
    [InlineData("gangplank-hop", "Lamplighter")]
    public void Planted_feet_slide_at_most_a_millimetre_a_contact(string scene, string character)
    {
        var (motion, report) = Retargeter.Retarget(Act(scene), Character(character));
        Assert.True(report.Contacts.Count >= 6);
        Assert.All(report.Contacts, c =>
            Assert.True(c.SlideMillimetres <= 1, $"{c.Joint} {c.Start}-{c.End} slides {c.SlideMillimetres:0.00} mm")
        );
        // The report is not taken at its word: the written motion is measured again.
        var world = ForwardKinematics.WorldPositions(motion);
        Assert.All(report.Contacts, c =>
            Assert.True(FootSlideMeasure.Slide(world, motion.Skeleton.Count, motion.Skeleton.IndexOf(c.Joint), c.Start, c.End) < 0.001)
        );
        Assert.True(MotionQuality.Measure(motion).BoneDrift < 0.01);
    }

    [Fact]
    public void Joint_axes_and_names_of_a_rig_do_not_matter()
    {
        var body = Anthropometry.Body(1.6f);
        var source = Act("haul-rope");
        var (plain, _) = Retargeter.Retarget(source, body);
        foreach (var axis in new[] { 0, 1, 2 })
        {
            var rig = Rig(body, axis);
            var (motion, _) = Retargeter.Retarget(source, rig);
            var a = ForwardKinematics.WorldPositions(plain);
            var b = ForwardKinematics.WorldPositions(motion);
            Assert.True(a.Zip(b, (p, q) => (p - q).Length()).Max() < 0.001f);
        }
    }

    [Fact]
    public void Trunk_collarbones_and_forearms_share_what_is_turned_as_they_are_told()
    {
        var source = Act("haul-rope");
        var character = Character("Stevedore");
        Motion With(RetargetSetup setup) => Retargeter.Retarget(source, character, setup).Motion;
        var plain = With(new RetargetSetup());
        float Most(Motion a, Motion b, BodyRole role)
        {
            var j = character.IndexOf(role);
            var (x, y) = (Turned(a), Turned(b));
            return Enumerable.Range(0, source.FrameCount).Max(f => Apart(x[(f * character.Count) + j], y[(f * character.Count) + j]));
        }

        // The trunk bends elsewhere; its upper end and the head turn the same.
        var low = With(new RetargetSetup { Spine = -1 });
        Assert.InRange(Most(plain, low, BodyRole.SpineLower), 2, 60);
        Assert.InRange(Most(plain, low, BodyRole.Chest), 0, .5f);
        Assert.InRange(Most(plain, low, BodyRole.Head), 0, .5f);
        var (bent, straight) = (Bent(low), Bent(With(new RetargetSetup { Spine = 1 })));
        Assert.True(bent > straight + 2, $"lower down {bent}, higher up {straight}");
        float Bent(Motion m)
        {
            var (turns, pelvis, lower) = (Turned(m), character.IndexOf(BodyRole.Pelvis), character.IndexOf(BodyRole.SpineLower));
            return Enumerable
                .Range(0, m.FrameCount)
                .Average(f => Apart(turns[(f * character.Count) + pelvis], turns[(f * character.Count) + lower]));
        }

        // Collarbones stay with the chest, or go twice as far; upper arms turn as before.
        var still = With(new RetargetSetup { Shoulder = 0 });
        var (chest, clavicle) = (character.IndexOf(BodyRole.Chest), character.IndexOf(BodyRole.ClavicleL));
        float Raised(Motion m) =>
            Turned(m) is var t
                ? Enumerable
                    .Range(0, m.FrameCount)
                    .Max(f =>
                        Apart(
                            Quaternion.Conjugate(t[(f * character.Count) + chest]) * t[(f * character.Count) + clavicle],
                            Quaternion.Conjugate(character.RestRotations[chest]) * character.RestRotations[clavicle]
                        )
                    )
                : 0;
        var usual = Raised(plain);
        Assert.True(Raised(With(new RetargetSetup { Shoulder = 2 })) > 1.5f * usual && Raised(still) < usual - 1);
        Assert.InRange(Most(plain, still, BodyRole.UpperArmL), 0, .5f);
        // A hand's turn about the forearm goes to its twist joint, or does not.
        var hand = source.Skeleton.IndexOf(BodyRole.HandL);
        var turned = source.Copy();
        var about = Quaternion.CreateFromAxisAngle(Vector3.Normalize(source.Skeleton[hand].Offset), 1);
        for (var f = 0; f < turned.FrameCount; f++)
        {
            turned.RotationsAt(f)[hand] = Quaternion.Normalize(about * turned.RotationsAt(f)[hand]);
        }

        Motion Twisted(float share) => Retargeter.Retarget(turned, character, new RetargetSetup { Twist = share }).Motion;
        Assert.InRange(Most(Twisted(0), Twisted(1), BodyRole.ForearmTwistL), 45, 75);
        Assert.InRange(Most(Twisted(0), Twisted(1), BodyRole.HandL), 0, .5f);
    }

    private static float Apart(Quaternion a, Quaternion b) => 2 * MathF.Acos(Math.Min(1, MathF.Abs(Quaternion.Dot(a, b)))) * 180 / MathF.PI;

    private static Quaternion[] Turned(Motion motion)
    {
        var turns = new Quaternion[motion.Rotations.Length];
        ForwardKinematics.WorldPositions(motion, turns);
        return turns;
    }

    [Fact]
    public void Copied_bones_have_the_performers_length_and_the_report_says_that_it_is_a_stretch()
    {
        var source = Act("lamp-walk");
        var character = Character("Lamplighter");
        var arms = BonePolicy.Branches.Single(b => b.Name == "arms").Bones.ToHashSet();
        var (motion, report) = Retargeter.Retarget(source, character, new RetargetSetup { CopiedBones = arms });
        var (own, its) = (ForwardKinematics.WorldPositions(motion), ForwardKinematics.WorldPositions(source));
        float Length(Vector3[] world, Skeleton s, int f, BodyRole a, BodyRole b) =>
            Vector3.Distance(world[(f * s.Count) + s.IndexOf(a)], world[(f * s.Count) + s.IndexOf(b)]);
        foreach (var f in new[] { 0, source.FrameCount / 2, source.FrameCount - 1 })
        {
            foreach (var (a, b) in new[] { (BodyRole.UpperArmL, BodyRole.ForearmL), (BodyRole.ForearmR, BodyRole.HandR) })
            {
                Assert.Equal(Length(its, source.Skeleton, f, a, b), Length(own, motion.Skeleton, f, a, b), 1e-4f);
            }

            // What was not copied keeps the character's.
            Assert.Equal(
                (
                    character.RestPositions[character.IndexOf(BodyRole.ShinL)] - character.RestPositions[character.IndexOf(BodyRole.ThighL)]
                ).Length(),
                Length(own, motion.Skeleton, f, BodyRole.ThighL, BodyRole.ShinL),
                1e-4f
            );
        }

        Assert.Contains(report.Warnings, w => w.Contains("for a preview only", StringComparison.Ordinal));
        var (_, kept) = Retargeter.Retarget(source, character);
        Assert.DoesNotContain(kept.Warnings, w => w.Contains("preview", StringComparison.Ordinal));
        Assert.All(report.Contacts, c => Assert.True(c.SlideMillimetres <= 1));
        // Nothing is copied where nothing differs.
        Assert.Equal(0, BonePolicy.MostStretched(source.Skeleton, source.Skeleton, arms), 3);
        var wrong = Assert.Throws<RefusedException>(() =>
            RetargetOperation.SetupFrom(new JsonObject { ["copyBones"] = new JsonArray("Tail") })
        );
        Assert.Contains("Tail", wrong.Message, StringComparison.Ordinal);
        Assert.Throws<RefusedException>(() => RetargetOperation.SetupFrom(new JsonObject { ["spine"] = 101 }));
    }

    [Fact]
    public void A_rest_pose_with_low_arms_gives_the_same_motion()
    {
        var body = Anthropometry.Body(1.8f);
        var lowered = Lowered(body, 45);
        var source = Act("lamp-walk");
        var hand = body.IndexOf(BodyRole.HandL);
        var a = ForwardKinematics.WorldPositions(Retargeter.Retarget(source, body).Motion);
        var b = ForwardKinematics.WorldPositions(Retargeter.Retarget(source, lowered).Motion);
        for (var f = 0; f < source.FrameCount; f += 37)
        {
            Assert.True((a[(f * body.Count) + hand] - b[(f * body.Count) + hand]).Length() < 0.02f);
        }
    }

    [Fact]
    public void A_hand_held_at_a_hundred_percent_is_where_the_performers_is()
    {
        var source = Act("haul-rope");
        var target = Anthropometry.Body(1.76f, 1.2f);
        var setup = new RetargetSetup { ScaleTravel = false }
            .With(BodyRole.HandL, 1)
            .With(BodyRole.HandR, 1);
        var (_, report) = Retargeter.Retarget(source, target, setup);
        Assert.True(
            report.HoldErrors[BodyRole.HandL] <= 0.5 && report.HoldErrors[BodyRole.HandR] <= 0.5,
            string.Join(" ", report.HoldErrors)
        );
        Assert.True(report.Drift[BodyRole.HandL].Max() <= 0.5, $"{report.Drift[BodyRole.HandL].Max()}");
    }

    [Fact]
    public void No_joint_jumps_more_than_the_source_does()
    {
        var source = Act("gangplank-hop");
        var (motion, _) = Retargeter.Retarget(source, Character("Lamplighter"));
        Assert.True(Jump(motion) < 1.6f * Jump(source), $"{Jump(motion)} against {Jump(source)}");
    }

    private static float Jump(Motion m)
    {
        var p = ForwardKinematics.WorldPositions(m);
        var n = m.Skeleton.Count;
        float worst = 0;
        for (var k = n; k < p.Length - n; k++)
        {
            worst = MathF.Max(worst, (p[k + n] - (2 * p[k]) + p[k - n]).Length());
        }

        return worst;
    }

    private static Skeleton Rig(Skeleton body, int axis)
    {
        var world = body.Joints.Select((_, j) => Core.Geometry.Rotations.AboutAxis(axis, 0.3 + (j * 0.7))).ToArray();
        return new Skeleton(
            body.Joints.Select(
                (joint, j) =>
                {
                    var up = joint.Parent < 0 ? Quaternion.Identity : Quaternion.Conjugate(world[joint.Parent]);
                    return joint with
                    {
                        Name = $"n{j}",
                        Offset = joint.Parent < 0 ? joint.Offset : Vector3.Transform(joint.Offset, up),
                        RestRotation = Quaternion.Normalize(up * world[j]),
                        EndSite = null,
                    };
                }
            )
        );
    }

    [Theory]
    [InlineData("L", 80)]
    [InlineData("R", -60)]
    public void A_forearms_twist_joint_takes_half_of_the_hands_turn(string side, double degrees)
    {
        var source = Act("lamp-walk");
        var hand = source.Skeleton.IndexOf("Hand" + side);
        var target = Character("Stevedore");
        var (straight, _) = Retargeter.Retarget(source, target);
        var turned = source.Copy();
        var axis = Vector3.Normalize(source.Skeleton[hand].Offset);
        for (var f = 0; f < turned.FrameCount; f++)
        {
            var r = turned.RotationsAt(f);
            r[hand] = Quaternion.Normalize(Quaternion.CreateFromAxisAngle(axis, (float)(degrees * Math.PI / 180)) * r[hand]);
        }

        var (motion, _) = Retargeter.Retarget(turned, target);
        int twist = target.IndexOf(Enum.Parse<BodyRole>("ForearmTwist" + side)),
            own = target.IndexOf(Enum.Parse<BodyRole>("Hand" + side));
        Assert.True(twist >= 0);
        var (a, b) = (new Quaternion[target.Count], new Quaternion[target.Count]);
        var places = new Vector3[target.Count];
        for (var f = 0; f < motion.FrameCount; f += 50)
        {
            ForwardKinematics.World(straight, f, a, places);
            ForwardKinematics.World(motion, f, b, places);
            var whole = Core.Geometry.Rotations.Angle(a[own], b[own]) * 180 / Math.PI;
            var half = Core.Geometry.Rotations.Angle(a[twist], b[twist]) * 180 / Math.PI;
            Assert.Equal(Math.Abs(degrees), whole, 4.0);
            Assert.InRange(half, whole * 0.4, whole * 0.6);
        }
    }

    private static Skeleton Lowered(Skeleton body, double degrees) =>
        new(
            body.Joints.Select(j =>
                j.Role switch
                {
                    BodyRole.UpperArmL => j with { RestRotation = Core.Geometry.Rotations.AboutAxis(2, -degrees * Math.PI / 180) },
                    BodyRole.UpperArmR => j with { RestRotation = Core.Geometry.Rotations.AboutAxis(2, degrees * Math.PI / 180) },
                    _ => j,
                }
            )
        );
}
