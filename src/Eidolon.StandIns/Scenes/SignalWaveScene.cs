using System.Numerics;
using Eidolon.StandIns.Acting;
using Eidolon.StandIns.People;

namespace Eidolon.StandIns.Scenes;

/// <summary>
/// Open hands and fists in the T-pose, one clap, then a wave to a boat, a hand that points out to sea and five fingers counted. Face and fingers
/// are recorded too.
/// </summary>
internal static class SignalWaveScene
{
    private static readonly Vector3 Hanging = new(0.25f, -1, 0.04f);

    public static ScenePlan Plan(Person person, int seed)
    {
        var random = new Random(seed);
        float V() => 0.12f * ((2 * random.NextSingle()) - 1);
        var c = new Choreography(24) { Hands = [new HandAct(), new HandAct()] };
        StepPlanner.Stand(c, new Vector3(0.1f, 0, 0), 0.06f * V(), person.Stature * 0.062f);
        var clap = 5.0f + V();
        Poses(c, clap);
        Clap(c, person, clap);
        var point = 11.4f + V();
        Right(c, 6.4f + V(), point);
        Count(c.Hands![0], c.Arms[0], 17.2f + V());
        c.Head.Hold(clap + 0.8f)
            .Key(7, new Vector3(-8, -14, 0))
            .Hold(10)
            .Key(point, new Vector3(-4, -26, 0))
            .Hold(16)
            .Key(17.6f, new Vector3(18, 16, 0))
            .Hold(21)
            .Key(22, Vector3.Zero);
        c.Spine.Hold(point - 0.8f).Key(point, new Vector3(0, -14, 0)).Hold(16).Key(17, Vector3.Zero);
        return new ScenePlan(
            "signal-wave",
            c.Duration,
            [new SceneCast(person, c)],
            [],
            "Poses of the hands, a clap, a wave, a pointing hand; face"
        )
        {
            Face = Face(clap, point, random),
        };
    }

    /// <summary>The T-pose with open hands, then with fists.</summary>
    private static void Poses(Choreography c, float clap)
    {
        foreach (var arm in c.Arms)
        {
            arm.Direction.Key(0, new Vector3(1, -0.03f, 0)).Hold(3.1f).Key(3.9f, Hanging).Hold(clap - 0.7f);
            arm.Bend.Key(0, new Vector3(3, 0, 0)).Hold(3.1f).Key(3.9f, new Vector3(14, 0, 0)).Hold(clap - 0.7f);
            arm.Swing = 0;
        }

        foreach (var hand in c.Hands!)
        {
            hand.Open(0).Hold(1.4f).Close(1.9f).Hold(3.0f).Open(3.6f).Hold(clap + 0.5f).Relax(clap + 1);
        }
    }

    /// <summary>Both palms meet before the chest and part again.</summary>
    private static void Clap(Choreography c, Person person, float clap)
    {
        for (var side = 0; side < 2; side++)
        {
            var sign = side == 0 ? 1 : -1;
            var arm = c.Arms[side];
            Vector3 At(float apart) => new(0.1f + (sign * apart), person.Stature * 0.70f, 0.30f * person.Stature / 1.75f);
            arm.GoalWeight.Hold(clap - 0.7f).Key(clap - 0.25f, 1).Hold(clap + 0.35f).Key(clap + 0.9f, 0);
            // Palms hit with speed and part slower.
            arm.GoalAt = t =>
            {
                var near = MathF.Sqrt(((t - clap) * (t - clap)) + (0.006f * 0.006f));
                return At(0.03f + (0.17f * MathF.Tanh(near / (t < clap ? 0.14f : 0.22f))));
            };
        }
    }

    /// <summary>The right arm: five waves overhead, then the index finger out to sea.</summary>
    private static void Right(Choreography c, float wave, float point)
    {
        var (arm, hand) = (c.Arms[1], c.Hands![1]);
        arm.Direction.Hold(wave - 0.7f).Key(wave, new Vector3(0.75f, 0.55f, 0.25f));
        arm.Bend.Hold(wave - 0.7f).Key(wave, new Vector3(60, 0, 70));
        hand.Hold(wave - 0.5f).Open(wave);
        for (var k = 0; k < 5; k++)
        {
            var t = wave + 0.3f + (k * 0.66f);
            arm.Bend.Key(t, new Vector3(84, 0, 70)).Key(t + 0.33f, new Vector3(40, 0, 70));
            arm.Wrist.Key(t, new Vector3(0, 14, 4)).Key(t + 0.33f, new Vector3(0, -14, 4));
        }

        arm.Wrist.Key(point - 0.8f, Vector3.Zero);
        arm.Direction.Hold(point - 0.9f).Key(point, new Vector3(0.35f, 0.06f, 1)).Hold(16).Key(17, Hanging);
        arm.Bend.Key(point - 0.9f, new Vector3(50, 0, 70)).Key(point, new Vector3(6, 0, 0)).Hold(16).Key(17, new Vector3(14, 0, 0));
        hand.Hold(point - 0.8f).Close(point - 0.1f, 1, 2, 3, 4);
        hand.Fingers[0].Key(point, new Vector3(-10, 26, 30));
        hand.Fingers[1].Hold(point - 0.5f).Key(point, new Vector3(2, 3, 3));
        hand.Hold(13.6f).Close(14).Hold(14.6f).Stretch(15, 1).Hold(16).Relax(17);
    }

    /// <summary>The left hand counts from fist to five before the chest.</summary>
    private static void Count(HandAct hand, ArmAct arm, float at)
    {
        arm.Direction.Hold(at - 1).Key(at, new Vector3(0.3f, -0.7f, 0.65f)).Hold(21.4f).Key(22.4f, Hanging);
        arm.Bend.Hold(at - 1).Key(at, new Vector3(95, -60, 0)).Hold(21.4f).Key(22.4f, new Vector3(14, 0, 0));
        hand.Hold(at - 0.6f).Close(at);
        int[] order = [0, 1, 2, 3, 4];
        foreach (var k in order)
        {
            var t = at + 0.4f + (k * 0.62f);
            hand.Hold(t).Stretch(t + 0.3f, k);
        }

        hand.Hold(21.2f).Relax(22.2f);
    }

    private static FaceAct Face(float clap, float point, Random random)
    {
        var face = new FaceAct();
        face.Pops.Add(clap);
        for (var t = 1.6f; t < 24; t += 2.6f + (1.8f * random.NextSingle()))
        {
            face.Blinks.Add(MathF.Abs(t - clap) < 0.6f ? t + 1.2f : t);
        }

        face.Talk.Add((point + 0.3f, point + 1.5f));
        face.Talk.Add((17.6f, 20.6f));
        face.Hidden.Add((14.2f, 14.2f + 0.52f));
        face.Move(6, 10.4f, 0.62f, "AU12L", "AU12R", "AU06L", "AU06R")
            .Move(point - 0.4f, point + 3.6f, 0.55f, "AU01L", "AU01R", "AU02L", "AU02R")
            .Move(point - 0.2f, point + 4, 0.4f, "AU07L", "AU07R")
            .Move(20, 23, 0.35f, "AU04L", "AU04R");
        return face;
    }
}
