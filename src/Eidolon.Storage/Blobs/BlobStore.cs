using System.Security.Cryptography;
using Eidolon.Core;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Blobs;

/// <summary>Files beside the database, named by the SHA-256 of their bytes: written once, streamed out, shared where they are alike.</summary>
/// <param name="folder">Where they lie; made when it is missing.</param>
public sealed class BlobStore(string folder)
{
    /// <summary>Keeps a file: its bytes are on the disk before its row is.</summary>
    public async Task<Blob> Keep(EidolonDb db, Stream bytes, CancellationToken cancel = default)
    {
        Directory.CreateDirectory(folder);
        var beside = Path.Combine(folder, $"{Guid.NewGuid():N}.part");
        try
        {
            var (hash, length) = await Write(beside, bytes, cancel);
            var path = PathOf(hash);
            Directory.CreateDirectory(Path.GetDirectoryName(path)!);
            File.Move(beside, path, overwrite: true);
            if (await db.Blobs.FirstOrDefaultAsync(b => b.Hash == hash, cancel) is { } known)
            {
                return known;
            }

            var row = new Blob { Hash = hash, Length = length };
            db.Blobs.Add(row);
            await db.SaveChangesAsync(cancel);
            return row;
        }
        finally
        {
            File.Delete(beside);
        }
    }

    public Task<Blob> Keep(EidolonDb db, byte[] bytes, CancellationToken cancel = default) => Keep(db, new MemoryStream(bytes), cancel);

    /// <summary>Where a blob's file is; null when there is no such blob, or its file is gone.</summary>
    public async Task<string?> Find(EidolonDb db, int id, CancellationToken cancel = default)
    {
        var hash = await db.Blobs.AsNoTracking().Where(b => b.Id == id).Select(b => b.Hash).FirstOrDefaultAsync(cancel);
        return hash is not null && File.Exists(PathOf(hash)) ? PathOf(hash) : null;
    }

    /// <exception cref="DamagedDataException">The file is gone or was changed.</exception>
    public byte[] Read(EidolonDb db, int id)
    {
        var row = db.Blobs.AsNoTracking().FirstOrDefault(b => b.Id == id) ?? throw new DamagedDataException($"file {id} is gone");
        if (!File.Exists(PathOf(row.Hash)))
        {
            throw new DamagedDataException($"file {row.Hash[..12]} is gone from the studio's folder");
        }

        var bytes = File.ReadAllBytes(PathOf(row.Hash));
        return Convert.ToHexStringLower(SHA256.HashData(bytes)) == row.Hash
            ? bytes
            : throw new DamagedDataException($"file {row.Hash[..12]} does not match its checksum");
    }

    private string PathOf(string hash) => Path.Combine(folder, hash[..2], hash);

    private static async Task<(string Hash, long Length)> Write(string path, Stream bytes, CancellationToken cancel)
    {
        using var sha = SHA256.Create();
        await using var file = new FileStream(path, FileMode.CreateNew, FileAccess.Write, FileShare.None, 1 << 16, useAsync: true);
        var hashing = new CryptoStream(file, sha, CryptoStreamMode.Write, leaveOpen: true);
        await bytes.CopyToAsync(hashing, cancel);
        await hashing.FlushFinalBlockAsync(cancel);
        file.Flush(flushToDisk: true);
        return (Convert.ToHexStringLower(sha.Hash!), file.Length);
    }
}
