namespace Eidolon.Core.Optical;

/// <summary>
/// What a camera ring saw: for every frame and camera a list of 2D centroids. Flat: <see cref="U"/> and <see cref="V"/> hold the
/// pixels of all, frame by frame and camera by camera; <see cref="Offsets"/>[frame · cameras + camera] is where a list begins.
/// </summary>
public sealed class CentroidTake
{
    /// <summary>Dots over given arrays, which are not copied.</summary>
    public CentroidTake(int cameras, double frameRate, int[] offsets, float[] u, float[] v)
    {
        if (cameras < 1 || (offsets.Length - 1) % cameras != 0 || offsets[^1] > u.Length || u.Length != v.Length)
        {
            throw new ArgumentException("the lists of centroids do not fit together", nameof(offsets));
        }

        (CameraCount, FrameRate, Offsets, U, V) = (cameras, frameRate, offsets, u, v);
    }

    /// <summary>Cameras.</summary>
    public int CameraCount { get; }

    /// <summary>Frames a second.</summary>
    public double FrameRate { get; }

    /// <summary>Frames.</summary>
    public int FrameCount => (Offsets.Length - 1) / CameraCount;

    /// <summary>Where each camera's dots of each frame begin, frame × cameras + camera; one more at the end.</summary>
    public int[] Offsets { get; }

    /// <summary>Pixels to the right.</summary>
    public float[] U { get; }

    /// <summary>Pixels down.</summary>
    public float[] V { get; }

    /// <summary>Dots of all cameras and frames.</summary>
    public int CentroidCount => Offsets[^1];

    /// <summary>The centroids of one camera in one frame: pixels to the right.</summary>
    public ReadOnlySpan<float> UAt(int frame, int camera) => Slice(U, frame, camera);

    /// <summary>Pixels downwards, as <see cref="UAt"/>.</summary>
    public ReadOnlySpan<float> VAt(int frame, int camera) => Slice(V, frame, camera);

    private ReadOnlySpan<float> Slice(float[] data, int frame, int camera)
    {
        var i = (frame * CameraCount) + camera;
        return data.AsSpan(Offsets[i], Offsets[i + 1] - Offsets[i]);
    }
}
