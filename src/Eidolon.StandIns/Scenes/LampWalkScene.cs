using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Acting;
using Eidolon.StandIns.People;

namespace Eidolon.StandIns.Scenes;

/// <summary>A walk with the lantern pole along the quay, a turn, a reach up to light a lamp, and on.</summary>
internal static class LampWalkScene
{
    public static ScenePlan Plan(Person person, int seed)
    {
        var random = new Random(seed);
        var c = new Choreography(10);
        var pace = 0.54f + (0.05f * random.NextSingle());
        var step = person.Stature * (0.38f + (0.03f * random.NextSingle()));
        var width = person.Stature * 0.045f;
        var start = new Vector3(-3.0f, 0, -1.6f);
        StepPlanner.Stand(c, start, MathF.PI / 2, width * 1.4f);
        var corner = new Vector3(1.2f + (0.3f * random.NextSingle()), 0, -1.6f);
        var lamp = new Vector3(2.3f, 0, 0.9f);
        var arrive = StepPlanner.Walk(c, 1.2f, [start, corner, corner + new Vector3(0.7f, 0, 0.6f), lamp], step, pace, width);
        var right = c.Arms[1];
        right.Swing = 0.12f;
        c.Arms[0].Swing = 1.1f;
        // Carrying: elbow bent, the pole upright in front of the shoulder; the pole is the hand's own.
        right.Direction.Key(0, new Vector3(0.22f, -1, 0.28f));
        right.Bend.Key(0, new Vector3(82, 55, 0));
        var reach = arrive + 0.7f;
        right
            .Direction.Hold(arrive + 0.1f)
            .Key(reach + 0.5f, new Vector3(0.16f, 0.55f, 0.8f))
            .Hold(reach + 2.2f)
            .Key(reach + 3.3f, new Vector3(0.22f, -1, 0.28f));
        right
            .Bend.Hold(arrive + 0.1f)
            .Key(reach + 0.5f, new Vector3(26, 55, 0))
            .Hold(reach + 2.2f)
            .Key(reach + 3.3f, new Vector3(82, 55, 0));
        right.Wrist.Hold(arrive + 0.1f).Key(reach + 0.5f, new Vector3(0, 0, 8)).Hold(reach + 2.2f).Key(reach + 3.3f, Vector3.Zero);
        c.Arms[0]
            .Direction.Hold(reach - 0.3f)
            .Key(reach + 0.6f, new Vector3(0.45f, -1, -0.12f))
            .Hold(reach + 2.3f)
            .Key(reach + 3.3f, new Vector3(0.18f, -1, 0.02f));
        c.Head.Hold(arrive - 0.4f).Key(reach + 0.3f, new Vector3(-26, -8, 0)).Hold(reach + 2.2f).Key(reach + 3, Vector3.Zero);
        c.Spine.Hold(arrive).Key(reach + 0.5f, new Vector3(-6, 12, -3)).Hold(reach + 2.2f).Key(reach + 3.2f, Vector3.Zero);
        c.Hips.Hold(arrive).Key(reach + 0.5f, new Vector3(-0.02f, -0.01f, 0.05f)).Hold(reach + 2.2f).Key(reach + 3.2f, Vector3.Zero);
        var leave = reach + 3.5f;
        var end = StepPlanner.Walk(
            c,
            leave,
            [lamp, lamp + new Vector3(-0.3f, 0, 0.8f), lamp + new Vector3(-1.4f, 0, 1.15f), new Vector3(-2.4f, 0, 1.9f)],
            step,
            pace,
            width
        );
        c.Duration = end + 1.3f;
        return new ScenePlan(
            "lamp-walk",
            c.Duration,
            [new SceneCast(person, c)],
            [
                new SceneProp(
                    "Lantern pole",
                    0,
                    BodyRole.HandR,
                    InHand: (new Vector3(-0.07f, -0.03f, 0.03f), Rotations.AboutAxis(0, -0.25f))
                ),
            ],
            "Walks the lamps, lights one, walks on"
        )
        {
            SetPieces = [new("lamp-post", 3.8, 0.1)],
        };
    }
}
