using System.Numerics;

namespace Eidolon.Core.Skeletons;

/// <summary>Local turns and places of every joint at every frame, in flat arrays [frame × joints + joint].</summary>
public sealed class Motion
{
    /// <summary>A motion whose samples are all zero, to be filled.</summary>
    public Motion(Skeleton skeleton, double frameRate, int frameCount)
        : this(
            skeleton,
            frameRate,
            frameCount,
            new Quaternion[checked(frameCount * skeleton.Count)],
            new Vector3[checked(frameCount * skeleton.Count)]
        ) { }

    /// <summary>A motion over given samples, which are not copied.</summary>
    public Motion(Skeleton skeleton, double frameRate, int frameCount, Quaternion[] rotations, Vector3[] translations)
    {
        if (!(frameRate > 0) || !double.IsFinite(frameRate))
        {
            throw new ArgumentOutOfRangeException(nameof(frameRate), "The frame rate must be above zero.");
        }

        if (rotations.Length != frameCount * skeleton.Count || translations.Length != rotations.Length)
        {
            throw new ArgumentException("Samples do not match frames × joints.", nameof(rotations));
        }

        (Skeleton, FrameRate, FrameCount, Rotations, Translations) = (skeleton, frameRate, frameCount, rotations, translations);
    }

    /// <summary>A motion that stands in its skeleton's rest pose.</summary>
    public static Motion AtRest(Skeleton skeleton, double frameRate, int frameCount)
    {
        var motion = new Motion(skeleton, frameRate, frameCount);
        for (var k = 0; k < motion.Rotations.Length; k++)
        {
            var joint = skeleton[k % skeleton.Count];
            (motion.Rotations[k], motion.Translations[k]) = (joint.RestRotation, joint.Offset);
        }

        return motion;
    }

    /// <summary>The joints that move.</summary>
    public Skeleton Skeleton { get; }

    /// <summary>Frames a second.</summary>
    public double FrameRate { get; }

    /// <summary>Frames, the first one 0.</summary>
    public int FrameCount { get; }

    /// <summary>The number the file gives its first frame; frames here always count from 0.</summary>
    public int FirstFrame { get; init; }

    /// <summary>Local turns, unit quaternions.</summary>
    public Quaternion[] Rotations { get; }

    /// <summary>Local places, metres; equal to the joint's offset where a joint only turns.</summary>
    public Vector3[] Translations { get; }

    /// <summary>Blend-shape weights by name, one value a frame.</summary>
    public IReadOnlyDictionary<string, float[]> Morphs { get; init; } = new Dictionary<string, float[]>();

    /// <summary>What reading or computing this motion had to say.</summary>
    public IReadOnlyList<string> Warnings { get; init; } = [];

    /// <summary>Frames over rate.</summary>
    public double DurationSeconds => FrameCount / FrameRate;

    /// <summary>Local turns of all joints at a frame.</summary>
    public Span<Quaternion> RotationsAt(int frame) => Rotations.AsSpan(frame * Skeleton.Count, Skeleton.Count);

    /// <summary>Local places of all joints at a frame, metres.</summary>
    public Span<Vector3> TranslationsAt(int frame) => Translations.AsSpan(frame * Skeleton.Count, Skeleton.Count);

    /// <summary>The same samples on a skeleton with the same tree: other names, roles or rest.</summary>
    /// <exception cref="ArgumentException">It has another number of joints.</exception>
    public Motion On(Skeleton skeleton) =>
        skeleton.Count == Skeleton.Count
            ? new(skeleton, FrameRate, FrameCount, Rotations, Translations)
            {
                FirstFrame = FirstFrame,
                Morphs = Morphs,
                Warnings = Warnings,
            }
            : throw new ArgumentException("the skeletons do not have the same joints", nameof(skeleton));

    /// <summary>The same samples, its first frame of another number.</summary>
    public Motion From(int firstFrame) =>
        new(Skeleton, FrameRate, FrameCount, Rotations, Translations)
        {
            FirstFrame = firstFrame,
            Morphs = Morphs,
            Warnings = Warnings,
        };

    /// <summary>The same with these blend-shape weights alone.</summary>
    public Motion With(IEnumerable<KeyValuePair<string, float[]>> morphs) =>
        new(Skeleton, FrameRate, FrameCount, Rotations, Translations)
        {
            FirstFrame = FirstFrame,
            Morphs = new Dictionary<string, float[]>(morphs),
            Warnings = Warnings,
        };

    /// <summary>The same with samples of its own.</summary>
    public Motion Copy() =>
        new(Skeleton, FrameRate, FrameCount, (Quaternion[])Rotations.Clone(), (Vector3[])Translations.Clone())
        {
            FirstFrame = FirstFrame,
            Morphs = Morphs,
            Warnings = Warnings,
        };
}
