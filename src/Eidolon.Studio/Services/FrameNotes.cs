using Eidolon.Core;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>Notes at frames of a take: kept, listed in order of time, taken away.</summary>
public sealed class FrameNotes(EidolonDb db, TimeProvider time)
{
    /// <summary>Of a take, in order of frames.</summary>
    public async Task<IReadOnlyList<FrameNote>> Of(int take, CancellationToken cancel) =>
        await db.FrameNotes.AsNoTracking().Where(n => n.TakeId == take).OrderBy(n => n.Frame).ThenBy(n => n.Id).ToListAsync(cancel);

    /// <summary>Writes a note down.</summary>
    /// <exception cref="RefusedException">There is no such take or frame, or the note says nothing or too much.</exception>
    public async Task Keep(int take, int frame, string? text, CancellationToken cancel)
    {
        var frames = await db.Takes.Where(t => t.Id == take).Select(t => (int?)t.FrameCount).FirstOrDefaultAsync(cancel);
        var said = (text ?? string.Empty).Trim();
        if (frames is not { } count)
        {
            throw new RefusedException("that take is gone");
        }

        if (frame < 0 || frame >= count)
        {
            throw new RefusedException($"there is no frame {frame} in this take: it has 0 to {count - 1}");
        }

        if (said.Length is 0 or > FrameNote.Longest)
        {
            throw new RefusedException(
                said.Length == 0 ? "a note needs words" : $"a note has at most {FrameNote.Longest} characters, this one {said.Length}"
            );
        }

        db.FrameNotes.Add(
            new FrameNote
            {
                TakeId = take,
                Frame = frame,
                Text = said,
                CreatedUtc = time.GetUtcNow().UtcDateTime,
            }
        );
        await db.SaveChangesAsync(cancel);
    }

    /// <summary>Takes a note away.</summary>
    /// <returns>What it was, so that it can be written again; null when it is gone already.</returns>
    public async Task<FrameNote?> Remove(int take, int note, CancellationToken cancel)
    {
        var row = await db.FrameNotes.AsNoTracking().FirstOrDefaultAsync(n => n.Id == note && n.TakeId == take, cancel);
        // Of two who take it away at once, one has it.
        return row is not null && await db.FrameNotes.Where(n => n.Id == note).ExecuteDeleteAsync(cancel) == 1 ? row : null;
    }
}
