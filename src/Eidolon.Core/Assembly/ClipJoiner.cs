namespace Eidolon.Core.Assembly;

/// <summary>
/// Joins clips on one skeleton: each later clip is laid on the floor to meet the one before, and the overlap blends. Outside overlaps every frame
/// is its source's after that one turn and move.
/// </summary>
public static class ClipJoiner
{
    /// <summary>Joins clips one after another.</summary>
    /// <exception cref="RefusedException">
    /// There is none, one is on another skeleton or at another rate, or an overlap is longer than a clip; the message names the clip.
    /// </exception>
    public static BakedMotion Join(IReadOnlyList<PlannedClip> clips, IProgress<double>? progress = null, CancellationToken cancel = default)
    {
        if (clips.Count == 0)
        {
            throw new RefusedException("there is no clip");
        }

        var frames = 0.0;
        foreach (var (clip, i) in clips.Select((c, i) => (c, i)))
        {
            ClipTrack.CheckSize(clip, i, ref frames);
        }

        var track = new ClipTrack();
        for (var i = 0; i < clips.Count; i++)
        {
            track.Add(clips[i], cancel);
            progress?.Report((i + 1.0) / clips.Count);
        }

        return track.Baked();
    }

    /// <summary>Joins clips that each overlap the next by as many frames, at the best joint.</summary>
    public static BakedMotion Join(IReadOnlyList<ClipMotion> clips, int overlap) =>
        Join([
            .. clips.Select(
                (c, i) =>
                    new PlannedClip(
                        c,
                        new ClipPlay(
                            i == 0 ? 0 : Math.Clamp(overlap, 1, Math.Min(clips[i - 1].Motion.FrameCount, c.Motion.FrameCount)),
                            Meet.Best
                        )
                    )
            ),
        ]);
}
