using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Samples;

/// <summary>After a crash: takes that were being recorded are kept up to their last whole chunk, and say so.</summary>
public static class RecordingRecovery
{
    public static async Task<int> Run(EidolonDb db, CancellationToken cancel = default)
    {
        var open = await db.Takes.Include(t => t.Streams).Where(t => t.State == TakeState.Recording).ToListAsync(cancel);
        foreach (var take in open)
        {
            var frames = await Close(db, take, cancel);
            if (frames == 0)
            {
                db.Takes.Remove(take);
                continue;
            }

            (take.FrameCount, take.State) = (frames, TakeState.Kept);
            take.Shortened = $"the recording was cut off after {frames / take.FrameRate:0.0} s; at most the last half second is missing";
        }

        await db.SaveChangesAsync(cancel);
        return open.Count;
    }

    /// <summary>Writes down how long each stream of a recording has become.</summary>
    /// <returns>Frames of the markers.</returns>
    public static async Task<int> Close(EidolonDb db, Take take, CancellationToken cancel = default)
    {
        foreach (var stream in take.Streams)
        {
            stream.FrameCount = await db.Chunks.Where(c => c.StreamId == stream.Id).SumAsync(c => c.FrameCount, cancel);
        }

        return take.Streams.Find(s => s.Name == StreamNames.Markers)?.FrameCount ?? 0;
    }
}
