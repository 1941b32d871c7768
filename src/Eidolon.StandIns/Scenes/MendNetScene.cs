using System.Numerics;
using Eidolon.StandIns.Acting;
using Eidolon.StandIns.People;

namespace Eidolon.StandIns.Scenes;

/// <summary>Mends a net before the witness cameras: sits down to it, works, kneels to the far end, both hands on the floor, and gets up.</summary>
internal static class MendNetScene
{
    private const float Sit = 1.2f,
        Rise = 7.4f,
        Back = 9.2f,
        Kneel = 10.2f,
        Hands = 12.6f,
        Up = 17f;

    public static ScenePlan Plan(Person person, int seed)
    {
        var random = new Random(seed);
        float V(float share) => 1 + (share * ((2 * random.NextSingle()) - 1));
        var h = person.Stature;
        var c = new Choreography(21);
        var at = new Vector3(0.2f, 0, 0.1f);
        var width = 0.066f * h;
        StepPlanner.Stand(c, at, 0, width);
        StepPlanner.Step(c, 1, Back, Back + 0.6f, at + new Vector3(-width, 0, -0.26f * h), 0);
        StepPlanner.Step(c, 1, Up + 1.1f, Up + 1.7f, at + new Vector3(-width, 0, 0), 0);
        // Kneeling on the right knee its foot stands on the toes.
        c.Feet[1][1] = c.Feet[1][1] with { Up = Kneel - 0.3f };
        c.Feet[1].Insert(2, c.Feet[1][1] with { Down = Up + 0.4f, Up = Up + 1.1f });
        c.Lift[1].Hold(Kneel - 0.3f).Key(Kneel + 0.5f, new Vector3(0, 0.055f * h, 0)).Hold(Up - 0.3f).Key(Up + 0.38f, Vector3.Zero);
        c.FootTurn[1].Hold(Kneel - 0.3f).Key(Kneel + 0.5f, new Vector3(52, 0, 0)).Hold(Up - 0.3f).Key(Up + 0.38f, Vector3.Zero);
        c.OnToes[1].Add((Kneel + 0.5f, Up - 0.3f));
        Body(c, h, V);
        for (var side = 0; side < 2; side++)
        {
            Arm(c.Arms[side], side == 0 ? 1 : -1, at, h, V(0.1f));
        }

        return new ScenePlan("cam-mend-net", c.Duration, [new SceneCast(person, c)], [], "Mends the net: sits, kneels, hands on the floor");
    }

    private static void Body(Choreography c, float h, Func<float, float> vary)
    {
        c.Hips.Hold(Sit)
            .Key(Sit + 1.5f, new Vector3(0, -0.22f * h, -0.19f * h * vary(0.06f)))
            .Hold(Rise)
            .Key(Rise + 1.4f, Vector3.Zero)
            .Hold(Kneel - 0.4f)
            .Key(Kneel + 1.1f, new Vector3(0, -0.245f * h, 0.01f * h))
            .Hold(Hands - 0.3f)
            .Key(Hands + 0.9f, new Vector3(0, -0.25f * h, 0.05f * h))
            .Hold(Up - 1)
            .Key(Up, new Vector3(0, -0.245f * h, 0.01f * h))
            .Key(Up + 1.2f, Vector3.Zero);
        c.HipTurn.Hold(Sit)
            .Key(Sit + 1.5f, new Vector3(12, 0, 0))
            .Hold(Rise)
            .Key(Rise + 1.2f, Vector3.Zero)
            .Hold(Hands - 0.3f)
            .Key(Hands + 0.9f, new Vector3(32 * vary(0.1f), 0, 0))
            .Hold(Up - 1)
            .Key(Up, Vector3.Zero);
        c.Spine.Hold(Sit)
            .Key(Sit + 1.5f, new Vector3(24 * vary(0.2f), 6, 0))
            .Hold(Rise)
            .Key(Rise + 1.2f, Vector3.Zero)
            .Hold(Kneel)
            .Key(Kneel + 1, new Vector3(18, -8, 0))
            .Hold(Hands - 0.3f)
            .Key(Hands + 0.9f, new Vector3(44, 0, 0))
            .Hold(Up - 1)
            .Key(Up, new Vector3(6, 0, 0))
            .Key(Up + 1, Vector3.Zero);
        c.Head.Hold(Sit)
            .Key(Sit + 1.4f, new Vector3(22, 4, 0))
            .Hold(4.2f)
            .Key(4.8f, new Vector3(-4, 42 * vary(0.2f), 0))
            .Hold(5.6f)
            .Key(6.2f, new Vector3(22, -6, 0))
            .Hold(Rise)
            .Key(Rise + 1, Vector3.Zero)
            .Hold(Hands)
            .Key(Hands + 1, new Vector3(-18, 0, 0))
            .Hold(Up - 0.8f)
            .Key(Up + 0.5f, Vector3.Zero);
    }

    private static void Arm(ArmAct arm, int sign, Vector3 at, float h, float vary)
    {
        arm.ElbowPole = new Vector3(0.8f, -0.5f, -0.5f);
        arm.GoalWeight.Hold(Sit + 0.6f)
            .Key(Sit + 1.7f, 1)
            .Hold(Rise - 0.6f)
            .Key(Rise + 0.6f, 0)
            .Hold(Kneel + 0.2f)
            .Key(Kneel + 1.3f, 1)
            .Hold(Up - 1)
            .Key(Up + 0.1f, 0);
        var lap = at + new Vector3(sign * 0.075f * h, 0.36f * h, 0.13f * h);
        var low = at + new Vector3(sign * 0.10f * h, 0.20f * h, 0.20f * h);
        var floor = at + new Vector3(sign * 0.12f * h, 0.035f * h, 0.30f * h);
        arm.GoalAt = t =>
        {
            // One hand pulls the twine while the other holds.
            var pull = MathF.Sin(t * 2.6f * vary) * (sign > 0 ? 0.05f : 0.09f) * h;
            var work = new Vector3(sign * MathF.Abs(pull), MathF.Max(0, pull) * 0.9f, pull * 0.3f);
            var down =
                Core.Geometry.CubicSpline.MinimumJerk((t - Hands) / 1.1f) * Core.Geometry.CubicSpline.MinimumJerk((Up - 1 - t) / 0.8f);
            return t < Rise + 1 ? lap + work : Vector3.Lerp(low + (work * 0.6f), floor, down);
        };
    }
}
