namespace Eidolon.Core.Inertial;

/// <summary>Frames from <paramref name="Start"/> to <paramref name="End"/>, both inside.</summary>
public readonly record struct FrameRange(int Start, int End)
{
    /// <summary>Frames in it.</summary>
    public int Length => End - Start + 1;
}
