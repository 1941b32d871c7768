using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage;

/// <summary>After a crash: takes that were being recorded are kept up to their last whole chunk, and say so.</summary>
public static class RecordingRecovery
{
    public static async Task<int> Run(EidolonDb db, CancellationToken cancel = default)
    {
        var open = await db.Takes.Where(t => t.State == TakeState.Recording).ToListAsync(cancel);
        foreach (var take in open)
        {
            var frames = await db
                .Chunks.Where(c => c.TakeId == take.Id && c.Stream == SampleStore.RawMarkers)
                .SumAsync(c => c.FrameCount, cancel);
            if (frames == 0)
            {
                db.Takes.Remove(take);
                continue;
            }

            take.FrameCount = frames;
            take.State = TakeState.Kept;
            take.RawHash = $"recovered-{take.Id}-{frames}";
            take.Shortened = $"the recording was cut off after {frames / take.FrameRate:0.0} s; at most the last half second is missing";
        }

        await db.SaveChangesAsync(cancel);
        return open.Count;
    }
}
