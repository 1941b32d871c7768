using System.Numerics;
using Eidolon.StandIns.Acting;
using Eidolon.StandIns.People;

namespace Eidolon.StandIns.Scenes;

/// <summary>Runs along the quay: straight on, and round the corner of the shed. Made to be joined with one another.</summary>
internal static class RunScenes
{
    /// <summary>Share of a stride that a running foot stands.</summary>
    private const float Stance = 0.36f;

    public static ScenePlan Straight(Person person, int seed) =>
        Run(person, seed, "quay-run", "Runs the length of the quay", [new(-3.5f, 0, 1.2f), new(3.4f, 0, 1.2f)]) with
        {
            SetPieces = [new("mooring-line", 0, 2.6)],
        };

    public static ScenePlan Corner(Person person, int seed) =>
        Run(
            person,
            seed,
            "corner-run",
            "Runs, turns the corner of the shed, runs on",
            [new(-3.4f, 0, -1.8f), new(-0.2f, 0, -1.8f), new(0.7f, 0, -1.45f), new(1.15f, 0, -0.6f), new(1.2f, 0, 2.6f)]
        );

    private static ScenePlan Run(Person person, int seed, string name, string note, Vector3[] path)
    {
        var random = new Random(seed);
        var h = person.Stature;
        var c = new Choreography(5);
        var ahead = path[1] - path[0];
        StepPlanner.Stand(c, path[0], MathF.Atan2(ahead.X, ahead.Z), h * 0.055f);
        var pace = 0.33f + (0.02f * random.NextSingle());
        var end = StepPlanner.Walk(c, 0.9f, path, h * (0.50f + (0.04f * random.NextSingle())), pace, h * 0.034f, Stance);
        c.Spine.Key(0.8f, new Vector3(2, 0, 0)).Key(1.4f, new Vector3(11, 0, 0)).Hold(end - 0.8f).Key(end + 0.3f, new Vector3(2, 0, 0));
        c.Hips.Hold(0.6f)
            .Key(1.2f, new Vector3(0, -0.02f * h, 0))
            .Hold(end - 0.4f)
            .Key(end, new Vector3(0, -0.03f * h, 0))
            .Key(end + 0.6f, Vector3.Zero);
        foreach (var arm in c.Arms)
        {
            arm.Swing = 1.3f;
            arm.Bend.Key(0.8f, new Vector3(14, 0, 0))
                .Key(1.3f, new Vector3(78, 0, 0))
                .Hold(end - 0.5f)
                .Key(end + 0.5f, new Vector3(14, 0, 0));
        }

        c.Duration = end + 1.4f;
        return new ScenePlan(name, c.Duration, [new SceneCast(person, c)], [], note);
    }
}
