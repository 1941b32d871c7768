namespace Eidolon.Core.Formats;

/// <summary>
/// What reading a file may cost: twenty times its own size and 64 MB. A file that claims more than that cannot hold what it claims, and nothing is
/// allocated for it.
/// </summary>
internal readonly record struct ReadBudget(long FileBytes, string File)
{
    private const long Factor = 20;
    private const long Least = 64L << 20;

    /// <summary>Bytes of one joint in one frame of a motion: a turn and a place.</summary>
    public const int JointBytes = 28;

    /// <summary>Most bytes that may be asked for at once: four fifths of the budget, the rest is for reading.</summary>
    private long Most => ((FileBytes * Factor) + Least) / 5 * 4;

    /// <param name="rows">How many of something, e.g. frames.</param>
    /// <param name="columns">How many in each, e.g. joints.</param>
    /// <param name="bytes">Bytes each takes in memory.</param>
    /// <param name="place">Where the file says so.</param>
    /// <exception cref="InvalidInputException">It is more than the file can hold.</exception>
    public void Want(long rows, long columns, int bytes, string place)
    {
        if (rows < 0 || columns < 0 || (double)rows * columns * bytes > Most)
        {
            throw new InvalidInputException(
                File,
                place,
                $"{rows} × {columns} are announced, far more than a file of {FileBytes} bytes holds"
            );
        }
    }
}
