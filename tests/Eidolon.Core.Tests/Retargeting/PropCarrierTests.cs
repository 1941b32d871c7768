using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Cli;
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

/// <summary>A prop goes by the hands of characters: as it lay in the performer's hand, handed over, put down and taken up.</summary>
public sealed class PropCarrierTests
{
    private static readonly Lazy<(Motion Motion, PropPlaces Pole, IReadOnlyList<Grip> Grips)> Walk = new(() =>
    {
        var performed = Acts.Perform("lamp-walk", HarbourCast.Ines, 1, 60);
        var motion = performed.Actors[0].Motion;
        var (body, places) = Prop(performed);
        return (motion, places, GripFinder.Find(motion, [(body, places)]));
    });

    private static (RigidBody Body, PropPlaces Places) Prop(Performance performed) =>
        (
            performed.Props[0].Body,
            new PropPlaces(performed.Actors[0].Motion.FrameRate, [.. performed.Props[0].Places], [.. performed.Props[0].Turns])
        );

    private static Motion Played(Motion motion, string name)
    {
        var file = HarbourCharacters.Build(name);
        // The Harbour Master comes in inches.
        file = name == "Harbour Master" ? GltfWriter.Sized(file, name, .0254f) : file;
        var glb = GltfReader.GltfBindingOf(GltfReader.Open(file, name + ".glb"), name);
        return Retargeter.Retarget(motion, RoleFinder.Assign(glb.Skeleton, null, name), new RetargetSetup()).Motion;
    }

    private static (Vector3 Place, Quaternion Turn) Hand(Motion motion, BodyRole hand, int frame)
    {
        var s = motion.Skeleton;
        var (turns, places) = (new Quaternion[s.Count], new Vector3[s.Count]);
        ForwardKinematics.World(motion, frame, turns, places);
        return (places[s.IndexOf(hand)], turns[s.IndexOf(hand)]);
    }

    [Fact]
    public void In_the_hands_that_were_recorded_a_prop_stays_where_it_was()
    {
        var (motion, pole, grips) = Walk.Value;
        Assert.NotEmpty(grips);
        var (places, report) = PropCarrier.Carry(pole, [.. grips.Select(g => new CarryingHand(motion, motion, g.Hand, g.Start, g.End))]);
        for (var f = 0; f < pole.FrameCount; f++)
        {
            Assert.True(Vector3.Distance(pole.Positions[f], places.Positions[f]) < 1e-5f, $"frame {f}");
            Assert.True(Rotations.Angle(pole.Turns[f], places.Turns[f]) < 1e-3f, $"frame {f}");
        }

        Assert.True(report.MovedMetres < 1e-5 && report.Drift.All(d => d.Millimetres < 0.01), $"{report.MovedMetres}");
    }

    [Theory]
    [InlineData("Stevedore")]
    [InlineData("Lamplighter")]
    [InlineData("Harbour Master")]
    public void In_a_characters_hand_it_lies_as_it_lay_in_the_performers(string name)
    {
        var (motion, pole, grips) = Walk.Value;
        var played = Played(motion, name);
        var hold = grips.MaxBy(g => g.End - g.Start)!;
        var (places, report) = PropCarrier.Carry(pole, [new CarryingHand(motion, played, hold.Hand, hold.Start, hold.End)]);
        // Far from where it was recorded: the character's stride is its own.
        Assert.True(report.MovedMetres > 0.1, $"{report.MovedMetres}");
        Vector3? first = null;
        Quaternion? turn = null;
        for (var f = hold.Start + 30; f <= hold.End - 30; f++)
        {
            var (was, wasTurned) = Hand(motion, hold.Hand, f);
            var (now, nowTurned) = Hand(played, hold.Hand, f);
            // What changed from one hand to the other is the same all the time: another wrist, another length of palm.
            Vector3 In(Vector3 p, Vector3 hand, Quaternion q) => Vector3.Transform(p - hand, Quaternion.Conjugate(q));
            var to = In(places.Positions[f], now, nowTurned);
            var from = In(pole.Positions[f], was, wasTurned);
            var between = Quaternion.Normalize(
                Quaternion.Conjugate(nowTurned) * places.Turns[f] * Quaternion.Conjugate(Quaternion.Conjugate(wasTurned) * pole.Turns[f])
            );
            turn ??= between;
            Assert.True(Rotations.Angle(turn.Value, between) < 0.002f, $"frame {f}");
            var rest = to - Vector3.Transform(from, between);
            first ??= rest;
            Assert.True(Vector3.Distance(first.Value, rest) < 0.001f, $"frame {f}");
        }

        // Palms differ by a part of the forearm, not by more.
        Assert.True(first!.Value.Length() < 0.06f, $"{first}");
    }

    [Fact]
    public void The_first_hand_leads_and_the_others_say_how_it_is_turned()
    {
        var performed = Acts.Perform("crate-carry", HarbourCast.Ines, 1, 60);
        var (body, crate) = Prop(performed);
        var hands = new List<CarryingHand>();
        foreach (var (actor, name) in performed.Actors.Zip(["Lamplighter", "Stevedore"]))
        {
            var played = Played(actor.Motion, name);
            hands.AddRange(
                GripFinder.Find(actor.Motion, [(body, crate)]).Select(g => new CarryingHand(actor.Motion, played, g.Hand, g.Start, g.End))
            );
        }

        Assert.True(hands.Count >= 4);
        var (_, report) = PropCarrier.Carry(crate, hands);
        var middle = hands.Min(h => h.End) / 2;
        Assert.True(middle > hands.Max(h => h.Start) + 30);
        // While all four hold it the first has it where it should be; the others cannot all, characters being of other sizes.
        var inside = hands.ConvertAll(h => h with { Start = middle - 25, End = middle + 25 });
        var (moved, told) = PropCarrier.Carry(crate, inside);
        var (was, now) = (Palm(inside[0].Performer, inside[0].Hand, middle), Palm(inside[0].Character, inside[0].Hand, middle));
        var on = Vector3.Transform(was - crate.Positions[middle], Quaternion.Conjugate(crate.Turns[middle]));
        Assert.True(Vector3.Distance(moved.Positions[middle] + Vector3.Transform(on, moved.Turns[middle]), now) < 1e-4f);
        Assert.All(told.Drift.Skip(1), d => Assert.True(d.Millimetres > 1, $"{d}"));
        Assert.Equal(hands.Count, report.Drift.Count);
        // Turned by the way to the other hands, not by one wrist: the crate stays about level.
        var up = Vector3.Transform(Vector3.UnitY, moved.Turns[middle] * Quaternion.Conjugate(crate.Turns[middle]));
        Assert.True(up.Y > 0.9f, $"{up}");
    }

    private static Vector3 Palm(Motion motion, BodyRole hand, int frame) => new PalmPath(motion, hand, frame, frame).Place(frame);

    [Fact]
    public void Handed_over_it_does_not_jump_and_put_down_it_lies_on_the_floor()
    {
        var (still, walking, crate) = Moving();
        // The right arm is held otherwise, so that the two hands want the prop at places apart.
        var elbow = walking.Skeleton.IndexOf(BodyRole.ForearmR);
        for (var f = 0; f < walking.FrameCount; f++)
        {
            walking.RotationsAt(f)[elbow] = Quaternion.CreateFromAxisAngle(Vector3.UnitY, 0.8f) * walking.RotationsAt(f)[elbow];
        }

        // The left hand takes it at 40, the right one has it from 90 on, and puts it down at 150.
        CarryingHand[] hands = [new(still, walking, BodyRole.HandL, 40, 110), new(still, walking, BodyRole.HandR, 90, 150)];
        var (places, report) = PropCarrier.Carry(crate, hands);
        var (left, right) = (PropCarrier.Carry(crate, [hands[0]]).Places, PropCarrier.Carry(crate, [hands[1]]).Places);
        var apart = Vector3.Distance(left.Positions[100], right.Positions[100]);
        Assert.True(apart > 0.15f);
        var steps = Enumerable.Range(41, 108).Select(f => Vector3.Distance(places.Positions[f], places.Positions[f - 1])).ToArray();
        // The prop itself goes 15 mm a frame; from hand to hand it goes within a third of a second, not in one.
        Assert.True(steps.Max() < 0.02f + (0.1f * apart), $"{apart}: {steps.Max()} at {41 + Array.IndexOf(steps, steps.Max())}");
        Assert.Equal(left.Positions[80], places.Positions[80]);
        Assert.Equal(right.Positions[125], places.Positions[125]);
        for (var f = 0; f < crate.FrameCount; f++)
        {
            if (f is < 40 or > 150)
            {
                Assert.Equal(crate.Positions[f].Y, places.Positions[f].Y, 4);
                Assert.True(Vector3.Transform(Vector3.UnitY, places.Turns[f]).Y > 0.9999f);
                Assert.Equal(places.Positions[f < 40 ? 0 : 151], places.Positions[f]);
            }
        }

        Assert.Equal(2, report.Drift.Count);
        Assert.True(Vector3.Distance(places.Positions[0], places.Positions[^1]) > 0.05f);
    }

    [Fact]
    public void Between_two_hands_one_wrist_turns_it_little()
    {
        var (still, other, crate) = Moving();
        other = still.Copy();
        var wrist = other.Skeleton.IndexOf(BodyRole.HandL);
        for (var f = 0; f < other.FrameCount; f++)
        {
            other.RotationsAt(f)[wrist] = Quaternion.CreateFromAxisAngle(Vector3.UnitY, 0.6f) * other.RotationsAt(f)[wrist];
        }

        CarryingHand left = new(still, other, BodyRole.HandL, 40, 150);
        Assert.Equal(0.6f, Rotations.Angle(crate.Turns[95], PropCarrier.Carry(crate, [left]).Places.Turns[95]), 3);
        var both = PropCarrier.Carry(crate, [left, left with { Hand = BodyRole.HandR }]).Places;
        Assert.True(Rotations.Angle(crate.Turns[95], both.Turns[95]) < 0.06f, $"{Rotations.Angle(crate.Turns[95], both.Turns[95])}");
    }

    [Fact]
    public void Hidden_frames_stay_hidden_and_what_follows_goes_on()
    {
        var (motion, pole, grips) = Walk.Value;
        var hold = grips.MaxBy(g => g.End - g.Start)!;
        var played = Played(motion, "Lamplighter");
        var whole = PropCarrier.Carry(pole, [new(motion, played, hold.Hand, hold.Start, hold.End)]).Places;
        var (from, to) = (((hold.Start + hold.End) / 2) - 5, ((hold.Start + hold.End) / 2) + 5);
        var some = pole with { Positions = [.. pole.Positions] };
        for (var f = from; f < to; f++)
        {
            some.Positions[f] = MarkerTake.Hidden;
        }

        var seen = PropCarrier.Carry(some, [new(motion, played, hold.Hand, hold.Start, hold.End)]).Places;
        for (var f = 0; f < pole.FrameCount; f++)
        {
            var hidden = f >= from && f < to;
            Assert.Equal(hidden, !MarkerTake.Seen(seen.Positions[f]));
            Assert.True(hidden || Vector3.Distance(whole.Positions[f], seen.Positions[f]) < 1e-5f, $"frame {f}");
        }
    }

    [Fact]
    public void An_offset_moves_it_in_the_hand_and_what_cannot_be_is_refused()
    {
        var (motion, pole, grips) = Walk.Value;
        var hold = grips.MaxBy(g => g.End - g.Start)!;
        CarryingHand[] hands = [new(motion, motion, hold.Hand, hold.Start, hold.End)];
        var frame = (hold.Start + hold.End) / 2;
        var moved = PropCarrier.Carry(pole, hands, new Vector3(0, 0.05f, 0)).Places;
        Assert.Equal(0.05f, Vector3.Distance(moved.Positions[frame], pole.Positions[frame]), 4);
        var turned = PropCarrier.Carry(pole, hands, turn: Quaternion.CreateFromAxisAngle(Vector3.UnitX, 0.5f)).Places;
        Assert.Equal(0.5f, Rotations.Angle(turned.Turns[frame], pole.Turns[frame]), 3);
        Assert.Throws<RefusedException>(() => PropCarrier.Carry(pole, []));
        var late = Assert.Throws<RefusedException>(() => PropCarrier.Carry(pole, [hands[0] with { Start = 99_999, End = 100_000 }]));
        Assert.Contains("hand 1", late.Message, StringComparison.Ordinal);
        foreach (
            var (json, words) in new[]
            {
                ("{}", "no hand"),
                ("""{"hands":[{"cast":7,"hand":"Foot","start":0,"end":9}]}""", "'Foot' is no hand"),
                ("""{"hands":[{"cast":7,"hand":"HandL","start":9,"end":3}]}""", "from 9 to 3"),
                ("""{"hands":[{"cast":7,"hand":"HandL","start":0,"end":9}]}""", "gone"),
                ("""{"hands":[{"cast":7,"hand":"HandR","start":10,"end":90}],"offset":[1,2]}""", "'offset' must be three numbers"),
            }
        )
        {
            var p = (JsonObject)JsonNode.Parse(json)!;
            var inputs = words.StartsWith("'offset", StringComparison.Ordinal)
                ? new NodeValue[] { new PlacesValue(pole), new MotionValue(motion), new MotionValue(motion) }
                : [new PlacesValue(pole)];
            var refused = Assert.Throws<RefusedException>(() =>
                AttachOperation.Attach.Run(new OperationInput(new PlacesValue(pole), inputs), p, new OperationContext(new FileResources()))
            );
            Assert.Contains(words, refused.Message, StringComparison.Ordinal);
        }
    }

    /// <summary>
    /// A body that stands, one of the same build that stands 10 cm further, higher and turned, and a box that lies until it is taken at frame 40, is
    /// moved to and fro, and lies again from 150 on.
    /// </summary>
    private static (Motion Still, Motion Other, PropPlaces Crate) Moving()
    {
        var body = Anthropometry.Body(1.7f);
        var still = Motion.AtRest(body, 60, 200);
        var other = still.Copy();
        var root = body.IndexOf(BodyRole.Pelvis);
        for (var f = 0; f < 200; f++)
        {
            other.TranslationsAt(f)[root] += new Vector3(0.1f, 0.05f, 0);
            other.RotationsAt(f)[root] = Quaternion.CreateFromAxisAngle(Vector3.UnitZ, 0.2f) * other.RotationsAt(f)[root];
        }

        Vector3 At(int f)
        {
            var t = Math.Clamp((f - 40) / 110f, 0, 1);
            return new Vector3(0.2f * MathF.Sin(t * MathF.PI), 0.2f + (0.5f * MathF.Sin(t * MathF.PI)), 0.3f + (0.2f * t));
        }

        var places = Enumerable.Range(0, 200).Select(At).ToArray();
        return (still, other, new PropPlaces(60, places, [.. Enumerable.Repeat(Quaternion.Identity, 200)]));
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void Let_go_it_stays_where_it_is_where_that_is_asked(bool stays)
    {
        var (motion, pole, grips) = Walk.Value;
        var played = Played(motion, "Lamplighter");
        var hold = grips.MaxBy(g => g.End - g.Start)!;
        var (end, again) = (hold.Start + 200, hold.Start + 320);
        var hidden = pole with { Positions = [.. pole.Positions] };
        // A moment without samples while nobody has it.
        hidden.Positions[end + 40] = MarkerTake.Hidden;
        var (places, _) = PropCarrier.Carry(
            hidden,
            [
                new CarryingHand(motion, played, hold.Hand, hold.Start, end, stays),
                new CarryingHand(motion, played, hold.Hand, again, hold.End),
            ]
        );
        // The performer walks on with it: without a word it goes on as it was recorded.
        var gone = Vector3.Distance(places.Positions[end + 5], places.Positions[again - 5]);
        Assert.True(stays ? gone < 1e-4f : gone > 0.5f, $"{gone}");
        var turned = Rotations.Angle(places.Turns[end + 5], places.Turns[again - 5]);
        Assert.True(!stays || turned < 1e-3f, $"{turned}");
        // Where the hand was as it let go, and no leap there.
        Assert.True(!stays || Vector3.Distance(places.Positions[end], places.Positions[end + 5]) < 0.03f);
        for (var f = end - 30; stays && f <= end + 30; f++)
        {
            Assert.True(Vector3.Distance(places.Positions[f], places.Positions[f - 1]) < 0.06f, $"frame {f}");
        }

        // Taken up again it is in the hand after a moment.
        var (inHand, _) = PropCarrier.Carry(pole, [new CarryingHand(motion, played, hold.Hand, hold.Start, hold.End)]);
        Assert.True(Vector3.Distance(inHand.Positions[again + 60], places.Positions[again + 60]) < 1e-3f);
    }
}
