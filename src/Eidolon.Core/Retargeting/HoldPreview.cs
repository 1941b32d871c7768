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

    /// <summary>The character's joints at a frame, one frame of a motion, and how far each part is from the performer's own place, millimetres.</summary>
    /// <param name="frame">Brought into the motion when it lies outside.</param>
    public (Motion Pose, IReadOnlyDictionary<BodyRole, double> Drift) At(int frame, RetargetSetup setup)
    {
        frame = Math.Clamp(frame, 0, _source.FrameCount - 1);
        var reach = (int)Math.Ceiling(Reach * _source.FrameRate);
        int from = Math.Max(0, frame - reach),
            to = Math.Min(_source.FrameCount, frame + reach + 1);
        var contacts = _contacts
            .Where(c => c.End >= from && c.Start < to)
            .Select(c => c with { Start = Math.Max(0, c.Start - from), End = Math.Min(to - 1, c.End) - from })
            .ToList();
        var (stretch, report) = Retargeter.Stretch(
            MotionEdits.Range(_source, from, to),
            _target,
            setup with
            {
                Holds = Shifted(setup, from),
            },
            contacts,
            _ground
        );
        return (
            MotionEdits.Range(stretch, frame - from, frame - from + 1),
            report.Drift.ToDictionary(d => d.Key, d => (double)d.Value[frame - from])
        );
    }

    /// <summary>The keys of all Holds counted from the beginning of the stretch.</summary>
    private static Dictionary<BodyRole, Holding> Shifted(RetargetSetup setup, int from) =>
        setup.Holds.ToDictionary(h => h.Key, h => h.Value with { Keys = [.. h.Value.Keys.Select(k => k with { Frame = k.Frame - from })] });
}
