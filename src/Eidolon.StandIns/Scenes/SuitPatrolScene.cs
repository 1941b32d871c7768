using System.Numerics;
using Eidolon.StandIns.Acting;
using Eidolon.StandIns.People;

namespace Eidolon.StandIns.Scenes;

/// <summary>The suit's calibrating poses, then a watchman's round: along the quay, round the block of sheds and back to where it began.</summary>
internal static class SuitPatrolScene
{
    private const float Rise = 0.17f;

    public static ScenePlan Plan(Person person, int seed, int rounds = 1, bool steps = false)
    {
        var random = new Random(seed);
        var c = new Choreography(10);
        var width = person.Stature * 0.045f;
        var start = new Vector3(-2.2f, 0, -1.8f);
        StepPlanner.Stand(c, start, 0, width * 1.6f);
        var step = person.Stature * (0.39f + (0.03f * random.NextSingle()));
        var pace = 0.52f + (0.05f * random.NextSingle());
        var path = new List<Vector3> { start };
        for (var r = 0; r < rounds; r++)
        {
            float V() => 0.25f * ((2 * random.NextSingle()) - 1);
            path.AddRange([
                new(-2.2f + V(), 0, 1.4f + V()),
                new(-1.4f, 0, 2.1f + V()),
                new(1.6f + V(), 0, 2.1f + V()),
                new(2.3f + V(), 0, 1.3f),
                new(2.3f + V(), 0, -1.1f + V()),
                new(1.5f, 0, -1.9f),
                new(-1.2f + V(), 0, -2.2f),
            ]);
            path.Add(r + 1 == rounds ? start : new(-2.2f, 0, -1.4f));
        }

        // A look over the shoulder now and then.
        for (var t = 3f; t < rounds * 14; t += 6 + (4 * random.NextSingle()))
        {
            c.Head.Hold(t)
                .Key(t + 0.7f, new Vector3(-4, 50 * ((2 * random.NextSingle()) - 1), 0))
                .Hold(t + 1.4f)
                .Key(t + 2.2f, Vector3.Zero);
        }

        var end = StepPlanner.Walk(c, 0.8f, path, step, pace, width, height: steps ? Platform : null);
        c.Duration = end + 1.5f;
        return new ScenePlan("suit-patrol", c.Duration, [new SceneCast(person, c)], [], "Poses, then a round of the block")
        {
            SuitPoses = true,
        };
    }

    /// <summary>Two steps up and two down along one side of the block.</summary>
    private static float Platform(Vector3 place) =>
        place.Z < 1.5f ? 0
        : MathF.Abs(place.X) < 0.5f ? 2 * Rise
        : MathF.Abs(place.X) < 1.1f ? Rise
        : 0;
}
