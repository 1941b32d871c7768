using System.Runtime.InteropServices;
using Microsoft.Win32.SafeHandles;

namespace Eidolon.Core.Formats;

/// <summary>Reads whole input files, with one kind of error.</summary>
public static partial class InputFile
{
    /// <summary>O_NONBLOCK and O_CLOEXEC: a pipe that nobody writes to opens at once.</summary>
    private const int AtOnce = 0x800 | 0x80000;

    /// <summary>The folder a file lies in: buffers of a .gltf may lie beside it.</summary>
    public static string? FolderOf(string path) => Path.GetDirectoryName(Path.GetFullPath(path));

    /// <summary>All bytes of a file.</summary>
    /// <exception cref="InvalidInputException">It is not there, is a folder, a device or a pipe, or may not be read.</exception>
    public static byte[] Read(string path)
    {
        try
        {
            RefuseDevices(path);
            return File.ReadAllBytes(path);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or NotSupportedException)
        {
            var reason =
                e is FileNotFoundException or DirectoryNotFoundException ? "there is no such file"
                : Directory.Exists(path) ? "this is a folder, not a file"
                : e.Message;
            throw new InvalidInputException(path, "file", reason, e);
        }
    }

    /// <summary>A device or a pipe may give bytes without an end: only a file with a length is read.</summary>
    private static void RefuseDevices(string path)
    {
        if (!File.Exists(path) || new FileInfo(path).Length > 0)
        {
            return;
        }

        using var handle = new SafeFileHandle(Open(path, AtOnce), ownsHandle: true);
        if (handle.IsInvalid)
        {
            return;
        }

        using var stream = new FileStream(handle, FileAccess.Read, bufferSize: 0);
        // A file of no bytes can be sought in, and gives none.
        if (!stream.CanSeek || stream.ReadByte() >= 0)
        {
            throw new InvalidInputException(path, "file", "this is a device or a pipe, not a file");
        }
    }

    [LibraryImport("libc", EntryPoint = "open", StringMarshalling = StringMarshalling.Utf8, SetLastError = true)]
    private static partial int Open(string path, int flags);
}
