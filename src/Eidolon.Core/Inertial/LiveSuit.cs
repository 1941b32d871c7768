using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Inertial;

/// <summary>
/// A suit's wearer while it happens, sample by sample. It begins with what the calibrating poses said; the recording is solved as a whole
/// afterwards, and better.
/// </summary>
/// <remarks>Not thread-safe.</remarks>
public sealed class LiveSuit
{
    private readonly (int Left, int Right) _feet = (SuitBones.IndexOf(BodyRole.FootL), SuitBones.IndexOf(BodyRole.FootR));
    private readonly Skeleton _body;
    private readonly SuitAlignment _alignment;
    private readonly LiveSensor[] _sensors;
    private readonly LiveTravel _travel;
    private readonly (int A, int B, float Share, bool Toes)[] _plan;
    private readonly Quaternion[] _bones = new Quaternion[SuitBones.All.Count];
    private readonly Quaternion[] _world;
    private readonly Vector3[] _places;
    private readonly Quaternion[] _turns;
    private readonly Vector3[] _offsets;

    private LiveSuit(Skeleton body, SuitAlignment alignment, LiveSensor[] sensors)
    {
        (_body, _alignment, _sensors) = (Grounding.OnFloor(body), alignment, sensors);
        _travel = new LiveTravel(_body);
        _plan = SuitBody.Plan(_body);
        (_world, _places, _turns) = (new Quaternion[_body.Count], new Vector3[_body.Count], new Quaternion[_body.Count]);
        // The first joint stays at the origin: the way through the room is put to it afterwards.
        _offsets = [.. _body.Joints.Select((j, i) => i == 0 ? Vector3.Zero : j.Offset)];
        Pose(0);
    }

    /// <summary>Where the first joint is, metres: over the origin as it begins, on the floor.</summary>
    public Vector3 Root => _travel.Root;

    /// <summary>Local turns of all joints.</summary>
    public ReadOnlyMemory<Quaternion> Turns => _turns;

    /// <summary>Where still, T- and A-pose were held in a recording; null when they are not in it.</summary>
    public static SuitPoses? Look(SuitTake take)
    {
        try
        {
            return SuitPoseFinder.Find(Tracks(take));
        }
        catch (RefusedException)
        {
            // Nobody has held them yet.
            return null;
        }
    }

    /// <summary>Begins with a recording that holds the poses; goes on from its last frame.</summary>
    /// <param name="body">The wearer in the T-pose facing +Z, first joint the pelvis, rest turns identity.</param>
    /// <exception cref="RefusedException">From T- to A-pose the arms hardly move.</exception>
    public static LiveSuit Begin(Skeleton body, SuitTake take, SuitPoses poses, CancellationToken cancel = default)
    {
        var tracks = Tracks(take);
        var sensors = new SensorOrientation[tracks.Length];
        for (var s = 0; s < sensors.Length; s++)
        {
            cancel.ThrowIfCancellationRequested();
            sensors[s] = SensorOrientation.Find(tracks[s], poses.Still, poses.TPose);
        }

        return new LiveSuit(body, SuitAlignment.Find(sensors, poses), [.. sensors.Select(s => new LiveSensor(s))]);
    }

    /// <summary>The same suit on somebody else, who goes on from here; this one is not to be used any more.</summary>
    public LiveSuit Wear(Skeleton body) => new(body, _alignment, _sensors);

    /// <summary>One sample of all sensors; values that are no numbers were lost.</summary>
    /// <param name="samples">[sensor × 9 + value], as in <see cref="SuitTake"/>.</param>
    /// <param name="seconds">Since the last one.</param>
    public void Step(ReadOnlySpan<float> samples, double seconds)
    {
        for (var s = 0; s < _sensors.Length; s++)
        {
            _sensors[s].Step(samples.Slice(s * SuitTake.ValuesPerSensor, SuitTake.ValuesPerSensor), seconds);
        }

        Pose(seconds);
    }

    private static SensorTrack[] Tracks(SuitTake take) =>
        [.. Enumerable.Range(0, SuitBones.All.Count).Select(s => new SensorTrack(take, s))];

    private void Pose(double seconds)
    {
        for (var s = 0; s < _sensors.Length; s++)
        {
            _bones[s] = _alignment.Bone(s, _sensors[s].Turn).ToSingle();
        }

        SuitBody.World(_body, _plan, _bones, _world);
        ForwardKinematics.Local(_body, _world, _turns);
        ForwardKinematics.World(_body, _turns, _offsets, _world, _places);
        _travel.Step(_places, (_sensors[_feet.Left].Spin, _sensors[_feet.Right].Spin), seconds);
    }
}
