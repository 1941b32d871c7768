using System.Numerics;
using Eidolon.StandIns.Acting;
using Eidolon.StandIns.People;

namespace Eidolon.StandIns.Scenes;

/// <summary>A run-up, a hop over the gap between quay and plank, a landing, and three steps up.</summary>
internal static class GangplankHopScene
{
    private const float Rise = 0.17f;
    private const float Tread = 0.34f;

    public static ScenePlan Plan(Person person, int seed)
    {
        var random = new Random(seed);
        var h = person.Stature;
        var c = new Choreography(9);
        var w = h * 0.042f;
        const float z0 = -2.5f;
        const float x = 0.4f;
        StepPlanner.Stand(c, new Vector3(x, 0, z0), 0, w * 1.4f);
        var run = h * (0.50f + (0.03f * random.NextSingle()));
        Vector3 L(float z, float y = 0) => new(x + w, y, z);
        Vector3 R(float z, float y = 0) => new(x - w, y, z);
        // Three running steps with short flights.
        StepPlanner.Step(c, 0, 1.00f, 1.36f, L(z0 + (run * 0.75f)), 0, true);
        StepPlanner.Step(c, 1, 1.34f, 1.76f, R(z0 + (run * 1.75f)), 0, true, true);
        StepPlanner.Step(c, 0, 1.68f, 2.12f, L(z0 + (run * 2.85f)), 0, true, true);
        c.Flights.Add((1.68f, 1.76f));
        c.Flights.Add((2.04f, 2.12f));
        // The hop: off the left foot, landing on both.
        var flight = 0.40f + (0.03f * random.NextSingle());
        const float off = 2.42f;
        var z = z0 + (run * 2.85f) + (0.58f * h);
        StepPlanner.Step(c, 1, 2.04f, off + flight, R(z - 0.03f), -0.05f, false, true);
        StepPlanner.Step(c, 0, off, off + flight + 0.02f, L(z), 0.05f, false, true);
        c.Flights.Add((off, off + flight));
        var land = off + flight;
        c.Hips.Key(off - 0.28f, Vector3.Zero)
            .Key(off - 0.12f, new Vector3(0, -0.035f * h, 0))
            .Key(off, Vector3.Zero)
            .Hold(land)
            .Key(land + 0.18f, new Vector3(0, -0.10f * h, -0.02f))
            .Key(land + 0.75f, Vector3.Zero);
        c.Spine.Key(1.0f, new Vector3(2, 0, 0))
            .Key(1.5f, new Vector3(10, 0, 0))
            .Hold(off - 0.1f)
            .Key(off + 0.15f, new Vector3(4, 0, 0))
            .Key(land + 0.2f, new Vector3(22, 0, 0))
            .Key(land + 0.9f, new Vector3(2, 0, 0));
        foreach (var arm in c.Arms)
        {
            arm.Swing = 1.25f;
            arm.Bend.Key(1.0f, new Vector3(14, 0, 0))
                .Key(1.4f, new Vector3(70, 0, 0))
                .Hold(off)
                .Key(off + 0.25f, new Vector3(40, 0, 0))
                .Key(land + 0.8f, new Vector3(14, 0, 0));
            arm.Direction.Hold(off - 0.3f)
                .Key(off - 0.1f, new Vector3(0.3f, -0.9f, -0.45f))
                .Key(off + 0.18f, new Vector3(0.55f, -0.1f, 0.75f))
                .Key(land + 0.15f, new Vector3(0.55f, -0.7f, 0.35f))
                .Key(land + 0.9f, new Vector3(0.18f, -1, 0.02f));
        }

        Climb(c, z, land + 1.15f, L, R);
        return new ScenePlan("gangplank-hop", c.Duration, [new SceneCast(person, c)], [], "Runs, hops the gap, lands, climbs three steps")
        {
            // The plank begins where the gap ends; the first tread lies before the foot that climbs it.
            SetPieces = [new("gangplank", x, (z0 + (run * 2.85f) + z) / 2), new("steps", x, z + 0.38f - 0.12f)],
        };
    }

    private static void Climb(Choreography c, float z, float t, Func<float, float, Vector3> left, Func<float, float, Vector3> right)
    {
        const float pace = 0.62f;
        var edge = z + 0.38f;
        for (var k = 0; k < 3; k++)
        {
            var to = edge + (k * Tread);
            var side = k % 2;
            StepPlanner.Step(
                c,
                side,
                t + (k * pace),
                t + (k * pace) + 0.46f,
                side == 0 ? left(to, (k + 1) * Rise) : right(to, (k + 1) * Rise),
                0,
                false,
                k > 0
            );
        }

        var last = t + (3 * pace);
        StepPlanner.Step(c, 1, last, last + 0.5f, right(edge + (2 * Tread) - 0.02f, 3 * Rise), -0.08f, false, true);
        c.Spine.Hold(t).Key(t + 0.4f, new Vector3(9, 0, 0)).Hold(last).Key(last + 0.8f, Vector3.Zero);
        c.Duration = last + 2.0f;
    }
}
