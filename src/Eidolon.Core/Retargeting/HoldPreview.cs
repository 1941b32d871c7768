using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>
/// One frame of a retarget, answered while a hand is on a control: contacts are found once for the whole motion, and only a short stretch around
/// the frame is worked out. It gives the pose that the whole retarget will have there, up to what reaches in from outside the stretch.
/// </summary>
public sealed class HoldPreview
{
    /// <summary>Reaches so far to either side, seconds: holds ease in and out within it.</summary>
    private const double Reach = 0.35;

    private readonly Motion _source;
    private readonly Skeleton _target;
    private readonly IReadOnlyList<Contact> _contacts;
    private readonly float _ground;

    /// <param name="edits">What a person has decided about contacts.</param>
    public HoldPreview(Motion source, Skeleton target, IReadOnlyList<ContactEdit> edits)
    {
        (_source, _target) = (source, target);
        _contacts = BodyContacts.Find(source, edits).Joints;
        _ground = GroundLevel.Of(source.Skeleton, ForwardKinematics.WorldPositions(source), _contacts);
    }

    /// <summary>Frames of the source.</summary>
    public int FrameCount => _source.FrameCount;

    /// <summary>The character's joints at a frame: one frame of a motion.</summary>
    /// <param name="frame">Brought into the motion when it lies outside.</param>
    public Motion Pose(int frame, RetargetSetup setup)
    {
        frame = Math.Clamp(frame, 0, _source.FrameCount - 1);
        var reach = (int)Math.Ceiling(Reach * _source.FrameRate);
        int from = Math.Max(0, frame - reach),
            to = Math.Min(_source.FrameCount, frame + reach + 1);
        var contacts = _contacts
            .Where(c => c.End >= from && c.Start < to)
            .Select(c => c with { Start = Math.Max(0, c.Start - from), End = Math.Min(to - 1, c.End) - from })
            .ToList();
        var stretch = Retargeter.Stretch(
            MotionEdits.Range(_source, from, to),
            _target,
            setup with
            {
                Holds = Shifted(setup, from),
            },
            contacts,
            _ground
        );
        return MotionEdits.Range(stretch, frame - from, frame - from + 1);
    }

    /// <summary>How far hands and feet of a pose are from the performer's scaled places, hips to hips, millimetres.</summary>
    public IReadOnlyDictionary<BodyRole, double> Drift(int frame, Motion pose)
    {
        var source = ForwardKinematics.WorldPositions(MotionEdits.Range(_source, frame, frame + 1));
        var target = ForwardKinematics.WorldPositions(pose);
        Vector3 Own(Vector3[] world, Skeleton s, BodyRole role) => world[s.IndexOf(role)] - world[s.IndexOf(BodyRole.ThighL)];
        var scale = Leg(_target) / Leg(_source.Skeleton);
        return RetargetSetup
            .Held.Where(r => _target.IndexOf(r) >= 0 && _source.Skeleton.IndexOf(r) >= 0)
            .ToDictionary(
                r => r,
                r => (double)(Own(target, pose.Skeleton, r) - (Own(source, _source.Skeleton, r) * scale)).Length() * 1000
            );
    }

    /// <summary>The keys of all Holds counted from the beginning of the stretch.</summary>
    private static Dictionary<BodyRole, Holding> Shifted(RetargetSetup setup, int from) =>
        setup.Holds.ToDictionary(h => h.Key, h => h.Value with { Keys = [.. h.Value.Keys.Select(k => k with { Frame = k.Frame - from })] });

    private static float Leg(Skeleton s)
    {
        float Bone(BodyRole a, BodyRole b) => Vector3.Distance(s.RestPositions[s.IndexOf(a)], s.RestPositions[s.IndexOf(b)]);
        return Bone(BodyRole.ThighL, BodyRole.ShinL) + Bone(BodyRole.ShinL, BodyRole.FootL);
    }
}
