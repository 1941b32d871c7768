using System.Numerics;

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

    /// <summary>Frames in which the prop is seen.</summary>
    public int SeenFrames => Positions.Count(MarkerTake.Seen);
}
