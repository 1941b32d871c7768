using Eidolon.Core.Cleaning;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>The motion of a clip with what a person has decided about its contacts.</summary>
/// <param name="Contacts">In frames of the motion.</param>
public sealed record ClipMotion(Motion Motion, IReadOnlyList<ContactEdit> Contacts)
{
    /// <summary>All frames of a motion.</summary>
    public ClipMotion(Motion motion)
        : this(motion, []) { }

    /// <summary>A stretch of it; decisions that reach beyond it are cut.</summary>
    /// <param name="end">Exclusive.</param>
    public ClipMotion Range(int start, int end) =>
        start == 0 && end == Motion.FrameCount
            ? this
            : new ClipMotion(
                MotionEdits.Range(Motion, start, end),
                [
                    .. Contacts
                        .Where(c => c.End >= start && c.Start < end)
                        .Select(c => c with { Start = Math.Max(start, c.Start) - start, End = Math.Min(end - 1, c.End) - start }),
                ]
            );
}
