using System.Numerics;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Retargeting;

/// <summary>Two hands on one thing: the other hand lies to the leading one as the performer's did, on whatever character.</summary>
public sealed class HandsTogetherTests
{
    private const double Rate = 60;

    private sealed record Carried(Motion Motion, PropPlaces Crate, IReadOnlyList<Grip> Grips)
    {
        public static Carried By(int actor)
        {
            var performed = Acts.Perform("crate-carry", HarbourCast.Ines, 1, Rate);
            var crate = performed.Props.Single(p => p.Body.Name == HarbourProps.Crate.Name);
            var places = new PropPlaces(Rate, [.. crate.Places], [.. crate.Turns]);
            var motion = performed.Actors[actor].Motion;
            return new Carried(motion, places, GripFinder.Find(motion, [(crate.Body, places)]));
        }

        public IReadOnlyList<JoinedHands> Joined =>
            AttachOperation.BothOf([Grips.Select(g => new AttachOperation.Hold(1, g.Hand, g.Start, g.End))])[1];

        /// <summary>How far the hand that does not lead is from where it lies on the crate, while both hold it, millimetres.</summary>
        public double Off(Motion character)
        {
            var worst = 0f;
            foreach (var (lead, start, end) in Joined)
            {
                PalmPath Palms(Motion m, BodyRole hand) => new(m, hand, start, end);
                var other = BodyRoles.Mirror(lead);
                var (was, wasOther, now, nowOther) = (
                    Palms(Motion, lead),
                    Palms(Motion, other),
                    Palms(character, lead),
                    Palms(character, other)
                );
                for (var f = start; f <= end; f++)
                {
                    Vector3 In(PalmPath a, PalmPath b) => Vector3.Transform(b.Place(f) - a.Place(f), Quaternion.Conjugate(a.Turn(f)));
                    worst = MathF.Max(worst, Vector3.Distance(In(was, wasOther), In(now, nowOther)));
                    var turned = Rotations.Angle(
                        Quaternion.Conjugate(was.Turn(f)) * wasOther.Turn(f),
                        Quaternion.Conjugate(now.Turn(f)) * nowOther.Turn(f)
                    );
                    worst = MathF.Max(worst, turned > 0.01f ? turned : 0);
                }
            }

            return worst * 1000;
        }
    }

    private static readonly Lazy<Carried> Ines = new(() => Carried.By(0));

    private static Motion Played(Motion motion, string name)
    {
        var skeleton = HarbourCharacters.Names.Contains(name)
            ? GltfReader.GltfBindingOf(GltfReader.Open(HarbourCharacters.Build(name), name + ".glb"), name).Skeleton
            : Strangers.Some(3, 5)[2].Skeleton;
        return Retargeter.Retarget(motion, RoleFinder.Assign(skeleton, null, name), new RetargetSetup()).Motion;
    }

    private static (Vector3[] Places, Quaternion[] Turns) World(Motion motion)
    {
        var turns = new Quaternion[motion.Rotations.Length];
        return (ForwardKinematics.WorldPositions(motion, turns), turns);
    }

    [Theory]
    [InlineData("Stevedore")]
    [InlineData("Lamplighter")]
    [InlineData("somebody of 2.05 m")]
    public void The_other_hand_comes_along_and_nothing_else_moves(string name)
    {
        var ines = Ines.Value;
        var played = Played(ines.Motion, name);
        // A rig whose hand hangs otherwise.
        var other = played.Skeleton.IndexOf(BodyRoles.Mirror(ines.Joined[0].Lead));
        for (var f = 0; f < played.FrameCount; f++)
        {
            played.RotationsAt(f)[other] *= Rotations.AboutAxis(1, 0.2f);
        }

        var before = ines.Off(played);
        Assert.True(before > 10, $"the hands fit anyway: {before:0.0} mm");
        var (motion, report) = HandsTogether.Apply(ines.Motion, played, ines.Joined);
        Assert.All(report.Short, s => Assert.True(s.Millimetres < 0.5, $"{s}"));
        Assert.True(ines.Off(motion) < 1, $"{before:0.0} mm before, {ines.Off(motion):0.00} after");
        Assert.True(report.MovedMillimetres > 5, $"{report.MovedMillimetres}");
        var (was, now) = (World(played), World(motion));
        var s = motion.Skeleton;
        int[] arms = [.. s.Branch(s.IndexOf(BodyRole.UpperArmL)), .. s.Branch(s.IndexOf(BodyRole.UpperArmR))];
        var ease = (int)(Rate / 2);
        for (var f = 0; f < motion.FrameCount; f++)
        {
            var holds = ines.Joined.Any(j => f >= j.Start - ease && f <= j.End + ease);
            for (var j = 0; j < s.Count; j++)
            {
                if (!holds || !arms.Contains(j))
                {
                    Assert.True(
                        Vector3.Distance(was.Places[(f * s.Count) + j], now.Places[(f * s.Count) + j]) < 1e-4f,
                        $"{s[j].Name} at {f}"
                    );
                }
            }
        }

        // It comes and goes without a jerk: nothing turns faster than the performer's fastest.
        double Fastest(Motion m)
        {
            var turns = World(m).Turns;
            return BodyRoles.Required.Max(r =>
                Enumerable
                    .Range(1, m.FrameCount - 1)
                    .Max(f =>
                        Rotations.Angle(
                            turns[((f - 1) * m.Skeleton.Count) + m.Skeleton.IndexOf(r)],
                            turns[(f * m.Skeleton.Count) + m.Skeleton.IndexOf(r)]
                        )
                    )
            );
        }

        Assert.True(Fastest(motion) < 1.2 * Fastest(ines.Motion), $"{Fastest(motion)} and {Fastest(ines.Motion)}");
    }

    [Fact]
    public void On_the_performers_own_body_nothing_is_moved()
    {
        var ines = Ines.Value;
        var (motion, report) = HandsTogether.Apply(ines.Motion, ines.Motion, ines.Joined);
        Assert.True(report.MovedMillimetres < 0.05, $"{report.MovedMillimetres}");
        Assert.True(ines.Off(motion) < 0.05);
    }

    [Fact]
    public void What_an_arm_cannot_reach_is_said_as_it_is()
    {
        // Arms spread wide by somebody tall, on somebody a head shorter.
        var tall = Acts.Perform("rom", Strangers.Some(3, 5)[2], 1, 30).Actors[0].Motion;
        var small = Retargeter.Retarget(tall, Anthropometry.Body(1.2f), new RetargetSetup()).Motion;
        var (motion, report) = HandsTogether.Apply(tall, small, [new JoinedHands(BodyRole.HandR, 0, tall.FrameCount - 1)]);
        var (millimetres, frame) = report.Short[0];
        Assert.True(millimetres > 100, $"{millimetres}");
        var s = motion.Skeleton;
        var places = World(motion).Places.AsSpan(frame * s.Count, s.Count).ToArray();
        foreach (var (upper, lower, end) in LimbRoles.Arms)
        {
            Vector3 At(BodyRole role) => places[s.IndexOf(role)];
            var length = Vector3.Distance(At(upper), At(lower)) + Vector3.Distance(At(lower), At(end));
            // All but stretched, towards where it belongs.
            Assert.True(Vector3.Distance(At(upper), At(end)) > 0.95f * length, $"{end}");
        }
    }

    [Fact]
    public void What_cannot_be_brought_together_is_refused_in_words()
    {
        var ines = Ines.Value.Motion;
        string Told(params JoinedHands[] hands) => Assert.Throws<RefusedException>(() => HandsTogether.Apply(ines, ines, hands)).Message;
        Assert.Contains(
            "no frames here",
            Told(new JoinedHands(BodyRole.HandL, ines.FrameCount, ines.FrameCount + 5)),
            StringComparison.Ordinal
        );
        Assert.Contains("no frames here", Told(new JoinedHands(BodyRole.HandL, 20, 10)), StringComparison.Ordinal);
    }

    [Fact]
    public void Both_hands_are_those_of_one_character_at_once_and_who_is_named_first_leads()
    {
        AttachOperation.Hold Hold(int cast, BodyRole hand, int start, int end) => new(cast, hand, start, end);
        var both = AttachOperation.BothOf([
            [
                Hold(1, BodyRole.HandR, 10, 50),
                Hold(1, BodyRole.HandR, 80, 90),
                Hold(1, BodyRole.HandL, 20, 85),
                Hold(2, BodyRole.HandL, 0, 99),
                Hold(3, BodyRole.HandL, 0, 10),
                Hold(3, BodyRole.HandR, 11, 20),
            ],
            // Another thing in the other hand is not one thing in both.
            [Hold(2, BodyRole.HandR, 0, 99)],
        ]);
        Assert.Equal([1], both.Keys);
        Assert.Equal([new(BodyRole.HandR, 20, 50), new(BodyRole.HandR, 80, 85)], both[1]);
    }
}
