using System.Diagnostics;
using Xunit;

namespace Eidolon.Testing;

/// <summary>A test on a disk of its own that can be filled; skipped where none may be mounted.</summary>
public sealed class SmallDiskFactAttribute : FactAttribute
{
    public SmallDiskFactAttribute()
    {
        var folder = Directory.CreateTempSubdirectory("eidolon-disk").FullName;
        try
        {
            if (!SmallDisk.Mount(folder, 1))
            {
                Skip = "mounting a small disk (tmpfs) is not allowed here";
                return;
            }

            SmallDisk.Unmount(folder);
        }
        finally
        {
            Directory.Delete(folder);
        }
    }
}

/// <summary>A disk of some megabytes, in memory.</summary>
public sealed class SmallDisk : IDisposable
{
    private const string Ballast = "ballast";

    public SmallDisk(int megabytes)
    {
        Folder = Directory.CreateTempSubdirectory("eidolon-disk").FullName;
        if (!Mount(Folder, megabytes))
        {
            throw new InvalidOperationException("the small disk cannot be mounted");
        }
    }

    public string Folder { get; }

    public long Free => new DriveInfo(Folder).AvailableFreeSpace;

    /// <summary>Fills the disk until this many bytes are left.</summary>
    public void Fill(long left)
    {
        var path = Path.Combine(Folder, Ballast);
        using var file = new FileStream(path, FileMode.Append, FileAccess.Write);
        var block = new byte[64 * 1024];
        try
        {
            for (var more = Free - left; more > 0; more -= block.Length)
            {
                file.Write(block, 0, (int)Math.Min(block.Length, more));
                file.Flush();
            }
        }
        catch (IOException)
        {
            // Full to the last byte.
        }
    }

    public void Empty() => File.Delete(Path.Combine(Folder, Ballast));

    public void Dispose()
    {
        Unmount(Folder);
        Directory.Delete(Folder);
    }

    internal static bool Mount(string folder, int megabytes) => Run("mount", "-t", "tmpfs", "-o", $"size={megabytes}m", "tmpfs", folder);

    internal static void Unmount(string folder) => Run("umount", "-l", folder);

    private static bool Run(string command, params string[] arguments)
    {
        try
        {
            using var process = Process.Start(
                new ProcessStartInfo(command, arguments) { RedirectStandardError = true, RedirectStandardOutput = true }
            )!;
            process.WaitForExit();
            return process.ExitCode == 0;
        }
        catch (System.ComponentModel.Win32Exception)
        {
            return false;
        }
    }
}
