using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Geometry;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Inertial;

/// <summary>A suit's recording to a motion: sensors, bones, body, travel.</summary>
public static class SuitSolver
{
    /// <summary>A sensor that turns faster than this on the whole while it should be still cannot tell its bias, rad/s.</summary>
    private const double StillMost = 0.15;

    /// <summary>Shortest range that calibrates, seconds.</summary>
    private const double LeastSeconds = 0.3;

    /// <param name="body">The wearer in the T-pose facing +Z, first joint the pelvis, rest turns identity.</param>
    /// <param name="poses">The calibrating ranges; found when left out.</param>
    /// <param name="edits">What a person has decided about contacts.</param>
    /// <exception cref="RefusedException">It cannot be solved as it is; says why and what to do.</exception>
    public static (Motion Motion, SuitReport Report) Solve(
        SuitTake take,
        Skeleton body,
        SuitPoses? poses = null,
        IReadOnlyList<ContactEdit>? edits = null,
        IProgress<double>? progress = null,
        CancellationToken cancel = default
    )
    {
        var tracks = Enumerable.Range(0, SuitBones.All.Count).Select(s => new SensorTrack(take, s)).ToArray();
        poses = poses is null ? SuitPoseFinder.Find(tracks) : Checked(poses, tracks);
        var sensors = new SensorOrientation[tracks.Length];
        for (var s = 0; s < sensors.Length; s++)
        {
            cancel.ThrowIfCancellationRequested();
            sensors[s] = SensorOrientation.Find(tracks[s], poses.Still, poses.TPose);
            progress?.Report((s + 1.0) / sensors.Length * 0.8);
        }

        var alignment = SuitAlignment.Find(sensors, poses);
        var motion = SuitBody.Pose(Grounding.OnFloor(body), take.FrameRate, Bones(alignment, sensors, take.FrameCount));
        Travel(motion, alignment, tracks, sensors, edits ?? []);
        progress?.Report(1);
        return (motion, Report(take, motion, poses, sensors, edits ?? []));
    }

    private static Quaternion[] Bones(SuitAlignment alignment, SensorOrientation[] sensors, int frames)
    {
        var bones = new Quaternion[frames * sensors.Length];
        for (var f = 0; f < frames; f++)
        {
            for (var s = 0; s < sensors.Length; s++)
            {
                bones[(f * sensors.Length) + s] = alignment.Bone(s, sensors[s].Turns[f]).ToSingle();
            }
        }

        return bones;
    }

    private static void Travel(
        Motion motion,
        SuitAlignment alignment,
        SensorTrack[] tracks,
        SensorOrientation[] sensors,
        IReadOnlyList<ContactEdit> edits
    )
    {
        var pelvis = SuitBones.IndexOf(BodyRole.Pelvis);
        var acceleration = new Vector3[motion.FrameCount];
        for (var f = 0; f < acceleration.Length; f++)
        {
            var force = sensors[pelvis].Turns[f].ToMatrix() * tracks[pelvis].Accelerometer[f];
            acceleration[f] = alignment.World(force - new Vector3d(0, SensorOrientation.Gravity, 0)).ToSingle();
        }

        float[][] still = [.. SuitTravel.Feet.Select(SuitBones.IndexOf).Select(s => SuitTravel.Resting(tracks[s], sensors[s]))];
        SuitTravel.Rough(motion, acceleration, still);
        for (var round = 0; round < 2; round++)
        {
            SuitTravel.ByContacts(motion, acceleration, still, BodyContacts.Find(motion, edits).Joints);
        }

        FootPin.Hold(motion, 0, motion.FrameCount - 1, edits);
        var start = motion.Translations[0];
        for (var f = 0; f < motion.FrameCount; f++)
        {
            motion.Translations[f * motion.Skeleton.Count] -= new Vector3(start.X, 0, start.Z);
        }
    }

    private static SuitReport Report(
        SuitTake take,
        Motion motion,
        SuitPoses poses,
        SensorOrientation[] sensors,
        IReadOnlyList<ContactEdit> edits
    )
    {
        var contacts = BodyContacts.Find(motion, edits).Joints;
        var disturbed = sensors
            .SelectMany(
                (s, i) => s.Disturbances().Select(d => new DisturbedRange(SuitBones.All[i], d.Range.Start, d.Range.End, d.Microtesla))
            )
            .ToList();
        var warnings = take.Warnings.ToList();
        if (contacts.Count == 0)
        {
            warnings.Add("no foot ever rests on the floor: the way through the room cannot be trusted");
        }

        foreach (var longest in disturbed.GroupBy(d => d.Bone).Select(g => g.MaxBy(d => d.End - d.Start)))
        {
            var seconds = (longest.End - longest.Start + 1) / take.FrameRate;
            if (seconds > 20)
            {
                warnings.Add(
                    $"{longest.Bone}: the magnetic field is disturbed for {seconds:0} s from frame {longest.Start} "
                        + $"(up to {longest.Microtesla:0} µT); its heading drifts meanwhile"
                );
            }
        }

        return new SuitReport
        {
            Poses = poses,
            TravelMetres = Way(motion),
            Contacts = contacts,
            Disturbed = disturbed,
            Bias = sensors.Select((s, i) => (Bone: SuitBones.All[i], s.Bias)).ToDictionary(x => x.Bone, x => x.Bias),
            Warnings = warnings,
        };
    }

    private static double Way(Motion motion)
    {
        double way = 0;
        for (var f = 1; f < motion.FrameCount; f++)
        {
            var d = motion.Translations[f * motion.Skeleton.Count] - motion.Translations[(f - 1) * motion.Skeleton.Count];
            way += Math.Sqrt((d.X * d.X) + (d.Z * d.Z));
        }

        return way;
    }

    private static SuitPoses Checked(SuitPoses poses, SensorTrack[] tracks)
    {
        foreach (var (name, range) in new[] { ("still", poses.Still), ("tPose", poses.TPose), ("aPose", poses.APose) })
        {
            if (range.Start < 0 || range.End >= tracks[0].Count || range.Length < LeastSeconds * tracks[0].Rate)
            {
                throw new RefusedException(
                    $"{name} [{range.Start}, {range.End}] is not a range of at least {LeastSeconds} s within the {tracks[0].Count} frames"
                );
            }
        }

        for (var s = 0; s < tracks.Length; s++)
        {
            var fastest = 0.0;
            var mean = SensorTrack.Mean(tracks[s].Gyroscope, poses.Still);
            for (var f = poses.Still.Start; f <= poses.Still.End; f++)
            {
                fastest += (tracks[s].Gyroscope[f] - mean).Length / poses.Still.Length;
            }

            if (fastest > StillMost)
            {
                throw new RefusedException(
                    $"still [{poses.Still.Start}, {poses.Still.End}]: {SuitBones.All[s]} turns at {fastest * 180 / Math.PI:0} °/s there, "
                        + "so nothing tells the bias of its gyroscope"
                );
            }
        }

        return poses;
    }
}
