using System.Text.Json;
using System.Text.RegularExpressions;
using Eidolon.Core;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Live.Devices;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Live;

/// <summary>Ready, Pre-roll, Recording, Kept: writes the raw streams of all devices three times a second, in one transaction: a crash costs less than half a second.</summary>
public sealed partial class Recorder : BackgroundService
{
    /// <summary>Samples are written as often as this, seconds.</summary>
    private const double FlushSeconds = 1 / 3.0;

    /// <summary>How long frames wait for the live points of the same moment, seconds.</summary>
    private const double GraceSeconds = 0.1;

    private readonly StageSettings _settings;
    private readonly DeviceRack _rack;
    private readonly LiveStage _stage;
    private readonly IStandIns _standIns;
    private readonly IServiceScopeFactory _scopes;
    private readonly ILogger<Recorder> _log;
    private readonly Lock _lock = new();
    private readonly System.Threading.Channels.Channel<Write> _writes = System.Threading.Channels.Channel.CreateUnbounded<Write>();
    private RecordingStreams _streams;
    private double _rate;
    private readonly Dictionary<string, int> _ids = [];
    private Dictionary<string, (long Received, long Lost)> _before = [];
    private string _state = "Ready";
    private double _since = StudioClock.Now;
    private int _takeId;
    private string _takeName = string.Empty;
    private int _kept;
    private double _bytesPerSecond;
    private TaskCompletionSource<int>? _done;

    public Recorder(
        DeviceRack rack,
        RingAssembler assembler,
        LiveStage stage,
        IStandIns standIns,
        StageSettings settings,
        IServiceScopeFactory scopes,
        ILogger<Recorder> log
    )
    {
        (_rack, _stage, _standIns, _settings, _scopes, _log) = (rack, stage, standIns, settings, scopes, log);
        (_rate, _streams) = (settings.Rate, new RecordingStreams(settings.Rate, []));
        assembler.Frame += OnRing;
        stage.Made += OnPoints;
        foreach (var device in rack.Devices.Where(d => d.Kind != DeviceKind.Ring))
        {
            device.Arrived += a => OnDevice(device, a);
        }
    }

    private sealed record Write(int TakeId, List<SampleStore.Part> Parts, bool Last, int Frames);

    /// <summary>Seconds counted in before a recording.</summary>
    public double PreRollSeconds { get; set; } = 3;

    /// <summary>The recorder's own part of the status.</summary>
    public (string State, double Seconds, int Frames, int Kept, int TakeId, string TakeName, double MegabytesPerSecond) Now()
    {
        lock (_lock)
        {
            var seconds = _state == "Pre-roll" ? Math.Max(0, PreRollSeconds - (StudioClock.Now - _since)) : _streams.Frames / _rate;
            return (_state, seconds, _streams.Frames, _kept, _takeId, _takeName, _state == "Recording" ? _bytesPerSecond : 0);
        }
    }

    /// <summary>Checks the slate, makes the take's row, counts in.</summary>
    /// <exception cref="RefusedException">The slate cannot be used, or the stage is not ready; says what to do.</exception>
    public async Task Start(RecordRequest request)
    {
        if (!Slate().IsMatch(request.SetUp))
        {
            throw new RefusedException(
                $"'{request.SetUp}' cannot be a set-up's name: letters, digits, - and _ only. Try HL_009_lamp-walk."
            );
        }

        if (_stage.Ring is null)
        {
            throw new RefusedException("the camera ring is not calibrated: wave the wand first");
        }

        if (!_rack.Ring.Meter.Connected)
        {
            throw new RefusedException($"nothing arrives from the camera ring on {_rack.Ring.Arrives}: start it first");
        }

        var name = $"{request.SetUp}_{request.Number:00}";
        using var scope = _scopes.CreateScope();
        var db = scope.ServiceProvider.GetRequiredService<EidolonDb>();
        if (await db.Days.Where(d => d.Id == request.DayId).Select(d => (int?)d.ProductionId).FirstOrDefaultAsync() is not { } production)
        {
            throw new RefusedException("that shoot day is gone");
        }

        if (await db.Takes.AnyAsync(t => t.ProductionId == production && t.Name == name))
        {
            throw new RefusedException($"{name} exists already; count the take number on");
        }

        lock (_lock)
        {
            if (_state is "Pre-roll" or "Recording")
            {
                throw new RefusedException("a recording is running");
            }

            (_state, _since) = ("Pre-roll", StudioClock.Now);
        }

        var (take, ids) = await Make(db, request, name);
        lock (_lock)
        {
            (_takeId, _takeName, _kept, _rate) = (take.Id, name, 0, _settings.Rate);
            _streams = new RecordingStreams(_rate, request.Props ?? []);
            _ids.Clear();
            foreach (var (stream, id) in ids)
            {
                _ids[stream] = id;
            }
        }

        _ = CountIn(take.Id);
    }

    /// <summary>The take's row, its parts, and the streams that it will have.</summary>
    private async Task<(Take Take, Dictionary<string, int> Streams)> Make(EidolonDb db, RecordRequest request, string name)
    {
        var calibration = await db.Calibrations.OrderByDescending(c => c.Id).Select(c => (int?)c.Id).FirstOrDefaultAsync();
        var take = new Take
        {
            ShootDayId = request.DayId,
            Name = name,
            SetUp = request.SetUp,
            Number = request.Number,
            MarkerSetId = request.MarkerSet,
            Note = request.Note,
            FrameRate = _settings.Rate,
            State = TakeState.Recording,
            CalibrationId = calibration,
        };
        await TakeMaker.Add(db, take, request.Performers, request.Props ?? []);
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
            .. (request.Props ?? []).Select(p => Stream(StreamNames.Places(p), StreamKind.Places, p)),
            .. _rack.Devices.Where(d => d.Kind != DeviceKind.Ring).Select(d => Stream(d.Stream, StreamKind.Packets)),
        ];
        db.Streams.AddRange(all);
        await db.SaveChangesAsync();
        return (take, all.ToDictionary(s => s.Name, s => s.Id));
    }

    /// <summary>Ends the recording; returns the take's id once its last frame is stored, 0 when nothing was recorded.</summary>
    public async Task<int> Stop()
    {
        Task<int> kept;
        lock (_lock)
        {
            if (_state is not ("Recording" or "Pre-roll"))
            {
                return 0;
            }

            (_state, _since) = ("Kept", StudioClock.Now);
            _done = new TaskCompletionSource<int>(TaskCreationOptions.RunContinuationsAsynchronously);
            kept = _done.Task;
        }

        // The live points of the last frames are on their way.
        await Task.Delay(120);
        lock (_lock)
        {
            Flush(last: true);
        }

        return await kept;
    }

    private async Task CountIn(int takeId)
    {
        await Task.Delay(TimeSpan.FromSeconds(PreRollSeconds));
        lock (_lock)
        {
            if (_state == "Pre-roll" && _takeId == takeId)
            {
                _standIns.BeginScene();
                _before = _rack.Devices.ToDictionary(d => d.Stream, d => (d.Meter.Received, d.Meter.Lost));
                (_state, _since) = ("Recording", StudioClock.Now);
            }
        }
    }

    private void OnRing(RingFrame frame)
    {
        lock (_lock)
        {
            if (_state == "Recording")
            {
                _streams.Add(frame);
                if (_streams.Pending >= (FlushSeconds + GraceSeconds) * _rate)
                {
                    Flush(last: false);
                }
            }
        }
    }

    private void OnPoints(LiveFrame frame)
    {
        lock (_lock)
        {
            // The last points of a stopped take still find their place.
            if (_state == "Recording" || (_state == "Kept" && _done is { Task.IsCompleted: false }))
            {
                _streams.Add(frame);
            }
        }
    }

    private void OnDevice(UdpDeviceSource device, DeviceArrival arrival)
    {
        lock (_lock)
        {
            if (_state == "Recording")
            {
                _streams.Add(device.Stream, arrival, device.Meter.Offset, _rack.Ring.Meter.Offset);
            }
        }
    }

    private void Flush(bool last)
    {
        var parts = _streams.Take(last ? int.MaxValue : (int)Math.Round(FlushSeconds * _rate));
        _bytesPerSecond = parts.Sum(p => (long)p.Data.Length) / FlushSeconds / 1e6;
        _writes.Writer.TryWrite(
            new Write(
                _takeId,
                [.. parts.Select(p => new SampleStore.Part(_ids[p.Stream], p.First, p.Count, p.Data))],
                last,
                _streams.Written
            )
        );
    }

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        try
        {
            await foreach (var w in _writes.Reader.ReadAllAsync(stoppingToken))
            {
                await Keep(w);
            }
        }
        catch (OperationCanceledException)
        {
            _log.LogInformation("The recorder stops");
        }
    }

    private async Task Keep(Write w)
    {
        using var scope = _scopes.CreateScope();
        var db = scope.ServiceProvider.GetRequiredService<EidolonDb>();
        await new SampleStore(db).Append(w.Parts);
        if (w.Last)
        {
            var take = await db.Takes.Include(t => t.Streams).FirstAsync(t => t.Id == w.TakeId);
            if (w.Frames == 0)
            {
                db.Takes.Remove(take);
            }
            else
            {
                await RecordingRecovery.Close(db, take);
                (take.State, take.FrameCount, take.Devices) = (TakeState.Kept, w.Frames, DeviceLines());
                db.Streams.RemoveRange(take.Streams.Where(x => x.FrameCount == 0));
            }

            await db.SaveChangesAsync();
        }

        lock (_lock)
        {
            _kept = w.Frames;
            if (w.Last)
            {
                _state = w.Frames == 0 ? "Ready" : "Kept";
                _done?.TrySetResult(w.Frames == 0 ? 0 : w.TakeId);
            }
        }
    }

    /// <summary>What each device sent and lost during the take, and its clock.</summary>
    private string DeviceLines() =>
        TakeDevice.Write(
            _rack
                .Devices.Select(d =>
                {
                    var (received, lost) = _before.GetValueOrDefault(d.Stream);
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

    [GeneratedRegex("^[A-Za-z0-9][A-Za-z0-9_-]{1,60}$")]
    private static partial Regex Slate();
}
