using Eidolon.Storage;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Live;

/// <summary>The stage as the production describes it: how many cameras, how fast, how large. Read at the start and whenever the production changes.</summary>
public sealed class StageSettings(IDbContextFactory<EidolonDb> factory)
{
    private RingDescription _ring = RingDescription.Usual;

    /// <summary>The camera ring.</summary>
    public RingDescription Ring => Volatile.Read(ref _ring);

    /// <summary>Frames a second of ring and recordings.</summary>
    public double Rate => Ring.Rate;

    /// <summary>The calibration of the ring that was kept last; null before the first.</summary>
    public async Task<CalibrationRow?> LastCalibration(CancellationToken cancel)
    {
        await using var db = factory.CreateDbContext();
        return await db.Calibrations.AsNoTracking().OrderByDescending(c => c.Id).FirstOrDefaultAsync(cancel);
    }

    /// <summary>Reads the production's own.</summary>
    public void Read()
    {
        using var db = factory.CreateDbContext();
        if (db.Productions.AsNoTracking().OrderBy(p => p.Id).FirstOrDefault() is { } p)
        {
            Volatile.Write(ref _ring, new RingDescription(p.Cameras, p.FrameRate, p.VolumeX, p.VolumeZ));
        }
    }
}
