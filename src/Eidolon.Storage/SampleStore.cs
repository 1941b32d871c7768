using System.IO.Hashing;
using System.Numerics;
using System.Runtime.InteropServices;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Optical;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage;

/// <summary>Reads and writes sample streams as checked chunks.</summary>
public sealed class SampleStore(EidolonDb db)
{
    private const int FramesPerChunk = 1200;

    /// <summary>Name of the raw stream of 2D centroids.</summary>
    public const string RawRing = "ring";

    /// <summary>Name of the stream of a motion that was brought in.</summary>
    public const string RawMotion = "motion";

    /// <summary>Name of the raw marker stream.</summary>
    public const string RawMarkers = "markers";

    /// <summary>Appends frames in a transaction of their own; a recorder calls this every half second.</summary>
    public async Task Append(
        int takeId,
        string stream,
        int firstFrame,
        int frames,
        ReadOnlyMemory<byte> data,
        CancellationToken cancel = default
    )
    {
        db.Chunks.Add(
            new SampleChunk
            {
                TakeId = takeId,
                Stream = stream,
                FirstFrame = firstFrame,
                FrameCount = frames,
                Data = data.ToArray(),
                Hash = Hash(data.Span),
            }
        );
        await db.SaveChangesAsync(cancel);
        db.ChangeTracker.Clear();
    }

    /// <summary>Appends several streams' frames in one transaction: after a crash all of them end at the same moment.</summary>
    public async Task AppendAll(
        int takeId,
        IEnumerable<(string Stream, int First, int Count, byte[] Data)> parts,
        CancellationToken cancel = default
    )
    {
        foreach (var (stream, first, count, data) in parts)
        {
            db.Chunks.Add(
                new SampleChunk
                {
                    TakeId = takeId,
                    Stream = stream,
                    FirstFrame = first,
                    FrameCount = count,
                    Data = data,
                    Hash = Hash(data),
                }
            );
        }

        await db.SaveChangesAsync(cancel);
        db.ChangeTracker.Clear();
    }

    /// <summary>Stores a whole take of 2D centroids.</summary>
    public async Task WriteCentroids(int takeId, CentroidTake take, CancellationToken cancel = default)
    {
        var parts = new List<(string, int, int, byte[])>();
        for (var from = 0; from < take.FrameCount; from += FramesPerChunk)
        {
            var n = Math.Min(FramesPerChunk, take.FrameCount - from);
            var bytes = new List<byte>();
            for (var f = from; f < from + n; f++)
            {
                for (var c = 0; c < take.CameraCount; c++)
                {
                    CentroidCodec.Write(bytes, take.UAt(f, c), take.VAt(f, c), true);
                }
            }

            parts.Add((RawRing, from, n, [.. bytes]));
        }

        await AppendAll(takeId, parts, cancel);
    }

    /// <summary>The raw 2D of a take, every chunk checked; null when it was not recorded by a ring.</summary>
    public async Task<CentroidTake?> ReadCentroids(Take take, int cameras, CancellationToken cancel = default)
    {
        var chunks = await db
            .Chunks.AsNoTracking()
            .Where(c => c.TakeId == take.Id && c.Stream == RawRing)
            .OrderBy(c => c.FirstFrame)
            .ToListAsync(cancel);
        var builder = new CentroidTakeBuilder(cameras, take.FrameRate);
        foreach (var c in chunks)
        {
            if (
                Hash(c.Data) != c.Hash
                || c.FirstFrame != builder.FrameCount
                || !CentroidCodec.TryRead(c.Data, c.FrameCount, cameras, builder)
            )
            {
                throw new DamagedDataException(
                    $"{take.Name}: the stored 2D samples from frame {c.FirstFrame} on do not match their checksum"
                );
            }
        }

        return chunks.Count == 0 ? null : builder.Build();
    }

    /// <summary>Stores a whole marker take.</summary>
    public async Task WriteMarkers(int takeId, MarkerTake take, CancellationToken cancel = default)
    {
        for (var f = 0; f < take.FrameCount; f += FramesPerChunk)
        {
            var n = Math.Min(FramesPerChunk, take.FrameCount - f);
            var bytes = MemoryMarshal.AsBytes(take.Positions.AsSpan(f * take.MarkerCount, n * take.MarkerCount)).ToArray();
            db.Chunks.Add(
                new SampleChunk
                {
                    TakeId = takeId,
                    Stream = RawMarkers,
                    FirstFrame = f,
                    FrameCount = n,
                    Data = bytes,
                    Hash = Hash(bytes),
                }
            );
        }

        await db.SaveChangesAsync(cancel);
        db.ChangeTracker.Clear();
    }

    /// <summary>Stores a motion that was brought in; it stands before the Ledger as markers do.</summary>
    public Task WriteMotion(int takeId, TakeData data, CancellationToken cancel = default) =>
        Append(takeId, RawMotion, 0, data.Performer!.FrameCount, ResultCodec.Write(data), cancel);

    /// <summary>What a take holds before its Ledger: markers, or a motion that was brought in.</summary>
    public async Task<TakeData> ReadRaw(Take take, CancellationToken cancel = default)
    {
        var chunk = await db.Chunks.AsNoTracking().FirstOrDefaultAsync(c => c.TakeId == take.Id && c.Stream == RawMotion, cancel);
        if (chunk is null)
        {
            return new TakeData(await ReadMarkers(take, cancel));
        }

        return Hash(chunk.Data) == chunk.Hash && ResultCodec.Read(chunk.Data) is { } data
            ? data
            : throw new DamagedDataException($"{take.Name}: the stored motion does not match its checksum");
    }

    /// <summary>Raw markers of a take, every chunk checked.</summary>
    public async Task<MarkerTake> ReadMarkers(Take take, CancellationToken cancel = default)
    {
        var names = take.Channels.Split('\n', StringSplitOptions.RemoveEmptyEntries);
        var chunks = await db
            .Chunks.AsNoTracking()
            .Where(c => c.TakeId == take.Id && c.Stream == RawMarkers)
            .OrderBy(c => c.FirstFrame)
            .ToListAsync(cancel);
        var frames = chunks.Sum(c => c.FrameCount);
        var positions = new Vector3[frames * names.Length];
        var at = 0;
        foreach (var c in chunks)
        {
            if (Hash(c.Data) != c.Hash || c.FirstFrame != at || c.Data.Length != c.FrameCount * names.Length * 12)
            {
                throw new DamagedDataException($"{take.Name}: the stored samples from frame {c.FirstFrame} on do not match their checksum");
            }

            MemoryMarshal.Cast<byte, Vector3>(c.Data).CopyTo(positions.AsSpan(at * names.Length));
            at += c.FrameCount;
        }

        return new MarkerTake(names, take.FrameRate, frames, positions);
    }

    public static long Hash(ReadOnlySpan<byte> data) => unchecked((long)XxHash64.HashToUInt64(data));
}
