namespace Eidolon.Core.Formats;

/// <summary>Writes beside the target, then moves into place: a reader never sees half a file.</summary>
public static class AtomicFile
{
    /// <summary>Writes beside the file and puts it in its place when it is whole: there is the old file or the new one, never a part.</summary>
    public static void Write(string path, Action<Stream> write)
    {
        var full = Path.GetFullPath(path);
        Directory.CreateDirectory(Path.GetDirectoryName(full)!);
        var beside = $"{full}.{Guid.NewGuid():N}.part";
        try
        {
            using (var stream = new FileStream(beside, FileMode.CreateNew, FileAccess.ReadWrite, FileShare.None, 1 << 16))
            {
                write(stream);
            }

            File.Move(beside, full, overwrite: true);
        }
        finally
        {
            File.Delete(beside);
        }
    }

    /// <summary>The same for text, as UTF-8.</summary>
    public static void WriteText(string path, string text) => Write(path, s => s.Write(System.Text.Encoding.UTF8.GetBytes(text)));
}
