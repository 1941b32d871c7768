using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Acting;
using Eidolon.StandIns.People;

namespace Eidolon.StandIns.Scenes;

/// <summary>Hauling a rope hand over hand, leaning back, a foot set anew now and then.</summary>
internal static class HaulRopeScene
{
    public static ScenePlan Plan(Person person, int seed)
    {
        var random = new Random(seed);
        var h = person.Stature;
        var pulls = 6 + random.Next(2);
        var beat = 1.45f + (0.15f * random.NextSingle());
        const float begin = 1.6f;
        var end = begin + (pulls * beat);
        var c = new Choreography(end + 2.4f);
        StepPlanner.Stand(c, Vector3.Zero, 0, h * 0.075f);
        // Brace: left foot ahead, right foot back and turned out.
        StepPlanner.Step(c, 0, 0.5f, 0.95f, new Vector3(0.11f * h, 0, 0.17f * h), 0.05f);
        StepPlanner.Step(c, 1, 1.0f, 1.45f, new Vector3(-0.10f * h, 0, -0.20f * h), -0.45f);
        var back = begin + (pulls / 2 * beat);
        StepPlanner.Step(c, 1, back, back + 0.42f, new Vector3(-0.12f * h, 0, -0.30f * h), -0.5f);
        StepPlanner.Step(c, 0, back + 0.55f, back + 0.95f, new Vector3(0.10f * h, 0, 0.06f * h), 0.05f);
        StepPlanner.Step(c, 0, end + 0.4f, end + 0.85f, new Vector3(0.08f * h, 0, -0.10f * h), 0.1f);
        StepPlanner.Step(c, 1, end + 0.95f, end + 1.4f, new Vector3(-0.07f * h, 0, -0.12f * h), -0.1f);
        for (var k = 0; k <= pulls; k++)
        {
            var t = begin + (k * beat);
            c.Hips.Key(t, new Vector3(0, -0.050f * h, 0.02f * h)).Key(t + (0.55f * beat), new Vector3(0, -0.072f * h, -0.055f * h));
            c.Spine.Key(t, new Vector3(6, 9, 0)).Key(t + (0.55f * beat), new Vector3(-6, -10, 0));
            c.HipTurn.Key(t, new Vector3(4, 4, 0)).Key(t + (0.55f * beat), new Vector3(-8, -5, 0));
        }

        c.Hips.Key(end + 1.6f, Vector3.Zero);
        c.Spine.Key(end + 1.6f, Vector3.Zero);
        c.HipTurn.Key(end + 1.6f, Vector3.Zero);
        c.Head.Key(begin, new Vector3(6, 0, 0)).Hold(end).Key(end + 1, Vector3.Zero);
        for (var side = 0; side < 2; side++)
        {
            var arm = c.Arms[side];
            var offset = side == 0 ? 0 : 0.5f;
            var sign = side == 0 ? 1 : -1;
            arm.Swing = 0;
            arm.ElbowPole = new Vector3(0.75f, -0.65f, -0.25f);
            // The arms come up by themselves before the hands close on the rope.
            arm.Direction.Hold(0.2f)
                .Key(begin - 0.6f, new Vector3(0.28f, -0.85f, 0.45f))
                .Hold(end + 0.9f)
                .Key(end + 1.7f, new Vector3(0.18f, -1, 0.02f));
            arm.Bend.Hold(0.2f).Key(begin - 0.6f, new Vector3(88, 0, 0)).Hold(end + 0.9f).Key(end + 1.7f, new Vector3(14, 0, 0));
            arm.GoalWeight.Hold(begin - 0.6f).Key(begin + 0.15f, 1).Hold(end - 0.1f).Key(end + 0.8f, 0);
            arm.GoalAt = t => Rope(h, sign, (MathF.Max(0, t - begin) / beat) + offset);
        }

        return new ScenePlan("haul-rope", c.Duration, [new SceneCast(person, c)], [], "Hauls hand over hand, sets a foot back")
        {
            SetPieces = [new("bollard", 0, 1.9)],
        };
    }

    /// <summary>The wrist on its round: along the rope towards the body, then under it and out again.</summary>
    private static Vector3 Rope(float h, int sign, float phase)
    {
        var u = phase - MathF.Floor(phase);
        const float pull = 0.62f;
        float near = 0.215f * h,
            far = 0.375f * h;
        float z,
            y;
        if (u < pull)
        {
            var e = CubicSpline.MinimumJerk(u / pull);
            z = float.Lerp(far, near, e);
            y = 0;
        }
        else
        {
            var v = (u - pull) / (1 - pull);
            z = float.Lerp(near, far, CubicSpline.MinimumJerk(v));
            y = 0.055f * h * MathF.Sin(MathF.PI * v);
        }

        return new Vector3(sign * 0.05f * h, (0.665f * h) + y + (z * 0.10f), z);
    }
}
