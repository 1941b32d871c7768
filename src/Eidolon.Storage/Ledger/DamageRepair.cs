using Eidolon.Core;
using Eidolon.Storage.Model;
using Eidolon.Storage.Samples;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Ledger;

/// <summary>What can be done about damaged samples: go on without their frames, or read them again. The stored bytes stay as they are.</summary>
public sealed class DamageRepair(IDbContextFactory<EidolonDb> factory)
{
    private static readonly StreamKind[] Framed = [StreamKind.Markers, StreamKind.Centroids, StreamKind.Places];

    /// <summary>Damaged frames of a take's streams, and those that are left out already.</summary>
    public IReadOnlyList<(SampleStream Stream, IReadOnlyList<FrameSpan> Damaged)> Find(int take)
    {
        using var db = factory.CreateDbContext();
        var store = new SampleStore(db);
        return
        [
            .. db
                .Streams.AsNoTracking()
                .Where(s => s.TakeId == take && Framed.Contains(s.Kind))
                .ToList()
                .Select(s => (s, store.Damage(s)))
                .Where(s => s.Item2.Count > 0 || s.s.LeftOut.Length > 0),
        ];
    }

    /// <summary>The take goes on without its damaged frames: they count as hidden, and everything is made of the rest.</summary>
    /// <returns>What was left out, in words.</returns>
    /// <exception cref="RefusedException">Nothing is damaged that could be left out.</exception>
    public string LeaveOut(int take)
    {
        var damaged = Find(take).Where(d => d.Damaged.Count > 0).ToList();
        if (damaged.Count == 0)
        {
            throw new RefusedException("nothing is damaged that could be left out");
        }

        using var db = factory.CreateDbContext();
        foreach (var (stream, spans) in damaged)
        {
            Set(db, stream.Id, FrameSpans.Write(spans));
        }

        return string.Join("; ", damaged.Select(d => $"frames {FrameSpans.Words(d.Damaged)} of '{d.Stream.Name}'"));
    }

    /// <summary>Frames that were left out are read again: the disk may have been mended.</summary>
    public void ReadAgain(int take)
    {
        using var db = factory.CreateDbContext();
        foreach (var id in db.Streams.Where(s => s.TakeId == take && s.LeftOut != string.Empty).Select(s => s.Id).ToList())
        {
            Set(db, id, string.Empty);
        }
    }

    /// <summary>The stream's content is another one now: what was made of it is out of date.</summary>
    private static void Set(EidolonDb db, int stream, string leftOut) =>
        db
            .Streams.Where(s => s.Id == stream)
            .ExecuteUpdate(s => s.SetProperty(x => x.LeftOut, leftOut).SetProperty(x => x.Content, string.Empty));
}
