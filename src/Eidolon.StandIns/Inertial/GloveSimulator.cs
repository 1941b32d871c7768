using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Hands;
using Eidolon.Core.Skeletons;

namespace Eidolon.StandIns.Inertial;

/// <summary>What a pair of gloves measures: each sensor strapped on any way round, with noise and a heading of its own that wanders.</summary>
public static class GloveSimulator
{
    /// <summary>The recording of a performer's hands.</summary>
    /// <param name="motion">With fingers.</param>
    /// <param name="noise">Spread of a sample, degrees.</param>
    /// <param name="drift">How far a sensor's heading wanders from the others', degrees a minute at most.</param>
    /// <param name="lost">Share of samples that are lost.</param>
    public static GloveTake Measure(Motion motion, int seed, double noise = 0.5, double drift = 0.5, double lost = 0.005)
    {
        const double degree = Math.PI / 180;
        var random = new Random(seed);
        float Normal() => (float)(Enumerable.Range(0, 6).Sum(_ => random.NextDouble()) - 3) * 1.41f;
        var sensors = GloveTake.Sensors.Count;
        var joints = new int[sensors];
        for (var i = 0; i < sensors; i++)
        {
            var name = GloveTake.Sensors[i];
            joints[i] = motion.Skeleton.IndexOf(
                Enum.Parse<BodyRole>(name.StartsWith("Hand", StringComparison.Ordinal) ? name : name + "2")
            );
        }

        var mounts = Enumerable
            .Range(0, sensors)
            .Select(_ => Quaternion.Normalize(new Quaternion(Normal(), Normal(), Normal(), Normal())))
            .ToArray();
        var wander = Enumerable.Range(0, sensors).Select(_ => ((2 * random.NextDouble()) - 1) * drift * degree / 60).ToArray();
        var samples = new float[motion.FrameCount * GloveTake.Stride];
        var (turns, places) = (new Quaternion[motion.Skeleton.Count], new Vector3[motion.Skeleton.Count]);
        for (var f = 0; f < motion.FrameCount; f++)
        {
            ForwardKinematics.World(motion, f, turns, places);
            for (var i = 0; i < sensors; i++)
            {
                var shake = Rotations.Exp(new Vector3(Normal(), Normal(), Normal()) * (float)(noise * degree / 1.7));
                var q = Rotations.AboutAxis(1, wander[i] * f / motion.FrameRate) * turns[joints[i]] * shake * mounts[i];
                var at = samples.AsSpan((f * GloveTake.Stride) + (i * GloveTake.ValuesPerSensor), GloveTake.ValuesPerSensor);
                (at[0], at[1], at[2], at[3]) = (q.X, q.Y, q.Z, q.W);
                if (random.NextDouble() < lost)
                {
                    at.Fill(float.NaN);
                }
            }
        }

        return new GloveTake(motion.FrameRate, samples);
    }
}
