using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.StandIns.Acting;
using Eidolon.StandIns.People;

namespace Eidolon.StandIns.Scenes;

/// <summary>Two people face each other over a crate, lift it, carry it sideways along the quay and set it down.</summary>
internal static class CrateCarryScene
{
    private const float Grasp = 2.8f;
    private const float Lifted = 4.3f;
    private const float Steps = 5;
    private const float Pace = 1.05f;

    public static ScenePlan Plan(Person person, int seed)
    {
        var random = new Random(seed);
        var partner = person.Name == HarbourCast.Tobi.Name ? HarbourCast.Ines : HarbourCast.Tobi;
        var way = 0.26f + (0.04f * random.NextSingle());
        var carry = Lifted + 0.4f;
        var arrive = carry + (Steps * Pace);
        var down = arrive + 1.5f;
        var height = 0.72f + (0.05f * random.NextSingle());
        const float start = -0.8f;

        (Vector3, Quaternion) Crate(float t)
        {
            var lift =
                CubicSpline.MinimumJerk(Math.Clamp((t - Grasp - 0.15f) / (Lifted - Grasp - 0.15f), 0, 1))
                - CubicSpline.MinimumJerk(Math.Clamp((t - arrive - 0.1f) / (down - arrive - 0.1f), 0, 1));
            var along = Math.Clamp((t - carry) / (arrive - carry), 0, 1);
            // It sways a little with the steps.
            var sway = lift * 0.012f * MathF.Sin(t * MathF.Tau / Pace);
            return (
                new Vector3(
                    sway * 0.5f,
                    0.18f + (lift * (height - 0.18f)),
                    start + (way * Steps * along) + (lift * 0.015f * MathF.Sin((t * MathF.Tau / Pace) + 1))
                ),
                Rotations.AboutAxis(1, sway) * Rotations.AboutAxis(2, sway * 1.5f)
            );
        }

        var left = Carrier(person, 1, Crate, way, carry, arrive, down, start);
        var right = Carrier(partner, -1, Crate, way, carry, arrive, down, start);
        return new ScenePlan(
            "crate-carry",
            down + 2.6f,
            [new SceneCast(person, left), new SceneCast(partner, right)],
            [new SceneProp("Crate", 0, Core.Skeletons.BodyRole.Pelvis, Crate)],
            "Both lift, carry and set down a crate"
        );
    }

    /// <param name="side">+1 stands at +X and looks to −X.</param>
    private static Choreography Carrier(
        Person person,
        int side,
        Func<float, (Vector3 At, Quaternion Turn)> crate,
        float way,
        float carry,
        float arrive,
        float down,
        float start
    )
    {
        var h = person.Stature;
        var c = new Choreography(down + 2.6f);
        var yaw = -side * MathF.PI / 2;
        var stand = new Vector3(side * (0.23f + (0.215f * h)), 0, start);
        StepPlanner.Stand(c, stand, yaw, h * 0.085f);
        var lead = side > 0 ? 0 : 1;
        for (var k = 0; k < Steps; k++)
        {
            var t = carry + (k * Pace);
            for (var half = 0; half < 2; half++)
            {
                var foot = half == 0 ? lead : 1 - lead;
                var at =
                    stand
                    + new Vector3(0, 0, way * (k + 1))
                    + (new Vector3(MathF.Cos(yaw), 0, -MathF.Sin(yaw)) * ((foot == 0 ? 1 : -1) * h * 0.085f));
                StepPlanner.Step(c, foot, t + (half * 0.52f), t + 0.45f + (half * 0.52f), at, yaw + (foot == 0 ? 0.1f : -0.1f));
            }
        }

        Vector3 low = new(0, -0.190f * h, -0.045f * h),
            bent = new(34, 0, 0),
            hipBent = new(30, 0, 0),
            carrySpine = new(3, 0, 0);
        c.Hips.Hold(1.5f)
            .Key(Grasp - 0.1f, low)
            .Hold(Grasp + 0.2f)
            .Key(Lifted, new Vector3(0, -0.012f * h, 0))
            .Hold(arrive + 0.1f)
            .Key(down, low)
            .Hold(down + 0.25f)
            .Key(down + 1.6f, Vector3.Zero);
        c.Spine.Hold(1.4f)
            .Key(Grasp - 0.1f, bent)
            .Hold(Grasp + 0.2f)
            .Key(Lifted, carrySpine)
            .Hold(arrive + 0.1f)
            .Key(down, bent)
            .Hold(down + 0.25f)
            .Key(down + 1.6f, Vector3.Zero);
        c.HipTurn.Hold(1.4f)
            .Key(Grasp - 0.1f, hipBent)
            .Hold(Grasp + 0.2f)
            .Key(Lifted, new Vector3(2, 0, 0))
            .Hold(arrive + 0.1f)
            .Key(down, hipBent)
            .Hold(down + 0.25f)
            .Key(down + 1.6f, Vector3.Zero);
        c.Head.Hold(1.2f)
            .Key(Grasp, new Vector3(12, 0, 0))
            .Key(Lifted + 0.3f, new Vector3(4, side * 30, 0))
            .Hold(arrive - 0.4f)
            .Key(down, new Vector3(14, 0, 0))
            .Key(down + 1.5f, Vector3.Zero);
        for (var arm = 0; arm < 2; arm++)
        {
            var act = c.Arms[arm];
            act.Swing = 0;
            act.ElbowPole = new Vector3(0.8f, -0.5f, -0.55f);
            act.GoalWeight.Hold(1.6f).Key(Grasp, 1).Hold(down + 0.1f).Key(down + 1.1f, 0);
            // Left hands are at +Z for the one who looks to −X, at −Z for the other.
            var z = (arm == 0 ? 1 : -1) * side * 0.15f;
            act.GoalAt = t =>
            {
                var (at, turn) = crate(t);
                return at + Vector3.Transform(new Vector3(side * 0.29f, 0.10f, z), turn);
            };
        }

        return c;
    }
}
