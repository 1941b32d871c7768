using System.Text.Json;
using Eidolon.Core;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Optical;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Live;

/// <summary>Calibrates the ring: gathers a wave of the wand, works out the cameras, sets floor and axes. The result is kept and used at once.</summary>
public sealed class RingPreparation
{
    private const int LongestSeconds = 60;

    /// <summary>Seconds of the ground frame that are gathered.</summary>
    private const double GroundSeconds = 1;
    private static readonly JsonSerializerOptions Camel = new(JsonSerializerDefaults.Web);
    private readonly IDbContextFactory<EidolonDb> _factory;
    private readonly LiveStage _stage;
    private readonly StageSettings _settings;
    private readonly ILogger<RingPreparation> _log;
    private readonly Lock _lock = new();
    private CentroidTakeBuilder? _wave;
    private CentroidTakeBuilder? _ground;
    private WandCoverage _coverage;
    private CancellationTokenSource? _cancel;
    private int[] _sightings;
    private string _state = "Ready";
    private string _message = string.Empty;
    private double _progress;

    public RingPreparation(
        RingAssembler assembler,
        IDbContextFactory<EidolonDb> factory,
        LiveStage stage,
        StageSettings settings,
        ILogger<RingPreparation> log
    )
    {
        (_factory, _stage, _settings, _log) = (factory, stage, settings, log);
        (_coverage, _sightings) = (new WandCoverage(Nominal), new int[Nominal.Count]);
        assembler.Frame += OnFrame;
    }

    private IReadOnlyList<CameraModel> Nominal => _settings.Ring.Nominal;

    /// <summary>What is going on: Ready, Waving, Working out, Floor, Done, Again.</summary>
    public RingPreparationStatus Status()
    {
        lock (_lock)
        {
            return new RingPreparationStatus(
                _state,
                _message,
                (_wave?.FrameCount ?? 0) / _settings.Rate,
                LongestSeconds,
                _progress,
                [
                    .. Enumerable
                        .Range(0, _sightings.Length)
                        .Select(c => new RingPreparationStatus.Camera(
                            Nominal[c].Name,
                            _sightings[c],
                            Math.Round(_coverage.Share(c), 3),
                            [.. _coverage.Fields(c)]
                        )),
                ]
            );
        }
    }

    /// <summary>Reads the last calibration of the production and works with it.</summary>
    public CalibrationRow? Restore()
    {
        using var db = _factory.CreateDbContext();
        var row = db.Calibrations.AsNoTracking().OrderByDescending(c => c.Id).FirstOrDefault();
        _stage.Use(row is null ? null : CameraRingJson.Read(System.Text.Encoding.UTF8.GetBytes(row.Cameras), "calibration"));
        return row;
    }

    /// <summary>Begins to gather the wave.</summary>
    public void BeginWave()
    {
        lock (_lock)
        {
            if (_state is "Waving" or "Working out" or "Floor")
            {
                return;
            }

            (_wave, _coverage, _sightings) = (
                new CentroidTakeBuilder(Nominal.Count, _settings.Rate),
                new WandCoverage(Nominal),
                new int[Nominal.Count]
            );
            (_state, _message, _progress) = ("Waving", string.Empty, 0);
        }
    }

    /// <summary>Ends the wave and works the cameras out.</summary>
    public void EndWave()
    {
        CentroidTake wave;
        CancellationToken cancel;
        lock (_lock)
        {
            if (_state != "Waving")
            {
                return;
            }

            wave = _wave!.Build();
            (_wave, _state) = (null, "Working out");
            _cancel = new CancellationTokenSource();
            cancel = _cancel.Token;
        }

        _ = Task.Run(() => WorkOut(wave, cancel), cancel);
    }

    /// <summary>Gathers one second of the ground frame and sets floor and axes.</summary>
    public void SetGround()
    {
        lock (_lock)
        {
            if (_state is "Waving" or "Working out" or "Floor")
            {
                return;
            }

            (_ground, _state, _message) = (new CentroidTakeBuilder(Nominal.Count, _settings.Rate), "Floor", string.Empty);
        }
    }

    /// <summary>Stops whatever runs; the calibration in use stays.</summary>
    public void Stop()
    {
        lock (_lock)
        {
            _cancel?.Cancel();
            (_wave, _ground, _state, _message) = (null, null, "Ready", "Stopped; the calibration before stays in use.");
        }
    }

    private void OnFrame(RingFrame frame)
    {
        var (full, still) = (false, default(CentroidTake));
        lock (_lock)
        {
            var into = _wave ?? _ground;
            if (into is null)
            {
                return;
            }

            for (var c = 0; c < Math.Min(_sightings.Length, frame.Pictures.Length); c++)
            {
                var (u, v) = frame.Pictures[c] ?? ([], []);
                into.Add(u, v);
                if (_wave is not null && RingCalibration.Sees(u, v) is { } middle)
                {
                    _sightings[c]++;
                    _coverage.Add(c, middle.U, middle.V);
                }
            }

            full = _wave is not null && _wave.FrameCount >= LongestSeconds * _settings.Rate;
            if (_ground is not null && _ground.FrameCount >= GroundSeconds * _settings.Rate)
            {
                (still, _ground) = (_ground.Build(), null);
            }
        }

        if (full)
        {
            EndWave();
        }

        if (still is not null)
        {
            _ = Task.Run(() => Align(still));
        }
    }

    private void WorkOut(CentroidTake wave, CancellationToken cancel)
    {
        try
        {
            var (ring, report) = RingCalibration.Calibrate(wave, Nominal, new Wand(), cancel, new Progress<double>(p => _progress = p));
            (ring, var ground) = Place(ring with { CalibratedUtc = DateTime.UtcNow });
            Keep(
                new CalibrationRow
                {
                    ProductionId = Production(),
                    MadeUtc = DateTime.UtcNow,
                    GroundUtc = ground,
                    Cameras = CameraRingJson.Write(ring),
                    ResidualPixels = report.ResidualPixels,
                    Report = JsonSerializer.Serialize(report, Camel),
                }
            );
            _stage.Use(ring);
            Say(
                "Done",
                $"{ring.Count} cameras, {report.ResidualPixels:0.000} px from {report.Wands} wands. "
                    + (
                        ground is null
                            ? "Lay the ground frame down next."
                            : "Floor and axes are those of before; set them anew if the cameras were moved."
                    )
            );
        }
        catch (InvalidInputException e)
        {
            Say("Again", $"{e.Place}: {e.Reason}");
        }
        catch (OperationCanceledException)
        {
            Say("Ready", "Stopped; the calibration before stays in use.");
        }
        catch (Exception e)
        {
            Failed(e);
        }
    }

    /// <summary>A fault costs this calibration; the one before stays in use.</summary>
    private void Failed(Exception fault)
    {
        _log.LogError(fault, "The calibration failed");
        Say("Again", Security.Answers.WordsOf(fault) ?? "A fault; the calibration before stays in use. The log says more.");
    }

    /// <summary>Floor and axes of the calibration before where the cameras stand as they did; otherwise a rough world until the ground frame is laid.</summary>
    private (CameraRing Ring, DateTime? Ground) Place(CameraRing ring)
    {
        using var db = _factory.CreateDbContext();
        var before = db.Calibrations.AsNoTracking().OrderByDescending(c => c.Id).FirstOrDefault();
        if (before?.GroundUtc is null)
        {
            return (GroundAlignment.Roughly(ring), null);
        }

        var (laid, rms) = GroundAlignment.Onto(
            ring,
            CameraRingJson.Read(System.Text.Encoding.UTF8.GetBytes(before.Cameras), "calibration")
        );
        return (laid, rms < 0.02 ? before.GroundUtc : null);
    }

    private void Align(CentroidTake still)
    {
        try
        {
            using var db = _factory.CreateDbContext();
            if (db.Calibrations.AsNoTracking().OrderByDescending(c => c.Id).FirstOrDefault() is not { } before)
            {
                Say("Again", "Wave the wand first: floor and axes are set in a calibrated ring.");
                return;
            }

            var (ring, rms) = GroundAlignment.Align(
                CameraRingJson.Read(System.Text.Encoding.UTF8.GetBytes(before.Cameras), "calibration"),
                still
            );
            // A version of its own: takes that were recorded before stay in the room they were recorded in.
            Keep(
                new CalibrationRow
                {
                    ProductionId = before.ProductionId,
                    MadeUtc = before.MadeUtc,
                    GroundUtc = DateTime.UtcNow,
                    Cameras = CameraRingJson.Write(ring),
                    ResidualPixels = before.ResidualPixels,
                    Report = before.Report,
                }
            );
            _stage.Use(ring);
            Say("Done", $"Floor and axes set; the frame's markers fit within {rms:0.00} mm.");
        }
        catch (InvalidInputException e)
        {
            Say("Again", e.Reason);
        }
        catch (Exception e)
        {
            Failed(e);
        }
    }

    private void Say(string state, string message)
    {
        lock (_lock)
        {
            (_state, _message) = (state, message);
        }

        _log.LogInformation("Calibration: {State} {Message}", state, message);
    }

    private int Production()
    {
        using var db = _factory.CreateDbContext();
        return new Productions(db, TimeProvider.System).Own(default).GetAwaiter().GetResult().Id;
    }

    private void Keep(CalibrationRow row)
    {
        using var db = _factory.CreateDbContext();
        db.Calibrations.Add(row);
        db.SaveChanges();
    }
}
