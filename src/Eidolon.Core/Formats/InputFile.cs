namespace Eidolon.Core.Formats;

/// <summary>Reads whole input files, with one kind of error.</summary>
public static class InputFile
{
    /// <summary>The folder a file lies in: buffers of a .gltf may lie beside it.</summary>
    public static string? FolderOf(string path) => Path.GetDirectoryName(Path.GetFullPath(path));

    /// <summary>All bytes of a file.</summary>
    /// <exception cref="InvalidInputException">It is not there, is a folder, or may not be read.</exception>
    public static byte[] Read(string path)
    {
        try
        {
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
}
