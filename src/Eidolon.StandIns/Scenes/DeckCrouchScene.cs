using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.StandIns.Acting;
using Eidolon.StandIns.People;

namespace Eidolon.StandIns.Scenes;

/// <summary>Two people creep side by side under a low net, hands on the deck, bent double from the first frame to the last: never a clear pose.</summary>
internal static class DeckCrouchScene
{
    private const float Start = -1.5f;
    private const int Steps = 6;

    public static ScenePlan Plan(Person person, int seed)
    {
        var random = new Random(seed);
        var partner = person.Name == HarbourCast.Tobi.Name ? HarbourCast.Ines : HarbourCast.Tobi;
        var end = 0f;
        var near = Creeper(person, 0.36f, 0.3f, random, ref end);
        var far = Creeper(partner, -0.36f, 0.75f, random, ref end);
        (near.Duration, far.Duration) = (end, end);
        return new ScenePlan("deck-crouch", end, [new SceneCast(person, near), new SceneCast(partner, far)], [], "Both creep under the net")
        {
            SetPieces = [new("net", 0, 0)],
        };
    }

    private static Choreography Creeper(Person person, float x, float start, Random random, ref float end)
    {
        var h = person.Stature;
        var c = new Choreography(12) { Liveliness = 1.4f };
        var width = h * 0.075f;
        var (step, pace) = (0.27f + (0.03f * random.NextSingle()), 0.70f + (0.06f * random.NextSingle()));
        StepPlanner.Stand(c, new Vector3(x, 0, Start), 0, width);
        for (var k = 0; k < Steps * 2; k++)
        {
            var side = k % 2;
            var to = new Vector3(x + (side == 0 ? width : -width) + (0.02f * (random.NextSingle() - 0.5f)), 0, Start + (step * (k + 1)));
            StepPlanner.Step(
                c,
                side,
                start + (k * pace),
                start + (k * pace) + 0.46f,
                k == (Steps * 2) - 1 ? to with { Z = to.Z - step } : to,
                side == 0 ? 0.14f : -0.14f
            );
        }

        var stop = start + (Steps * 2 * pace);
        end = MathF.Max(end, stop + 1.2f);
        // Lowest half way, where the net hangs deepest.
        var middle = (start + stop) / 2;
        c.Hips.Key(0, new Vector3(0, -0.225f * h, -0.05f * h))
            .Key(middle, new Vector3(0.01f, -0.262f * h, -0.06f * h))
            .Key(stop, new Vector3(0, -0.235f * h, -0.05f * h));
        c.HipTurn.Key(0, new Vector3(38, 0, 0)).Key(middle, new Vector3(46, 4, -3)).Key(stop, new Vector3(36, 0, 0));
        c.Spine.Key(0, new Vector3(42, 0, 0))
            .Key(middle - 1, new Vector3(52, 8, 4))
            .Key(middle + 1, new Vector3(56, -9, -4))
            .Key(stop, new Vector3(40, 0, 0));
        c.Head.Key(0, new Vector3(-24, 0, 0))
            .Key(middle - 0.6f, new Vector3(-30, x > 0 ? -28 : 28, 0))
            .Key(middle + 0.8f, new Vector3(-14, 8, 6))
            .Key(stop, new Vector3(-22, 0, 0));
        for (var arm = 0; arm < 2; arm++)
        {
            var act = c.Arms[arm];
            (act.Swing, act.ElbowPole) = (0, new Vector3(0.9f, -0.2f, -0.5f));
            act.GoalWeight.Key(0, 1);
            // A hand goes on with the opposite foot.
            var first = arm == 0 ? 1 : 0;
            var at = new Vector3(x + ((arm == 0 ? 1 : -1) * 0.115f * h), 0.055f, Start + (0.34f * h) + (first * step * 0.5f));
            act.GoalAt = t => Hand(t, at, start + (first * pace) + 0.05f, pace * 2, step * 2);
        }

        return c;
    }

    /// <summary>Where a hand is that stands still and goes on by a stride once a cycle.</summary>
    private static Vector3 Hand(float t, Vector3 from, float start, float cycle, float stride)
    {
        var n = Math.Clamp((t - start) / cycle, 0, Steps);
        var (whole, part) = (MathF.Floor(n), n - MathF.Floor(n));
        var s = CubicSpline.MinimumJerk(MathF.Min(1, part / 0.36f));
        return from + new Vector3(0, 0.11f * MathF.Sin(MathF.PI * s), stride * (whole + s));
    }
}
