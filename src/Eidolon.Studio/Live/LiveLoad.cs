namespace Eidolon.Studio.Live;

/// <summary>How fast the live work is: time from a frame's last packet until it was pushed, over the last half minute.</summary>
public sealed class LiveLoad
{
    private const int Window = 3600;
    private readonly Lock _lock = new();
    private readonly float[] _milliseconds = new float[Window];
    private long _count;
    private long _behind;

    /// <summary>Frames that were never worked on because the stage was behind.</summary>
    public long Behind => Interlocked.Read(ref _behind);

    /// <summary>Frames worked on.</summary>
    public long Count => Interlocked.Read(ref _count);

    public void Note(double seconds)
    {
        lock (_lock)
        {
            _milliseconds[_count++ % Window] = (float)(seconds * 1000);
        }
    }

    public void NoteBehind() => Interlocked.Increment(ref _behind);

    /// <summary>Milliseconds that half, 99 of 100, and all frames stayed below.</summary>
    public (double Half, double Most, double Worst) Spread()
    {
        float[] sorted;
        lock (_lock)
        {
            sorted = _milliseconds[..(int)Math.Min(_count, Window)];
        }

        Array.Sort(sorted);
        return sorted.Length == 0 ? (0, 0, 0) : (sorted[sorted.Length / 2], sorted[(int)(sorted.Length * 0.99)], sorted[^1]);
    }
}
