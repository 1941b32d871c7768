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

    /// <summary>One frame of the track.</summary>
    /// <param name="clips">All of its clips as they are wished for.</param>
    /// <returns>A motion of one frame.</returns>
    /// <exception cref="RefusedException">The clip cannot be played so; says why.</exception>
    public Motion At(IReadOnlyList<PlannedClip> clips, int frame)
    {
        var track = _before.Copy();
        for (var i = _count; i < clips.Count && (i == _count || frame >= track.FrameCount); i++)
        {
            track.Add(clips[i]);
        }

        return track.Frame(frame);
    }
}
