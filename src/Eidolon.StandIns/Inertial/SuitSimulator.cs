using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Inertial;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.Scenes;

namespace Eidolon.StandIns.Inertial;

/// <summary>What the suit's sensors measure during a performance: strapped on any way round, with bias, noise and soft iron.</summary>
public static class SuitSimulator
{
    private const float Gravity = 9.81f;

    /// <summary>[frame · 17 · 9]: gyroscope rad/s, accelerometer m/s², magnetometer µT in each sensor's own axes.</summary>
    public static float[] Measure(Performance.Actor actor, int seed) => Measure(actor.Motion, RoomField.Stage, seed);

    /// <summary>What a suit measures of a motion that was recorded in another way, too: at its own rate, and its poses before.</summary>
    public static SuitTake WithPoses(Motion motion, int seed)
    {
        var acted = CalibratingPoses.Before(MotionEdits.Resample(motion, SuitSensors.Rate), seed);
        return new SuitTake(SuitSensors.Rate, Measure(acted, RoomField.Stage, seed));
    }

    /// <summary>The same for any motion whose skeleton has roles for all bones of the suit and rests in the T-pose, facing +Z.</summary>
    public static float[] Measure(Motion motion, RoomField field, int seed)
    {
        var random = new Random(seed);
        var sensors = SuitSensors.Bones.Select(b => new Sensor(motion.Skeleton.IndexOf(b), random)).ToArray();
        var n = motion.FrameCount;
        var turns = new Quaternion[n * sensors.Length];
        var places = new Vector3[n * sensors.Length];
        var (rotations, positions) = (new Quaternion[motion.Skeleton.Count], new Vector3[motion.Skeleton.Count]);
        for (var f = 0; f < n; f++)
        {
            ForwardKinematics.World(motion, f, rotations, positions);
            for (var s = 0; s < sensors.Length; s++)
            {
                turns[(f * sensors.Length) + s] = rotations[sensors[s].Joint] * sensors[s].Mount;
                places[(f * sensors.Length) + s] =
                    positions[sensors[s].Joint] + Vector3.Transform(sensors[s].Place, rotations[sensors[s].Joint]);
            }
        }

        var values = new float[n * sensors.Length * SuitSensors.Values];
        var rate = (float)motion.FrameRate;
        for (var f = 0; f < n; f++)
        {
            int before = Math.Max(0, f - 1),
                after = Math.Min(n - 1, f + 1);
            for (var s = 0; s < sensors.Length; s++)
            {
                int At(int frame) => (frame * sensors.Length) + s;
                var turn = turns[At(f)];
                var spin =
                    ((Quaterniond)(Quaternion.Conjugate(turns[At(before)]) * turns[At(after)])).Log()
                    * (rate / Math.Max(1, after - before));
                var acceleration =
                    before == f || after == f ? Vector3.Zero : (places[At(after)] - (2 * places[At(f)]) + places[At(before)]) * rate * rate;
                sensors[s]
                    .Write(
                        values.AsSpan(At(f) * SuitSensors.Values, SuitSensors.Values),
                        turn,
                        spin.ToSingle(),
                        acceleration + new Vector3(0, Gravity, 0),
                        field.At(places[At(f)], f / rate),
                        random
                    );
            }
        }

        return values;
    }

    /// <summary>What the gyroscope of a bone is off by in a suit of that seed, rad/s.</summary>
    public static Vector3 BiasOf(int seed, BodyRole bone)
    {
        var random = new Random(seed);
        return SuitBones.All.Select(b => (Bone: b, Sensor: new Sensor(0, random))).First(x => x.Bone == bone).Sensor.GyroscopeBias;
    }

    private sealed class Sensor(int joint, Random random)
    {
        private readonly Vector3 _gyroBias = Some(random, 0.008f);
        private readonly Vector3 _accelerometerBias = Some(random, 0.04f);
        private readonly Vector3 _hardIron = Some(random, 0.8f);
        private readonly Vector3 _softIron = Vector3.One + Some(random, 0.012f);

        public int Joint => joint;

        public Vector3 GyroscopeBias => _gyroBias;

        public Quaternion Mount { get; } = Quaternion.Normalize(new Quaternion(Some(random, 1), random.NextSingle() + 0.2f));

        public Vector3 Place { get; } = Some(random, 0.03f);

        public void Write(Span<float> values, Quaternion turn, Vector3 spin, Vector3 force, Vector3 field, Random noise)
        {
            var back = Quaternion.Conjugate(turn);
            Put(values, 0, spin + _gyroBias + Noise(noise, 0.0017f));
            Put(values, 3, Vector3.Transform(force, back) + _accelerometerBias + Noise(noise, 0.02f));
            Put(values, 6, (Vector3.Transform(field, back) * _softIron) + _hardIron + Noise(noise, 0.35f));
        }

        private static void Put(Span<float> values, int at, Vector3 v) => (values[at], values[at + 1], values[at + 2]) = (v.X, v.Y, v.Z);

        private static Vector3 Noise(Random r, float spread) =>
            new Vector3(MarkerSimulator.Gauss(r), MarkerSimulator.Gauss(r), MarkerSimulator.Gauss(r)) * spread;

        private static Vector3 Some(Random r, float most) =>
            (new Vector3(r.NextSingle(), r.NextSingle(), r.NextSingle()) - new Vector3(0.5f)) * 2 * most;
    }
}
