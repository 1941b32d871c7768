using System.Numerics;
using Eidolon.StandIns.Acting;
using Eidolon.StandIns.People;

namespace Eidolon.StandIns.Scenes;

/// <summary>Comes along the top of the quay's steps, goes down three of them and walks on over the lower quay.</summary>
internal static class StepsDownScene
{
    private const float Rise = 0.17f,
        Tread = 0.34f;

    /// <summary>Where the first tread below the top begins, going towards −Z.</summary>
    private const float Edge = 0.6f;

    public static ScenePlan Plan(Person person, int seed)
    {
        var random = new Random(seed);
        var h = person.Stature;
        var c = new Choreography(9);
        var (x, w) = (0.3f, h * 0.042f);
        var pace = 0.53f + (0.04f * random.NextSingle());
        var top = new Vector3(x, 3 * Rise, 2.6f);
        StepPlanner.Stand(c, top, MathF.PI, w * 1.4f);
        Vector3 At(int side, float z, float y) => new(side == 0 ? x - w : x + w, y, z);
        // Two steps along the top, three down, each foot on a tread of its own.
        var (t, swing, side) = (1f, 0.5f, 1);
        float[] z = [2.1f, 1.5f, 0.95f, Edge - (0.5f * Tread), Edge - (1.5f * Tread), Edge - (2.5f * Tread)];
        int[] level = [3, 3, 3, 2, 1, 0];
        for (var k = 0; k < z.Length; k++, side = 1 - side)
        {
            StepPlanner.Step(c, side, t, t + swing, At(side, z[k], level[k] * Rise), MathF.PI, level[k] == 3, k > 0);
            t += level[k] == 3 ? pace : pace + 0.08f;
        }

        c.Spine.Hold(1.6f).Key(2.4f, new Vector3(7, 0, 0)).Hold(t).Key(t + 0.8f, new Vector3(1, 0, 0));
        c.Head.Hold(1.4f).Key(2.2f, new Vector3(16, 0, 0)).Hold(t - 0.3f).Key(t + 0.7f, Vector3.Zero);
        var end = StepPlanner.Walk(c, t + 0.06f, [new(x, 0, z[^1]), new(x, 0, -2.6f)], h * 0.39f, pace, w);
        c.Duration = end + 1.3f;
        return new ScenePlan("steps-down", c.Duration, [new SceneCast(person, c)], [], "Down three steps, and on")
        {
            SetPieces = [new("steps", x, Edge - (2.5f * Tread) + 0.17f)],
        };
    }
}
