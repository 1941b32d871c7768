using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Markers;

/// <summary>Where a prop is, frame by frame.</summary>
/// <param name="Positions">Of the pivot, one a frame, metres, Y up; NaN where it cannot be told.</param>
/// <param name="Turns">From the prop's frame to the world, one a frame, unit quaternions.</param>
/// <param name="FirstFrame">The frame of the recording that frame 0 is.</param>
public sealed record PropPlaces(double FrameRate, Vector3[] Positions, Quaternion[] Turns, int FirstFrame = 0)
{
    /// <summary>Frames.</summary>
    public int FrameCount => Positions.Length;

    /// <summary>Frames [start, end).</summary>
    public PropPlaces Range(int start, int end) => new(FrameRate, Positions[start..end], Turns[start..end], FirstFrame + start);

    /// <summary>The places of another frame that is fixed to the prop.</summary>
    /// <param name="turn">From that frame to the prop's own.</param>
    /// <param name="move">Where it begins in the prop's own frame, metres.</param>
    public PropPlaces InFrame(Quaternion turn, Vector3 move) =>
        this with
        {
            Positions = [.. Positions.Select((p, f) => p + Vector3.Transform(move, Turns[f]))],
            Turns = [.. Turns.Select(q => Quaternion.Normalize(q * turn))],
        };

    /// <summary>The motion of a skeleton of one joint, the prop's pivot. Where the prop cannot be told it stays where it was told last (or first).</summary>
    /// <param name="name">Of the joint; blanks become underscores, as not every format holds them.</param>
    public Motion AsMotion(string name)
    {
        var motion = new Motion(new Skeleton([new Joint(name.Replace(' ', '_'), -1, Vector3.Zero)]), FrameRate, FrameCount)
        {
            FirstFrame = FirstFrame,
            Warnings =
                SeenFrames == FrameCount ? [] : [$"{name} is not seen in {FrameCount - SeenFrames} frames: it stays where it was last"],
        };
        var last = Math.Max(0, Array.FindIndex(Positions, MarkerTake.Seen));
        for (var f = 0; f < FrameCount; f++)
        {
            last = MarkerTake.Seen(Positions[f]) ? f : last;
            (motion.Translations[f], motion.Rotations[f]) = MarkerTake.Seen(Positions[last])
                ? (Positions[last], Turns[last])
                : (Vector3.Zero, Quaternion.Identity);
        }

        return motion;
    }

    /// <summary>Frames in which the prop is seen.</summary>
    public int SeenFrames => Positions.Count(MarkerTake.Seen);
}
