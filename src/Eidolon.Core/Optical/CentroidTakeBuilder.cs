namespace Eidolon.Core.Optical;

/// <summary>Collects centroids frame by frame, camera by camera.</summary>
public sealed class CentroidTakeBuilder(int cameras, double frameRate)
{
    private readonly List<int> _offsets = [0];
    private readonly List<float> _u = [];
    private readonly List<float> _v = [];

    /// <summary>Whole frames so far.</summary>
    public int FrameCount => (_offsets.Count - 1) / cameras;

    /// <summary>The next camera's list; cameras come in order.</summary>
    public void Add(ReadOnlySpan<float> u, ReadOnlySpan<float> v)
    {
        _u.AddRange(u);
        _v.AddRange(v);
        _offsets.Add(_u.Count);
    }

    /// <summary>The take; the builder is used up.</summary>
    public CentroidTake Build()
    {
        // A frame that did not get all its cameras has not been seen as a whole.
        var whole = (FrameCount * cameras) + 1;
        return new CentroidTake(cameras, frameRate, [.. _offsets.Take(whole)], [.. _u], [.. _v]);
    }
}
