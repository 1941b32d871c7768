using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Cli;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Cleaning;

public sealed class ContactEditTests
{
    private static readonly PointContact[] Found =
    [
        new(ContactPoint.Heel, 'L', 10, 40),
        new(ContactPoint.Heel, 'L', 60, 90),
        new(ContactPoint.Heel, 'R', 35, 70),
    ];

    private static string Told(params ContactEdit[] edits) =>
        string.Join(" ", ContactEdits.Apply(Found, edits).Where(c => c.Side == 'L').Select(c => $"{c.Start}-{c.End}"));

    private static ContactEdit Edit(int start, int end, bool planted) => new(ContactPoint.Heel, 'L', start, end, planted);

    [Fact]
    public void What_a_person_decides_stands_over_what_was_found()
    {
        Assert.Equal("10-40 60-90", Told());
        Assert.Equal("5-40 60-90", Told(Edit(5, 20, true)));
        Assert.Equal("10-90", Told(Edit(41, 59, true)));
        Assert.Equal("10-19 31-40 60-90", Told(Edit(20, 30, false)));
        Assert.Equal("60-90", Told(Edit(0, 50, false)));
        Assert.Equal("10-40 60-90 100-120", Told(Edit(100, 120, true)));
        // The later one wins.
        Assert.Equal("10-24 26-40 60-90", Told(Edit(25, 25, true), Edit(25, 25, false)));
        Assert.Equal(new PointContact(ContactPoint.Heel, 'R', 35, 70), Assert.Single(ContactEdits.Apply(Found, [Edit(0, 200, false)])));
    }

    [Fact]
    public void Random_decisions_agree_with_painting_frame_by_frame()
    {
        var random = new Random(12);
        for (var k = 0; k < 200; k++)
        {
            var edits = Enumerable
                .Range(0, random.Next(1, 6))
                .Select(_ => random.Next(110))
                .Select(s => Edit(s, s + random.Next(20), random.Next(2) == 0))
                .ToArray();
            var painted = Enumerable.Range(0, 140).Select(f => Found.Any(c => c.Side == 'L' && c.Start <= f && f <= c.End)).ToArray();
            foreach (var e in edits)
            {
                Array.Fill(painted, e.Planted, e.Start, e.End - e.Start + 1);
            }

            var contacts = ContactEdits.Apply(Found, edits).Where(c => c.Side == 'L').ToArray();
            Assert.All(Enumerable.Range(0, 140), f => Assert.Equal(painted[f], contacts.Any(c => c.Start <= f && f <= c.End)));
            Assert.All(contacts.Zip(contacts.Skip(1)), p => Assert.True(p.First.End < p.Second.Start));
        }
    }

    [Fact]
    public void A_decision_about_contacts_stays_where_it_was_made_when_the_take_is_trimmed()
    {
        var context = new OperationContext(new FileResources());
        var motion = new Motion(Anthropometry.Body(1.7f), 120, 200);
        MotionValue Decide(Motion on, string json) =>
            (MotionValue)
                ContactOperation.Contacts.Run(new OperationInput(new MotionValue(on)), JsonNode.Parse(json)!.AsObject(), context).Value;
        const string Edits = """{ "point": "heel", "side": "L", "first": 0, "edits": [{ "start": 50, "end": 80, "planted": true }] }""";
        Assert.Equal([Edit(50, 80, true)], Decide(motion, Edits).Contacts);
        // The take begins 60 frames later now: what was decided moves with the recording, and what lies before it is gone.
        var trimmed = MotionEdits.Range(motion, 60, 151);
        Assert.Equal(60, trimmed.FirstFrame);
        Assert.Equal([Edit(0, 20, true)], Decide(trimmed, Edits).Contacts);
        Assert.Empty(Decide(MotionEdits.Range(motion, 100, 200), Edits).Contacts);
        Assert.Throws<RefusedException>(() => Decide(motion, """{ "point": "nose", "side": "L", "edits": [] }"""));
        // A new solve keeps what was decided before it.
        var solved = Decide(motion, Edits);
        Assert.Equal(solved.Contacts, (solved with { Motion = trimmed }).Contacts);
    }

    [Fact]
    public void A_trim_keeps_its_range_and_pinned_names_within_it()
    {
        var context = new OperationContext(new FileResources());
        var data = new MarkerValue(new MarkerTake(["Crown"], 120, 200, new Vector3[200])) { Pinned = [new PinnedLabel("Crown", 50, 80)] };
        MarkerValue Trim(int from, int to) =>
            (MarkerValue)TrimOperations.Trim.Run(new OperationInput(data), new JsonObject { ["from"] = from, ["to"] = to }, context).Value;
        var trimmed = Trim(60, 150);
        Assert.Equal((91, 60), (trimmed.FrameCount, trimmed.Take.FirstFrame));
        Assert.Equal([new PinnedLabel("Crown", 0, 20)], trimmed.Pinned);
        Assert.Throws<RefusedException>(() => Trim(80, 84));
    }

    [Fact]
    public void Somebody_who_sits_down_sits_and_a_walker_does_not()
    {
        var walk = Acts.Perform("lamp-walk", new Person("Odd", 1.86f, 0.98f, 71), 2).Actors[0].Motion;
        Assert.DoesNotContain(BodyContacts.Find(walk).Points, c => c.Point == ContactPoint.Seat);
        // The walker's first pose, and from frame 100 to 219 the same person on a chest: thighs level, shins down, the pelvis as high as they are long.
        var s = walk.Skeleton;
        var sits = new Motion(
            s,
            120,
            300,
            [.. Enumerable.Range(0, 300).SelectMany(_ => s.Joints.Select(j => j.RestRotation))],
            [.. Enumerable.Range(0, 300).SelectMany(_ => s.Joints.Select(j => j.Offset))]
        );
        var shin = s[s.IndexOf(BodyRole.FootL)].Offset.Length();
        for (var f = 100; f < 220; f++)
        {
            var pelvis = s.IndexOf(BodyRole.Pelvis);
            sits.TranslationsAt(f)[pelvis] = s[pelvis].Offset with
            {
                Y = s[pelvis].Offset.Y - s[s.IndexOf(BodyRole.ShinL)].Offset.Length(),
            };
            foreach (var side in "LR")
            {
                sits.RotationsAt(f)[s.IndexOf(Enum.Parse<BodyRole>("Thigh" + side))] = Quaternion.CreateFromAxisAngle(
                    Vector3.UnitX,
                    -MathF.PI / 2
                );
                sits.RotationsAt(f)[s.IndexOf(Enum.Parse<BodyRole>("Shin" + side))] = Quaternion.CreateFromAxisAngle(
                    Vector3.UnitX,
                    MathF.PI / 2
                );
            }
        }

        Assert.True(shin > 0.3f);
        var seat = Assert.Single(BodyContacts.Find(sits).Points, c => c.Point == ContactPoint.Seat);
        Assert.InRange(seat.Start, 99, 102);
        Assert.InRange(seat.End, 218, 220);
    }
}
