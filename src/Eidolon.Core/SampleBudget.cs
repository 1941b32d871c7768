namespace Eidolon.Core;

/// <summary>
/// What one result may hold. Numbers that are each allowed can ask for more than the machine has together (a rate, a speed, a number of repeats): the
/// product is worked out before anything is made, and refused over the limit.
/// </summary>
public static class SampleBudget
{
    /// <summary>Bytes of one joint in one frame: a rotation and a position in single precision.</summary>
    public const int JointBytes = 28;

    /// <summary>Bytes of one marker in one frame.</summary>
    public const int MarkerBytes = 12;

    /// <summary>
    /// Bytes of samples a result may take: a sixteenth of the memory there is, as making one takes several of its size; at least 256 MB and at most 2 GB,
    /// which is more than an hour of a performer with fingers at 120 frames a second.
    /// </summary>
    public static long MostBytes { get; } = Math.Clamp(GC.GetGCMemoryInfo().TotalAvailableMemoryBytes / 16, 256_000_000L, 2_000_000_000L);

    /// <param name="what">What would be made, for a person: "clip 2, played 10000 times".</param>
    /// <param name="frames">How many frames it would have; a product, so not whole and perhaps beyond all whole numbers.</param>
    /// <param name="channels">Joints or markers.</param>
    /// <param name="bytes">Of one channel in one frame.</param>
    /// <exception cref="RefusedException">It is more than the limit; says how much, and that less is to be asked for.</exception>
    public static void Check(string what, double frames, int channels, int bytes = JointBytes)
    {
        var needed = frames * Math.Max(1, channels) * bytes;
        if (!(needed <= MostBytes) || frames > int.MaxValue / 2)
        {
            throw new RefusedException(
                $"{what} would be {frames:0} frames of {channels}, {needed / 1e6:0} MB of samples; {MostBytes / 1e6:0} MB are the most at once on this machine: ask for less"
            );
        }
    }
}
