using System.Text.Json;
using Eidolon.Core;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Live.Devices;
using Eidolon.Studio.Services;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Live;

/// <summary>
/// Ready, Pre-roll, Recording, Kept: writes the raw streams of all devices three times a second, in one transaction: a crash costs less than
/// half a second.
/// </summary>
public sealed class Recorder : BackgroundService
{
    /// <summary>Samples are written as often as this, seconds.</summary>
    private const double FlushSeconds = 1 / 3.0;

    /// <summary>How long frames wait for the live points of the same moment, seconds.</summary>
    private const double GraceSeconds = 0.1;

    /// <summary>The part of the studio that faults are told of.</summary>
    private const string Part = "the recorder";

    /// <summary>How often a write that can never work is tried.</summary>
    private const int MostFailures = 3;

    /// <summary>How long a stop waits for the last frames to be stored, seconds.</summary>
    private const double Patience = 10;

    private readonly StageSettings _settings;
    private readonly DeviceRack _rack;
    private readonly LiveStage _stage;
    private readonly IStandIns _standIns;
    private readonly DiskRoom _room;
    private readonly Faults _faults;
    private readonly LiveAudience _audience;
    private readonly IServiceScopeFactory _scopes;
    private readonly Lock _lock = new();
    private readonly System.Threading.Channels.Channel<Write> _writes = System.Threading.Channels.Channel.CreateUnbounded<Write>();
    private bool _starting;
    private Recording? _now;
    private string _said = string.Empty;

    public Recorder(
        DeviceRack rack,
        RingAssembler assembler,
        LiveStage stage,
        IStandIns standIns,
        StageSettings settings,
        DiskRoom room,
        Faults faults,
        LiveAudience audience,
        IServiceScopeFactory scopes
    )
    {
        (_rack, _stage, _standIns, _settings) = (rack, stage, standIns, settings);
        (_room, _faults, _audience, _scopes) = (room, faults, audience, scopes);
        assembler.Frame += OnRing;
        stage.Made += OnPoints;
        foreach (var device in rack.Devices.Where(d => d.Kind != DeviceKind.Ring))
        {
            device.Arrived += a => OnDevice(device, a);
        }
    }

    private sealed record Write(Recording Recording, List<SampleStore.Part> Parts, bool Last, int Frames);

    /// <summary>Seconds counted in before a recording.</summary>
    public double PreRollSeconds { get; set; } = 3;

    /// <summary>The recorder's own part of the status.</summary>
    public (string State, double Seconds, int Frames, int Kept, int TakeId, string TakeName, double MegabytesPerSecond, string Said) Now()
    {
        lock (_lock)
        {
            if (_now is not { } r)
            {
                return ("Ready", 0, 0, 0, 0, string.Empty, 0, _said);
            }

            var frames = r.Streams.Frames;
            return r.State switch
            {
                RecordingState.PreRoll => (
                    "Pre-roll",
                    Math.Max(0, PreRollSeconds - (StudioClock.Now - r.Since)),
                    0,
                    0,
                    r.TakeId,
                    r.Name,
                    0,
                    _said
                ),
                RecordingState.Recording => ("Recording", frames / r.Rate, frames, r.Kept, r.TakeId, r.Name, r.BytesPerSecond, _said),
                RecordingState.Nothing => ("Ready", 0, 0, 0, 0, string.Empty, 0, _said),
                _ => ("Kept", frames / r.Rate, frames, r.Kept, r.TakeId, r.Name, 0, _said),
            };
        }
    }

    /// <summary>Checks the slate, makes the take's row, counts in.</summary>
    /// <exception cref="RefusedException">The slate cannot be used, or the stage is not ready; says what to do. The recorder stays ready.</exception>
    public async Task Start(RecordRequest request)
    {
        Check(request);
        lock (_lock)
        {
            if (_starting || _now is { Open: true })
            {
                throw new RefusedException(
                    _now is { State: RecordingState.Ending } r
                        ? $"{r.Name} is not stored whole yet: wait a moment"
                        : "a recording is running"
                );
            }

            _starting = true;
        }

        try
        {
            using var scope = _scopes.CreateScope();
            var recording = await Make(scope.ServiceProvider.GetRequiredService<EidolonDb>(), request);
            lock (_lock)
            {
                (_now, _said) = (recording, string.Empty);
            }

            _audience.Recording(true);

            _ = CountIn(recording);
        }
        finally
        {
            lock (_lock)
            {
                _starting = false;
            }
        }
    }

    private void Check(RecordRequest request)
    {
        SlateName.Check(request.SetUp);

        if (request.Number is < 1 or > 9999)
        {
            throw new RefusedException("a take's number is from 1 to 9999");
        }

        if (_stage.Ring is null)
        {
            throw new RefusedException("the camera ring is not calibrated: wave the wand first");
        }

        if (!_rack.Ring.Meter.Connected)
        {
            throw new RefusedException($"nothing arrives from the camera ring on {_rack.Ring.Arrives}: start it first");
        }

        _room.Want(0);
    }

    /// <summary>The take's row, its parts, and the streams that it will have: all of it or nothing.</summary>
    private async Task<Recording> Make(EidolonDb db, RecordRequest request)
    {
        var name = $"{request.SetUp}_{request.Number:00}";
        var props = request.Props ?? [];
        await using var transaction = await db.Database.BeginTransactionAsync();
        if (await db.Days.Where(d => d.Id == request.DayId).Select(d => (int?)d.ProductionId).FirstOrDefaultAsync() is not { } production)
        {
            throw new RefusedException("that shoot day is gone");
        }

        if (await db.Takes.AnyAsync(t => t.ProductionId == production && t.Name == name))
        {
            throw new RefusedException($"{name} exists already; count the take number on");
        }

        var subjects = request.Performers.Concat(props).Distinct().ToList();
        if (await db.Shelf.CountAsync(s => subjects.Contains(s.Id)) != subjects.Count)
        {
            throw new RefusedException("somebody or something on the slate is gone from the library; load the page anew");
        }

        var take = new Take
        {
            ShootDayId = request.DayId,
            Name = name,
            SetUp = request.SetUp,
            Number = request.Number,
            MarkerSetId = await db.MarkerSets.AnyAsync(m => m.Id == request.MarkerSet) ? request.MarkerSet : null,
            Note = request.Note,
            FrameRate = _settings.Rate,
            State = TakeState.Recording,
            CalibrationId = await db.Calibrations.OrderByDescending(c => c.Id).Select(c => (int?)c.Id).FirstOrDefaultAsync(),
        };
        await TakeMaker.Add(db, take, request.Performers, props);
        SampleStream Stream(string stream, StreamKind kind, int? subject = null) =>
            new()
            {
                TakeId = take.Id,
                Name = stream,
                Kind = kind,
                SubjectId = subject,
                FrameRate = take.FrameRate,
            };
        var points = Stream(StreamNames.Markers, StreamKind.Markers);
        points.Channels = string.Join('\n', Enumerable.Range(1, LiveStage.Slots).Select(i => $"Dot_{i:000}"));
        SampleStream[] all =
        [
            Stream(StreamNames.Ring, StreamKind.Centroids),
            points,
            .. props.Distinct().Select(p => Stream(StreamNames.Places(p), StreamKind.Places, p)),
            .. _rack.Devices.Where(d => d.Kind != DeviceKind.Ring).Select(d => Stream(d.Stream, StreamKind.Packets)),
        ];
        db.Streams.AddRange(all);
        await db.SaveChangesAsync();
        await transaction.CommitAsync();
        return new Recording(
            take.Id,
            name,
            _settings.Rate,
            new RecordingStreams(_settings.Rate, props),
            all.ToDictionary(s => s.Name, s => s.Id)
        );
    }

    /// <summary>Ends the recording; returns the take's id once its last frame is stored, 0 when nothing was recorded.</summary>
    public async Task<int> Stop()
    {
        Recording recording;
        lock (_lock)
        {
            if (_now is not { State: RecordingState.Recording or RecordingState.PreRoll } r)
            {
                return 0;
            }

            recording = r;
            recording.State = RecordingState.Ending;
        }

        // The live points of the last frames are on their way.
        await Task.Delay(120);
        lock (_lock)
        {
            Flush(recording, last: true);
        }

        await Task.WhenAny(recording.Done.Task, Task.Delay(TimeSpan.FromSeconds(Patience)));
        return recording.Done.Task.IsCompletedSuccessfully ? recording.Done.Task.Result : recording.TakeId;
    }

    private async Task CountIn(Recording recording)
    {
        await Task.Delay(TimeSpan.FromSeconds(PreRollSeconds));
        lock (_lock)
        {
            if (recording.State != RecordingState.PreRoll)
            {
                return;
            }

            recording.Before = _rack.Devices.ToDictionary(d => d.Stream, d => (d.Meter.Received, d.Meter.Lost));
            recording.State = RecordingState.Recording;
        }

        try
        {
            _standIns.BeginScene();
        }
        catch (Exception e)
        {
            _faults.Note("the stand-ins", e);
        }
    }

    private void OnRing(RingFrame frame)
    {
        lock (_lock)
        {
            if (_now is not { State: RecordingState.Recording } r)
            {
                return;
            }

            r.Streams.Add(frame);
            if (r.Streams.Pending < (FlushSeconds + GraceSeconds) * r.Rate)
            {
                return;
            }

            if (!_room.Out)
            {
                Flush(r, last: false);
                return;
            }

            r.Shortened = _said = "the disk is full: the recording was ended, everything before is kept";
            r.State = RecordingState.Ending;
            Flush(r, last: true);
        }
    }

    private void OnPoints(LiveFrame frame)
    {
        lock (_lock)
        {
            // The last points of a stopped take still find their place.
            if (_now is { State: RecordingState.Recording or RecordingState.Ending } r)
            {
                r.Streams.Add(frame);
            }
        }
    }

    private void OnDevice(UdpDeviceSource device, DeviceArrival arrival)
    {
        lock (_lock)
        {
            if (_now is { State: RecordingState.Recording } r)
            {
                r.Streams.Add(device.Stream, arrival, device.Meter.Offset, _rack.Ring.Meter.Offset);
            }
        }
    }

    private void Flush(Recording r, bool last)
    {
        var parts = r.Streams.Take(last ? int.MaxValue : (int)Math.Round(FlushSeconds * r.Rate));
        r.BytesPerSecond = parts.Sum(p => (long)p.Data.Length) / FlushSeconds / 1e6;
        _writes.Writer.TryWrite(
            new Write(r, [.. parts.Select(p => new SampleStore.Part(r.Ids[p.Stream], p.First, p.Count, p.Data))], last, r.Streams.Written)
        );
    }

    /// <remarks>
    /// What cannot be written now (no room, a busy database) waits and is tried again, in its order: nothing that was recorded is dropped. What can never
    /// be written is told and given up, so that what comes after it is kept.
    /// </remarks>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        try
        {
            await foreach (var w in _writes.Reader.ReadAllAsync(stoppingToken))
            {
                await _faults.Until(Part, () => Try(w), stoppingToken);
            }
        }
        catch (OperationCanceledException)
        {
            // The studio stops; what was being recorded is found at the next start.
        }
    }

    private async Task Try(Write w)
    {
        try
        {
            await Keep(w);
        }
        catch (Exception e) when (!NoRoom.MayPass(e) && ++w.Recording.Failures >= MostFailures)
        {
            _faults.Note(Part, e);
            lock (_lock)
            {
                w.Recording.Failures = 0;
                w.Recording.Shortened = _said =
                    $"About {FlushSeconds:0.0} s up to {w.Frames / w.Recording.Rate:0.0} s could not be stored; the log says why";
                if (w.Last)
                {
                    // What was stored before is found whole at the next start.
                    Ended(w);
                }
            }
        }
    }

    private async Task Keep(Write w)
    {
        using var scope = _scopes.CreateScope();
        var db = scope.ServiceProvider.GetRequiredService<EidolonDb>();
        await using var transaction = await db.Database.BeginTransactionAsync();
        await new SampleStore(db).Append(w.Parts);
        if (w.Last)
        {
            await Close(db, w);
        }

        await transaction.CommitAsync();
        _faults.Mended(Part);
        var missed = w.Last
            ? await MissedPoints.Remade(scope.ServiceProvider.GetRequiredService<JobQueue>(), w.Recording, _faults)
            : string.Empty;
        if (w is { Last: true, Frames: > 0 })
        {
            await Unpack(scope.ServiceProvider.GetRequiredService<JobQueue>(), db, w.Recording);
        }

        lock (_lock)
        {
            _said = missed.Length > 0 ? missed : _said;
            w.Recording.Kept = w.Frames;
            if (w.Last)
            {
                Ended(w);
            }
        }
    }

    private void Ended(Write w)
    {
        _audience.Recording(false);
        w.Recording.State = w.Frames == 0 ? RecordingState.Nothing : RecordingState.Kept;
        _said = w.Frames == 0 ? $"{w.Recording.Name} has no frames: nothing was kept" : _said;
        w.Recording.Done.TrySetResult(w.Frames == 0 ? 0 : w.Recording.TakeId);
    }

    /// <summary>Samples of the other devices are made by a job; one that cannot be queued now is queued at the next start.</summary>
    private async Task Unpack(JobQueue jobs, EidolonDb db, Recording recording)
    {
        try
        {
            if (await db.Streams.AnyAsync(s => s.TakeId == recording.TakeId && s.Kind == StreamKind.Packets))
            {
                await jobs.Unpack(recording.TakeId, recording.Name);
            }
        }
        catch (Exception e)
        {
            _faults.Note("what devices recorded", e);
        }
    }

    /// <summary>The take is kept with what it has; one without a frame goes again.</summary>
    private async Task Close(EidolonDb db, Write w)
    {
        if (await db.Takes.Include(t => t.Streams).FirstOrDefaultAsync(t => t.Id == w.Recording.TakeId) is not { } take)
        {
            return;
        }

        if (w.Frames == 0)
        {
            db.Takes.Remove(take);
        }
        else
        {
            await RecordingRecovery.Close(db, take);
            (take.State, take.FrameCount, take.Devices) = (TakeState.Kept, w.Frames, DeviceLines(w.Recording));
            take.Shortened = w.Recording.Shortened;
            db.Streams.RemoveRange(take.Streams.Where(x => x.FrameCount == 0));
        }

        await db.SaveChangesAsync();
    }

    /// <summary>What each device sent and lost during the take, and its clock.</summary>
    private string DeviceLines(Recording recording) =>
        TakeDevice.Write(
            _rack
                .Devices.Select(d =>
                {
                    var (received, lost) = recording.Before.GetValueOrDefault(d.Stream);
                    return new TakeDevice(
                        d.Stream,
                        d.Name,
                        d.Meter.Received - received,
                        d.Meter.Lost - lost,
                        Math.Round(d.Meter.Offset * 1000, 1)
                    );
                })
                .Where(d => d.Packets > 0)
        );
}
