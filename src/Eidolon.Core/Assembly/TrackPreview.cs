using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>
/// A track while one of its clips is dragged: what stands before that clip is joined once, the clip itself for each wish, what follows as far as the
/// frame that is looked at asks for it. Feet go as they are blended; the track that is kept holds them.
/// </summary>
public sealed class TrackPreview
{
    private readonly ClipTrack _before = new(quick: true);
    private readonly int _count;

    /// <summary>The track as it is kept, up to <see cref="_free"/>; null where what stands before was joined anew.</summary>
    private readonly Motion? _kept;

    /// <summary>Where what was joined begins in the track, and from where on it is shown.</summary>
    private readonly int _start,
        _free;

    /// <param name="before">The clips before the one that is dragged, in order; none when it is the first.</param>
    /// <exception cref="RefusedException">They cannot be joined; says why.</exception>
    public TrackPreview(IReadOnlyList<PlannedClip> before)
    {
        foreach (var clip in before)
        {
            _before.Add(clip);
        }

        _count = before.Count;
    }

    private TrackPreview(Motion kept, PlannedClip laid, int count, int start, int free)
    {
        _before.Add(laid);
        (_kept, _count, _start, _free) = (kept, count, start, free);
    }

    /// <summary>Of a track that is kept: only the clip before the one that is dragged is laid again, however many there are.</summary>
    /// <param name="kept">What the track's clips make.</param>
    /// <param name="before">The clip before the one that is dragged.</param>
    /// <param name="place">Of the one that is dragged, from 1.</param>
    /// <param name="start">First frame of the clip before in the track.</param>
    /// <param name="free">The first frame that it has to itself: after its own overlap, and what was smoothed there.</param>
    /// <returns>Null where it has no frame to itself, or is repeated.</returns>
    public static TrackPreview? Of(Motion kept, PlannedClip before, int place, int start, int free)
    {
        if (before.Play.Repeat > 1)
        {
            return null;
        }

        var played = before.Played();
        var own = free - start;
        if (own >= played.Motion.FrameCount || free >= kept.FrameCount || played.Motion.Skeleton.Count != kept.Skeleton.Count)
        {
            return null;
        }

        // Outside overlaps a clip is its source after one turn and move: those of any root.
        var root = Math.Max(0, Array.FindIndex([.. kept.Skeleton.Parents], p => p < 0));
        var turn = Quaternion.Normalize(kept.RotationsAt(free)[root] * Quaternion.Conjugate(played.Motion.RotationsAt(own)[root]));
        var move = kept.TranslationsAt(free)[root] - Vector3.Transform(played.Motion.TranslationsAt(own)[root], turn);
        var laid = new PlannedClip(played with { Motion = new ClipPlacement(turn, move).Lay(played.Motion) }, new ClipPlay(0, Meet.Best));
        return new TrackPreview(kept, laid, place, start, free);
    }

    /// <summary>One frame of the track.</summary>
    /// <param name="clips">All of its clips as they are wished for.</param>
    /// <returns>A motion of one frame.</returns>
    /// <exception cref="RefusedException">The clip cannot be played so; says why.</exception>
    public Motion At(IReadOnlyList<PlannedClip> clips, int frame) => At(i => clips[i], clips.Count, frame);

    /// <summary>One frame of the track, of which only the clips that are needed are asked for.</summary>
    /// <param name="clip">The clip at a place, as it is wished for.</param>
    /// <param name="count">How many there are.</param>
    /// <exception cref="RefusedException">The clip cannot be played so; says why.</exception>
    public Motion At(Func<int, PlannedClip> clip, int count, int frame)
    {
        var track = _before.Copy();
        for (var i = _count; i < count && (i == _count || frame - _start >= track.FrameCount); i++)
        {
            track.Add(clip(i));
        }

        return _kept is not null && frame < _free ? MotionEdits.Range(_kept, frame, frame + 1) : track.Frame(frame - _start);
    }
}
