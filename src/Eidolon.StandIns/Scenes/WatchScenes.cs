using System.Numerics;
using Eidolon.StandIns.Acting;
using Eidolon.StandIns.People;

namespace Eidolon.StandIns.Scenes;

/// <summary>The night watch: standing about, and a round of twenty steps. Made to be looped and joined.</summary>
internal static class WatchScenes
{
    /// <summary>Stands, shifts the weight from leg to leg, looks out over the water.</summary>
    public static ScenePlan Stand(Person person, int seed)
    {
        var random = new Random(seed);
        var h = person.Stature;
        var c = new Choreography(10) { Liveliness = 1.4f };
        StepPlanner.Stand(c, Vector3.Zero, 0, h * 0.062f);
        for (var k = 0; k < 4; k++)
        {
            var (t, side) = (1 + (2.2f * k) + (0.3f * random.NextSingle()), k % 2 == 0 ? 1 : -1);
            c.Hips.Key(t, new Vector3(0.016f * h * side, -0.004f * h, 0)).Hold(t + 1);
            c.Spine.Key(t + 0.2f, new Vector3(1, 4 * side, -2 * side)).Hold(t + 1.1f);
            c.Head.Key(t + 0.4f, new Vector3(-3, 28 * side * random.NextSingle(), 0)).Hold(t + 1.2f);
        }

        return new ScenePlan("long-watch", c.Duration, [new SceneCast(person, c)], [], "Stands the long watch");
    }

    /// <summary>Twenty steps in a wide round.</summary>
    public static ScenePlan Round(Person person, int seed)
    {
        var random = new Random(seed);
        var h = person.Stature;
        var c = new Choreography(14);
        var step = h * (0.38f + (0.02f * random.NextSingle()));
        // A circle whose way is twenty steps long.
        var radius = 20 * step / (2 * MathF.PI);
        var path = Enumerable
            .Range(0, 33)
            .Select(k => k * MathF.PI / 16)
            .Select(a => new Vector3(-radius * MathF.Cos(a), 0, radius * MathF.Sin(a)))
            .ToArray();
        StepPlanner.Stand(c, path[0], 0, h * 0.06f);
        var end = StepPlanner.Walk(c, 1, path, step, 0.53f + (0.03f * random.NextSingle()), h * 0.044f);
        c.Duration = end + 1.2f;
        return new ScenePlan("quay-round", c.Duration, [new SceneCast(person, c)], [], "A round of twenty steps");
    }
}
