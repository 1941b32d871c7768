using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>How a clip is played, and how it follows the one before it.</summary>
/// <param name="Overlap">Frames it shares with the clip before it; null where the program finds the best moment and length.</param>
/// <param name="Meet">How it is laid on the clip before it.</param>
public sealed record ClipPlay(int? Overlap, Meet Meet)
{
    /// <summary>Speed against the source, above 0: 2 takes half as long.</summary>
    public double Speed { get; init; } = 1;

    /// <summary>How often it is played, one after the other; at least 1.</summary>
    public int Repeat { get; init; } = 1;

    /// <summary>Left does what right did.</summary>
    public bool Mirror { get; init; }

    /// <summary>Played from its end to its beginning.</summary>
    public bool Reverse { get; init; }

    /// <summary>Part by part, how the overlap goes over to it.</summary>
    public OverlapShape Shape { get; init; } = OverlapShape.Usual;

    /// <summary>A jolt where it comes in is smoothed over so many frames; 0 leaves it.</summary>
    public int Smooth { get; init; }

    /// <summary>Where it is put from there by hand; null where it meets.</summary>
    public ClipNudge? Nudge { get; init; }
}

/// <summary>A clip in its place on a track.</summary>
/// <param name="Clip">Its motion, cut to what is used.</param>
public sealed record PlannedClip(ClipMotion Clip, ClipPlay Play)
{
    /// <summary>The motion as it is played once: mirrored, turned round, at its speed; decisions about contacts go along.</summary>
    public ClipMotion Played()
    {
        var motion = Play.Mirror ? MotionMirror.Mirror(Clip.Motion) : Clip.Motion;
        motion = Play.Reverse ? Backwards(motion) : motion;
        motion = MotionEdits.Retime(motion, Play.Speed);
        var last = Clip.Motion.FrameCount - 1;
        var edits = Clip
            .Contacts.Select(c => Play.Reverse ? c with { Start = last - c.End, End = last - c.Start } : c)
            .Select(c =>
                Play.Mirror
                    ? c with
                    {
                        Side =
                            c.Side == 'L' ? 'R'
                            : c.Side == 'R' ? 'L'
                            : c.Side,
                    }
                    : c
            )
            .Select(c => c with { Start = (int)Math.Round(c.Start / Play.Speed), End = (int)Math.Round(c.End / Play.Speed) });
        return new ClipMotion(motion, [.. edits]);
    }

    private static Motion Backwards(Motion motion)
    {
        var n = motion.Skeleton.Count;
        var result = new Motion(motion.Skeleton, motion.FrameRate, motion.FrameCount)
        {
            Warnings = motion.Warnings,
            Morphs = motion.Morphs.ToDictionary(m => m.Key, m => m.Value.Reverse().ToArray()),
        };
        for (var f = 0; f < motion.FrameCount; f++)
        {
            motion.RotationsAt(motion.FrameCount - 1 - f).CopyTo(result.Rotations.AsSpan(f * n, n));
            motion.TranslationsAt(motion.FrameCount - 1 - f).CopyTo(result.Translations.AsSpan(f * n, n));
        }

        return result;
    }
}
