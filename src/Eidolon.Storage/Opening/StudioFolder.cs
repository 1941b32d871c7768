using System.Globalization;
using Eidolon.Core;

namespace Eidolon.Storage.Opening;

/// <summary>
/// The folder of a studio, held by one process: only its owner may look inside (0700, the database 0600), and a second process is told who holds it.
/// The lock is the operating system's: it ends with the process, however that ends.
/// </summary>
public sealed class StudioFolder(string path) : IDisposable
{
    private const UnixFileMode OwnerOnly = UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute;
    private const UnixFileMode OwnersFile = UnixFileMode.UserRead | UnixFileMode.UserWrite;
    private const string InUse = "in use";
    private FileStream? _lock;

    public string Path { get; } = path;

    /// <summary>True when the process that held it before did not end by itself: killed, crashed, or the power went.</summary>
    public bool CutOff { get; private set; }

    private string LockFile => System.IO.Path.Combine(Path, "lock");

    /// <summary>Makes the folder where it is missing and holds it until <see cref="Dispose"/>.</summary>
    /// <exception cref="RefusedException">Another process holds it, or it cannot be written; says what to do.</exception>
    public void Hold()
    {
        if (_lock is not null)
        {
            return;
        }

        try
        {
            Directory.CreateDirectory(Path, OwnerOnly);
            File.SetUnixFileMode(Path, OwnerOnly);
            _lock = Open();
        }
        catch (UnauthorizedAccessException e)
        {
            throw new RefusedException($"{Path} cannot be written; give yourself the right to, or choose another with --data FOLDER", e);
        }
        catch (IOException e) when (!Directory.Exists(Path))
        {
            throw new RefusedException($"{Path} cannot be made ({e.Message}); choose another with --data FOLDER", e);
        }

        using var reader = new StreamReader(_lock, leaveOpen: true);
        CutOff = reader.ReadLine() is { } line && line.StartsWith(InUse, StringComparison.Ordinal);
        Write($"{InUse} by process {Environment.ProcessId}");
    }

    /// <summary>Makes a file of the owner's own before somebody else does with usual rights.</summary>
    public static void Own(string file)
    {
        if (!File.Exists(file))
        {
            new FileStream(
                file,
                new FileStreamOptions
                {
                    Mode = FileMode.OpenOrCreate,
                    Access = FileAccess.Write,
                    UnixCreateMode = OwnersFile,
                }
            ).Dispose();
        }

        foreach (var part in new[] { file, file + "-wal", file + "-shm" }.Where(File.Exists))
        {
            File.SetUnixFileMode(part, OwnersFile);
        }
    }

    public void Dispose()
    {
        if (_lock is not null)
        {
            Write("free");
            _lock.Dispose();
            _lock = null;
        }
    }

    private FileStream Open()
    {
        try
        {
            return new FileStream(
                LockFile,
                new FileStreamOptions
                {
                    Mode = FileMode.OpenOrCreate,
                    Access = FileAccess.ReadWrite,
                    Share = FileShare.None,
                    UnixCreateMode = OwnersFile,
                }
            );
        }
        catch (IOException e) when (e is not (FileNotFoundException or DirectoryNotFoundException) && File.Exists(LockFile))
        {
            throw new RefusedException(
                $"another Eidolon works with {Path}; use that one, stop it first, or choose another folder with --data FOLDER",
                e
            );
        }
    }

    private void Write(string line)
    {
        try
        {
            _lock!.SetLength(0);
            _lock.Write(System.Text.Encoding.UTF8.GetBytes(string.Create(CultureInfo.InvariantCulture, $"{line}\n")));
            _lock.Flush();
        }
        catch (IOException)
        {
            // No room on the disk: the lock itself holds all the same.
        }
    }
}
