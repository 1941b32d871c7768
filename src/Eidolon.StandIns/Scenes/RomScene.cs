using System.Numerics;
using Eidolon.StandIns.Acting;
using Eidolon.StandIns.People;

namespace Eidolon.StandIns.Scenes;

/// <summary>Range of motion: T-pose, every joint through its range in turn, A-pose at the end.</summary>
internal static class RomScene
{
    public static ScenePlan Plan(Person person, int seed)
    {
        var random = new Random(seed);
        float V(float share = 0.08f) => 1 + ((random.NextSingle() - 0.5f) * 2 * share);
        var c = new Choreography(48);
        var (apart, low) = TPose(person);
        StepPlanner.Stand(c, new Vector3(0.15f, 0, 0.1f), 0.1f * (random.NextSingle() - 0.5f), person.Stature * apart);
        var t = Arms(c, low, V);
        t = Trunk(c, t, V);
        t = Legs(c, person, t, V);
        Squat(c, t, V);
        c.Duration = t + 6;
        return new ScenePlan("rom", c.Duration, [new SceneCast(person, c)], [], "Range of motion");
    }

    /// <summary>Nobody stands quite as asked: a stranger's legs are up to four degrees outward, the arms up to six low.</summary>
    /// <returns>Half the way between the feet, share of the stature; how far the hands are below the shoulders, share of the arm.</returns>
    private static (float Apart, float Low) TPose(Person person)
    {
        var own = person.Spread / 0.12f;
        var random = new Random(person.Seed + 3);
        return (0.066f + (0.02f * own * random.NextSingle()), own * ((0.12f * random.NextSingle()) - 0.02f) - 0.02f);
    }

    private static float Arms(Choreography c, float low, Func<float, float> vary)
    {
        var tPose = new Vector3(1, -low, 0);
        for (var side = 0; side < 2; side++)
        {
            var arm = new ArmAct
            {
                Direction = new Track(tPose),
                Bend = new Track(new Vector3(2, 0, 0)),
                Swing = 0,
            };
            c.Arms[side] = arm;
            arm.Direction.Hold(2.5f);
            // Big circles, then forward and up, then across.
            for (var k = 0; k <= 8; k++)
            {
                var a = k * MathF.PI / 4;
                arm.Direction.Key(3 + (k * 0.42f), new Vector3(0.55f, 0.8f * MathF.Sin(a) * vary(0.1f), 0.85f * MathF.Cos(a) - 0.1f));
            }

            arm.Direction.Key(7.2f, new Vector3(0.1f, -1, 0.05f))
                .Key(8.2f, new Vector3(0.05f, 0.1f, 1))
                .Key(9.2f, new Vector3(0.12f, 1, 0.12f))
                .Key(10.4f, new Vector3(1, 0.3f, -0.1f))
                .Key(11.4f, new Vector3(-0.45f, -0.1f, 1))
                .Key(12.4f, new Vector3(0.8f, -0.4f, -0.5f))
                .Key(13.2f, tPose)
                .Hold(19.5f)
                .Key(20.5f, new Vector3(0.25f, -1, 0.03f));
            arm.Bend.Hold(13.2f)
                .Key(14, new Vector3(125 * vary(0.05f), 0, 0))
                .Key(14.8f, new Vector3(3, 0, 0))
                .Key(15.5f, new Vector3(95, 0, 50))
                .Key(16.2f, new Vector3(95, 60, -55))
                .Key(17, new Vector3(90, -60, 30))
                .Key(17.8f, new Vector3(20, 40, 0))
                .Key(18.6f, new Vector3(4, 0, 0))
                .Hold(19.5f)
                .Key(20.5f, new Vector3(12, 0, 0));
            arm.Wrist.Hold(17.4f)
                .Key(17.9f, new Vector3(55, 0, 0))
                .Key(18.4f, new Vector3(-50, 0, 0))
                .Key(18.9f, new Vector3(0, 20, 0))
                .Key(19.3f, new Vector3(0, -20, 0))
                .Key(19.7f, Vector3.Zero)
                .Hold(20.6f)
                .Key(21.2f, new Vector3(0, 0, 16))
                .Key(21.8f, new Vector3(0, 0, -6))
                .Key(22.4f, Vector3.Zero);
        }

        return 22.6f;
    }

    private static float Trunk(Choreography c, float t, Func<float, float> vary)
    {
        c.Spine.Hold(t)
            .Key(t + 1.2f, new Vector3(55 * vary(0.1f), 0, 0))
            .Key(t + 2.4f, new Vector3(-15, 0, 0))
            .Key(t + 3.4f, new Vector3(0, 0, 28))
            .Key(t + 4.6f, new Vector3(0, 0, -28))
            .Key(t + 5.6f, new Vector3(0, 38, 0))
            .Key(t + 6.8f, new Vector3(0, -38, 0))
            .Key(t + 7.6f, Vector3.Zero);
        c.HipTurn.Hold(t)
            .Key(t + 1.2f, new Vector3(18, 0, 0))
            .Key(t + 2.4f, Vector3.Zero)
            .Hold(t + 4.8f)
            .Key(t + 5.6f, new Vector3(0, 14, 0))
            .Key(t + 6.8f, new Vector3(0, -14, 0))
            .Key(t + 7.6f, Vector3.Zero);
        t += 7.6f;
        c.Head.Hold(t)
            .Key(t + 0.7f, new Vector3(38, 0, 0))
            .Key(t + 1.5f, new Vector3(-35, 0, 0))
            .Key(t + 2.3f, new Vector3(0, 60, 0))
            .Key(t + 3.3f, new Vector3(0, -60, 0))
            .Key(t + 4.0f, new Vector3(0, 0, 28))
            .Key(t + 4.8f, new Vector3(0, 0, -28))
            .Key(t + 5.4f, Vector3.Zero);
        return t + 5.6f;
    }

    private static float Legs(Choreography c, Person person, float t, Func<float, float> vary)
    {
        for (var side = 0; side < 2; side++)
        {
            var feet = c.Feet[side];
            var place = feet[^1];
            var sign = side == 0 ? 1f : -1f;
            // The hips move over the standing foot before the other one leaves.
            c.Hips.Hold(t)
                .Key(t + 0.8f, new Vector3(-sign * 0.055f * person.Stature, -0.015f, 0))
                .Hold(t + 9.2f)
                .Key(t + 10, Vector3.Zero);
            feet[^1] = place with { Up = t + 1 };
            feet.Add(place with { Down = t + 9, Up = float.PositiveInfinity });
            var k = person.Stature * vary(0.06f);
            c.Lift[side]
                .Hold(t + 1)
                .Key(t + 1.9f, new Vector3(0, 0.30f * k, 0.26f * k))
                .Key(t + 2.7f, new Vector3(0.02f * sign, 0.10f * k, 0.40f * k))
                .Key(t + 3.5f, new Vector3(0, 0.14f * k, -0.26f * k))
                .Key(t + 4.3f, new Vector3(sign * 0.34f * k, 0.14f * k, 0.02f))
                .Key(t + 5.0f, new Vector3(-sign * 0.10f * k, 0.08f * k, 0.22f * k))
                .Key(t + 5.8f, new Vector3(0, 0.26f * k, -0.16f * k))
                .Key(t + 6.6f, new Vector3(sign * 0.10f * k, 0.28f * k, 0.24f * k))
                .Hold(t + 8.1f)
                .Key(t + 8.95f, Vector3.Zero);
            c.FootTurn[side]
                .Hold(t + 1)
                .Key(t + 1.9f, new Vector3(20, 0, 0))
                .Key(t + 2.7f, new Vector3(-15, 0, 0))
                .Key(t + 3.5f, new Vector3(45, 0, 0))
                .Key(t + 4.3f, new Vector3(5, sign * 15, 0))
                .Key(t + 5.0f, new Vector3(10, -sign * 15, 0))
                .Key(t + 5.8f, new Vector3(55, 0, 0))
                .Key(t + 6.6f, new Vector3(30, 0, 0))
                .Key(t + 7.1f, new Vector3(-12, sign * 18, 0))
                .Key(t + 7.6f, new Vector3(32, -sign * 18, 10))
                .Key(t + 8.1f, new Vector3(5, 0, -10))
                .Key(t + 8.95f, Vector3.Zero);
            t += 10.2f;
        }

        return t;
    }

    private static void Squat(Choreography c, float t, Func<float, float> vary)
    {
        c.Hips.Hold(t + 0.2f).Key(t + 1.6f, new Vector3(0, -0.34f * vary(0.1f), -0.14f)).Key(t + 3, Vector3.Zero);
        c.Spine.Hold(t + 0.2f).Key(t + 1.6f, new Vector3(22, 0, 0)).Key(t + 3, Vector3.Zero);
        c.HipTurn.Hold(t + 0.2f).Key(t + 1.6f, new Vector3(20, 0, 0)).Key(t + 3, Vector3.Zero);
        foreach (var arm in c.Arms)
        {
            arm.Direction.Hold(t + 0.2f)
                .Key(t + 1.6f, new Vector3(0.15f, -0.1f, 1))
                .Key(t + 3, new Vector3(0.25f, -1, 0.03f))
                .Hold(t + 3.4f)
                .Key(t + 4.4f, new Vector3(1, -1, 0));
        }
    }
}
