using System.Numerics;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Geometry;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Retargeting;

/// <summary>What is held where: feet on the floor, hands, elbows, knees and heads at the performer's places.</summary>
public sealed class HoldTests
{
    private static readonly Motion Haul = Act("haul-rope", HarbourCast.Tobi);

    private static readonly Skeleton Lamplighter = Character("Lamplighter");

    private static Motion Act(string scene, Person person, double rate = 120) => Acts.Perform(scene, person, 1, rate).Actors[0].Motion;

    private static Skeleton Character(string name) =>
        RoleFinder.Assign(
            GltfReader.GltfBindingOf(GltfReader.Open(HarbourCharacters.Build(name), name + ".glb"), name).Skeleton,
            null,
            name
        );

    private static RetargetSetup Footprints => new() { ScaleTravel = false };

    private static RetargetSetup BothHands => Footprints.With(BodyRole.HandL, 1).With(BodyRole.HandR, 1);

    /// <summary>World places and turns.</summary>
    private sealed class Seen
    {
        private readonly Motion _motion;
        private readonly Vector3[] _places;
        private readonly Quaternion[] _turns;

        public Seen(Motion motion)
        {
            _motion = motion;
            _turns = new Quaternion[motion.Rotations.Length];
            _places = ForwardKinematics.WorldPositions(motion, _turns);
        }

        public Vector3 Place(int f, BodyRole role) => _places[(f * _motion.Skeleton.Count) + _motion.Skeleton.IndexOf(role)];

        public Quaternion Turn(int f, BodyRole role) => _turns[(f * _motion.Skeleton.Count) + _motion.Skeleton.IndexOf(role)];
    }

    [Theory]
    [InlineData("lamp-walk", 1.10f, "Stevedore", 120)]
    [InlineData("gangplank-hop", 1.10f, "Stevedore", 120)]
    [InlineData("crate-carry", 2.05f, "Lamplighter", 60)]
    [InlineData("cam-mend-net", 1.58f, "Lamplighter", 60)]
    [InlineData("deck-crouch", 1.86f, "Lamplighter", 120)]
    public void Feet_of_anyone_stand_on_the_floor_of_any_rig_and_nothing_jumps(string scene, float stature, string character, double rate)
    {
        var person = new Person("Stranger", stature, 1.04f, 17, 0.12f);
        var target = Character(character);
        var (motion, report) = Retargeter.Retarget(Act(scene, person, rate), target);
        Assert.True(report.Contacts.Count >= 4);
        Assert.All(report.Contacts, c => Assert.True(c.SlideMillimetres <= 1, $"{c.Joint} {c.Start}-{c.End} {c.SlideMillimetres:0.00}"));
        Assert.True(report.Fastest.Ratio <= 1.2, report.Fastest.ToString());
        var seen = new Seen(motion);
        foreach (var c in report.Contacts.Where(c => c.Role is BodyRole.ToesL or BodyRole.ToesR))
        {
            var rest = target.RestPositions[target.IndexOf(c.Role)].Y;
            var height = seen.Place((c.Start + c.End) / 2, c.Role).Y - rest;
            // On the gangplank and the steps they stand higher.
            Assert.True(Math.Abs(height) < 0.002f || height > 0.06f, $"{c.Joint} {c.Start}-{c.End}: {height * 1000:0.0} mm");
        }
    }

    [Fact]
    public void A_performer_recorded_above_the_floor_stands_on_it_as_a_character()
    {
        var raised = Haul.Copy();
        for (var f = 0; f < raised.FrameCount; f++)
        {
            raised.TranslationsAt(f)[0] += new Vector3(0, 0.07f, 0);
        }

        var (a, b) = (new Seen(Retargeter.Retarget(Haul, Lamplighter).Motion), new Seen(Retargeter.Retarget(raised, Lamplighter).Motion));
        for (var f = 0; f < raised.FrameCount; f += 50)
        {
            Assert.True(Vector3.Distance(a.Place(f, BodyRole.Pelvis), b.Place(f, BodyRole.Pelvis)) < 0.001f);
            Assert.True(Vector3.Distance(a.Place(f, BodyRole.ToesL), b.Place(f, BodyRole.ToesL)) < 0.001f);
        }
    }

    [Fact]
    public void The_floor_is_raised_under_the_performer_itself_too()
    {
        var (motion, _) = Retargeter.Retarget(Haul, Haul.Skeleton, new RetargetSetup { FloorHeight = 0.2f });
        var (a, b) = (new Seen(Haul), new Seen(motion));
        Assert.Equal(0.2f, b.Place(500, BodyRole.Pelvis).Y - a.Place(500, BodyRole.Pelvis).Y, 0.005f);
        Assert.Equal(0.2f, b.Place(500, BodyRole.ToesR).Y - a.Place(500, BodyRole.ToesR).Y, 0.005f);
    }

    [Fact]
    public void Keys_hold_a_hand_for_a_while_only()
    {
        var held = new Holding { Place = 0.3f, Keys = [new(400, 0, 1), new(440, 1, 1), new(600, 1, 1), new(640, 0, 1)] };
        Assert.Equal((0f, 1f), held.At(0));
        Assert.Equal((0.5f, 1f), held.At(420));
        Assert.Equal((1f, 1f), held.At(500));
        Assert.Equal((0f, 1f), held.At(900));
        var target = Anthropometry.Body(1.80f, 1.15f);
        var (free, _) = Retargeter.Retarget(Haul, target, Footprints);
        var (motion, report) = Retargeter.Retarget(Haul, target, Footprints.With(BodyRole.HandL, held));
        var (a, b) = (new Seen(free), new Seen(motion));
        for (var f = 0; f < Haul.FrameCount; f += 20)
        {
            if (f is <= 370 or >= 670)
            {
                Assert.True(Vector3.Distance(a.Place(f, BodyRole.HandL), b.Place(f, BodyRole.HandL)) < 1e-4f, $"{f}");
            }

            if (f is >= 440 and <= 600)
            {
                Assert.True(report.Drift[BodyRole.HandL][f] < 0.5, $"{f}: {report.Drift[BodyRole.HandL][f]}");
            }
        }

        Assert.True(report.Drift[BodyRole.HandL][300] > 5);
    }

    [Fact]
    public void An_offset_lies_in_the_hands_own_axes()
    {
        var target = Anthropometry.Body(1.80f, 1.15f);
        var off = new Vector3(0.02f, -0.03f, 0.01f);
        var plain = Retargeter.Retarget(Haul, target, BothHands).Motion;
        var moved = Retargeter.Retarget(Haul, target, BothHands.With(BodyRole.HandR, new Holding { Place = 1, Offset = off })).Motion;
        var (a, b) = (new Seen(plain), new Seen(moved));
        for (var f = 0; f < Haul.FrameCount; f += 60)
        {
            // This body has no turns at rest, so its hand's world turn is what turns the offset.
            var expected = a.Place(f, BodyRole.HandR) + Vector3.Transform(off, b.Turn(f, BodyRole.HandR));
            Assert.True(Vector3.Distance(expected, b.Place(f, BodyRole.HandR)) < 0.0005f, $"{f}");
        }
    }

    [Fact]
    public void A_held_elbow_or_knee_comes_nearer_and_the_end_of_its_limb_stays()
    {
        var target = Anthropometry.Body(1.72f, 1.2f);
        var (plain, loose) = Retargeter.Retarget(Haul, target, BothHands);
        var (motion, tight) = Retargeter.Retarget(Haul, target, BothHands.With(BodyRole.ForearmL, 1).With(BodyRole.ShinR, 1));
        var (a, b) = (new Seen(plain), new Seen(motion));
        foreach (var (middle, end) in new[] { (BodyRole.ForearmL, BodyRole.HandL), (BodyRole.ShinR, BodyRole.FootR) })
        {
            double before = 0,
                after = 0;
            for (var f = 0; f < Haul.FrameCount; f++)
            {
                Assert.True(Vector3.Distance(a.Place(f, end), b.Place(f, end)) < 0.0005f);
                Assert.True(tight.Drift[middle][f] < loose.Drift[middle][f] + 0.5, $"{middle} {f}");
                before += loose.Drift[middle][f];
                after += tight.Drift[middle][f];
            }

            Assert.True(after < before * 0.98, $"{middle}: {before / Haul.FrameCount:0.0} to {after / Haul.FrameCount:0.0} mm");
        }
    }

    [Fact]
    public void An_elbow_can_be_held_without_its_hand()
    {
        var target = Anthropometry.Body(1.86f, 1.1f);
        var (motion, report) = Retargeter.Retarget(Haul, target, Footprints.With(BodyRole.ForearmR, 1));
        var (_, loose) = Retargeter.Retarget(Haul, target, Footprints);
        Assert.True(report.Drift[BodyRole.ForearmR].Average() < loose.Drift[BodyRole.ForearmR].Average());
        // The hand keeps the performer's turn.
        var (a, b) = (new Seen(Retargeter.Retarget(Haul, target, Footprints).Motion), new Seen(motion));
        Assert.True(Rotations.Angle(a.Turn(700, BodyRole.HandR), b.Turn(700, BodyRole.HandR)) < 0.001f);
    }

    [Fact]
    public void A_hands_turn_is_the_performers_or_the_forearms()
    {
        var held = BothHands.With(BodyRole.HandL, new Holding { Place = 1, Turn = 0 });
        var (free, kept, loose) = (
            new Seen(Retargeter.Retarget(Haul, Lamplighter, Footprints).Motion),
            new Seen(Retargeter.Retarget(Haul, Lamplighter, BothHands).Motion),
            new Seen(Retargeter.Retarget(Haul, Lamplighter, held).Motion)
        );
        var most = 0f;
        for (var f = 0; f < Haul.FrameCount; f += 40)
        {
            Assert.True(Rotations.Angle(free.Turn(f, BodyRole.HandL), kept.Turn(f, BodyRole.HandL)) < 0.002f, $"{f}");
            Quaternion Wrist(Seen s) => Quaternion.Conjugate(s.Turn(f, BodyRole.ForearmL)) * s.Turn(f, BodyRole.HandL);
            Assert.True(Rotations.Angle(Wrist(free), Wrist(loose)) < 0.002f, $"{f}");
            most = MathF.Max(most, Rotations.Angle(kept.Turn(f, BodyRole.HandL), loose.Turn(f, BodyRole.HandL)));
        }

        Assert.True(most > 0.2f);
    }

    [Fact]
    public void A_body_leans_where_its_arms_are_too_short_and_the_head_looks_where_it_looked()
    {
        var (stiff, alone) = Retargeter.Retarget(Haul, Lamplighter, BothHands with { Lean = 0 });
        var (motion, report) = Retargeter.Retarget(Haul, Lamplighter, BothHands);
        Assert.True(alone.HoldErrors[BodyRole.HandL] > 150);
        Assert.True(report.Drift[BodyRole.HandL].Average() < alone.Drift[BodyRole.HandL].Average() * 0.5);
        Assert.Contains(report.Warnings, w => w.StartsWith("the left held hand stays up to", StringComparison.Ordinal));
        var (a, b) = (new Seen(stiff), new Seen(motion));
        for (var f = 0; f < Haul.FrameCount; f += 50)
        {
            Assert.True(Rotations.Angle(a.Turn(f, BodyRole.Head), b.Turn(f, BodyRole.Head)) < 0.002f);
        }

        Assert.True(report.Fastest.Ratio < 1.4, report.Fastest.ToString());
    }

    [Fact]
    public void Shoulders_and_spine_bring_an_arm_to_within_its_reach_and_ask_nothing_of_a_free_one()
    {
        var s = Anthropometry.Body(1.75f);
        var (turns, places) = (s.RestRotations.ToArray(), s.RestPositions.ToArray());
        var (left, right) = (s.IndexOf(BodyRole.UpperArmL), s.IndexOf(BodyRole.UpperArmR));
        var goal = places[left] + new Vector3(0.1f, 0, 0.5f);
        new Lean(s).Shoulders(turns, places, [goal, places[right]], [0.38f, 1]);
        Assert.Equal(0.38f, Vector3.Distance(goal, places[left]), 0.004f);
        // No bone changed its length, the hips stayed.
        Assert.Equal(s.RestPositions[s.IndexOf(BodyRole.Pelvis)], places[s.IndexOf(BodyRole.Pelvis)]);
        for (var j = s.IndexOf(BodyRole.Chest); j < s.Count; j++)
        {
            Assert.Equal(s[j].Offset.Length(), Vector3.Distance(places[j], places[s.Parents[j]]), 1e-4f);
        }

        var (still, stays) = (s.RestRotations.ToArray(), s.RestPositions.ToArray());
        new Lean(s).Shoulders(still, stays, [goal, goal], [2, 2]);
        Assert.Equal(s.RestPositions, stays);
    }

    [Fact]
    public void A_held_head_is_where_the_performers_is()
    {
        var target = Anthropometry.Body(1.80f);
        var (_, loose) = Retargeter.Retarget(Haul, target, Footprints);
        var (_, report) = Retargeter.Retarget(Haul, target, Footprints.With(BodyRole.Head, 1));
        Assert.True(report.Drift[BodyRole.Head].Average() < loose.Drift[BodyRole.Head].Average());
    }

    [Fact]
    public void Hand_and_elbow_that_cannot_both_be_held_are_told()
    {
        var (_, report) = Retargeter.Retarget(Haul, Lamplighter, BothHands.With(BodyRole.ForearmR, 1));
        var bend = Assert.Single(report.Bends.Where(b => b.Role == BodyRole.ForearmR).OrderByDescending(b => b.Millimetres).Take(1));
        Assert.True(bend.Millimetres > 40 && bend.Start <= bend.End);
        Assert.Contains(report.Warnings, w => w.Contains("the right elbow is up to", StringComparison.Ordinal));
        Assert.Empty(Retargeter.Retarget(Haul, Lamplighter).Report.Bends);
    }

    [Fact]
    public void An_arm_that_goes_out_of_reach_does_not_snap_straight()
    {
        var wanted = Enumerable.Range(0, 120).Select(f => 0.30f + (0.005f * MathF.Min(f, 100))).ToArray();
        var reaches = ArmStretch.Reaches(wanted, 0.3f, 0.3f, 0.1f);
        double Bend(float d) => 2 * Math.Acos(Math.Min(1, d / 0.6));
        for (var f = 1; f < 120; f++)
        {
            var (now, before) = (Math.Min(reaches[f], wanted[f]), Math.Min(reaches[f - 1], wanted[f - 1]));
            Assert.True(Math.Abs(Bend(now) - Bend(before)) < 0.125, $"{f}: {Bend(now) - Bend(before)}");
        }

        // Long before it is exactly where it should be.
        Assert.Equal(wanted[20], reaches[20], 1e-5f);
        // What stays in reach is never kept short.
        Assert.All(ArmStretch.Reaches([0.3f, 0.58f, 0.31f, 0.59f], 0.3f, 0.3f, 0.01f).Zip([0.3f, 0.58f, 0.31f, 0.59f]), r =>
            Assert.Equal(r.Second, r.First, 1e-4f)
        );
    }
}
