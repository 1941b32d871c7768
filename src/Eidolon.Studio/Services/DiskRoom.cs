using Eidolon.Core;

namespace Eidolon.Studio.Services;

/// <summary>Room on the disk of the studio's folder: asked before anything large is written, and said on every page when it gets low.</summary>
public sealed class DiskRoom(StudioOptions options, TimeProvider time)
{
    private static readonly TimeSpan Fresh = TimeSpan.FromSeconds(1);
    private (DateTimeOffset At, long Free) _last = (DateTimeOffset.MinValue, long.MaxValue);

    /// <summary>Free bytes, no older than a second.</summary>
    public long Free
    {
        get
        {
            var now = time.GetUtcNow();
            if (now - _last.At > Fresh)
            {
                _last = (now, new DriveInfo(Path.GetFullPath(options.DataFolder)).AvailableFreeSpace);
            }

            return _last.Free;
        }
    }

    public bool Low => Free < options.LowRoom;

    /// <summary>Nothing large is begun any more.</summary>
    public bool Out => Free < options.LeastRoom;

    /// <summary>What every page says; empty while there is enough.</summary>
    public string Words =>
        Out ? $"The disk is full ({Mega(Free)} MB left): nothing is recorded or brought in until there is room."
        : Low ? $"The disk gets full: {Mega(Free)} MB left."
        : string.Empty;

    /// <exception cref="RefusedException">There is no room for this many bytes more.</exception>
    public void Want(long bytes)
    {
        if (Free - bytes < options.LeastRoom)
        {
            throw new RefusedException(
                $"there is no room on the disk: {Mega(Free)} MB are left and {Mega(bytes + options.LeastRoom)} MB are wanted; make room and do it again"
            );
        }
    }

    private static string Mega(long bytes) => $"{Math.Max(0, bytes) >> 20}";
}
