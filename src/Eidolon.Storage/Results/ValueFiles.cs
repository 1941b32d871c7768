using System.IO.Hashing;

namespace Eidolon.Storage.Results;

/// <summary>Parts of values as files named by the XxHash128 of their bytes. Written beside and moved into place; checked at every read.</summary>
internal sealed class ValueFiles(string folder)
{
    private long _read;

    /// <summary>Bytes of parts that were read so far.</summary>
    public long BytesRead => Interlocked.Read(ref _read);

    /// <returns>The part's name.</returns>
    public string Keep(ReadOnlySpan<byte> bytes)
    {
        var name = XxHash128.HashToUInt128(bytes).ToString("x32");
        var path = PathOf(name);
        if (new FileInfo(path) is { Exists: true } known && known.Length == bytes.Length)
        {
            return name;
        }

        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        var beside = $"{path}.{Guid.NewGuid():N}";
        try
        {
            File.WriteAllBytes(beside, bytes);
            File.Move(beside, path, overwrite: true);
        }
        finally
        {
            // Nothing is left beside when there was no room for it.
            File.Delete(beside);
        }

        return name;
    }

    /// <summary>Null when it is gone or damaged: the value is then made again.</summary>
    public byte[]? Read(string name)
    {
        try
        {
            var bytes = File.ReadAllBytes(PathOf(name));
            Interlocked.Add(ref _read, bytes.Length);
            return XxHash128.HashToUInt128(bytes).ToString("x32") == name ? bytes : null;
        }
        catch (IOException)
        {
            return null;
        }
    }

    public bool Has(string name) => File.Exists(PathOf(name));

    public void Drop(string name) => File.Delete(PathOf(name));

    private string PathOf(string name) => Path.Combine(folder, name[..2], name);
}
