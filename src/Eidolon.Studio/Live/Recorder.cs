using System.Text.Json;
using System.Text.RegularExpressions;
using Eidolon.StandIns.Devices;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Live.Devices;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Live;

/// <summary>Ready, Pre-roll, Recording, Kept: writes the raw streams of all devices three times a second, in one transaction: a crash costs less than half a second.</summary>
public sealed partial class Recorder : BackgroundService
{
    private const int FlushFrames = 40;

    /// <summary>Frames that wait for the live points of the same moment.</summary>
    private const int Grace = 12;

    private const double FrameRate = 120;
    private readonly DeviceRack _rack;
    private readonly LiveStage _stage;
    private readonly StandInStage _standIns;
    private readonly IServiceScopeFactory _scopes;
    private readonly ILogger<Recorder> _log;
    private readonly Lock _lock = new();
    private readonly System.Threading.Channels.Channel<Write> _writes = System.Threading.Channels.Channel.CreateUnbounded<Write>();
    private RecordingStreams _streams = new(FrameRate);
    private Dictionary<string, (long Received, long Lost)> _before = [];
    private string _state = "Ready";
    private double _since = StudioClock.Now;
    private int _takeId;
    private string _takeName = string.Empty;
    private int _kept;
    private double _rate;
    private TaskCompletionSource<int>? _done;

    public Recorder(
        DeviceRack rack,
        RingAssembler assembler,
        LiveStage stage,
        StandInStage standIns,
        IServiceScopeFactory scopes,
        ILogger<Recorder> log
    )
    {
        (_rack, _stage, _standIns, _scopes, _log) = (rack, stage, standIns, scopes, log);
        assembler.Frame += OnRing;
        stage.Made += OnPoints;
        foreach (var device in rack.Devices.Where(d => d.Kind != DeviceKind.Ring))
        {
            device.Arrived += a => OnDevice(device, a);
        }
    }

    private sealed record Write(int TakeId, List<(string Stream, int First, int Count, byte[] Data)> Parts, bool Last, int Frames);

    /// <summary>Seconds counted in before a recording.</summary>
    public double PreRollSeconds { get; set; } = 3;

    /// <summary>The recorder's own part of the status.</summary>
    public (string State, double Seconds, int Frames, int Kept, int TakeId, string TakeName, double MegabytesPerSecond) Now()
    {
        lock (_lock)
        {
            var seconds = _state == "Pre-roll" ? Math.Max(0, PreRollSeconds - (StudioClock.Now - _since)) : _streams.Frames / FrameRate;
            return (_state, seconds, _streams.Frames, _kept, _takeId, _takeName, _state == "Recording" ? _rate : 0);
        }
    }

    /// <summary>Checks the slate, makes the take's row, counts in.</summary>
    /// <exception cref="ArgumentException">The slate cannot be used, or the stage is not ready; says what to do.</exception>
    public async Task Start(RecordRequest request)
    {
        if (!Slate().IsMatch(request.SetUp))
        {
            throw new ArgumentException(
                $"'{request.SetUp}' cannot be a set-up's name: letters, digits, - and _ only. Try HL_009_lamp-walk."
            );
        }

        if (_stage.Ring is null)
        {
            throw new ArgumentException("the camera ring is not calibrated: wave the wand first");
        }

        if (!_rack.Ring.Meter.Connected)
        {
            throw new ArgumentException($"nothing arrives from the camera ring on {_rack.Ring.Arrives}: start it first");
        }

        var name = $"{request.SetUp}_{request.Number:00}";
        using var scope = _scopes.CreateScope();
        var db = scope.ServiceProvider.GetRequiredService<EidolonDb>();
        if (await db.Takes.AnyAsync(t => t.Name == name))
        {
            throw new ArgumentException($"{name} exists already; count the take number on");
        }

        lock (_lock)
        {
            if (_state is "Pre-roll" or "Recording")
            {
                throw new ArgumentException("a recording is running");
            }

            (_state, _since) = ("Pre-roll", StudioClock.Now);
        }

        var calibration = await db.Calibrations.OrderByDescending(c => c.Id).Select(c => (int?)c.Id).FirstOrDefaultAsync();
        var take = new Take
        {
            ShootDayId = request.DayId,
            Name = name,
            SetUp = request.SetUp,
            Number = request.Number,
            Performer = request.Performer,
            Props = request.Props ?? string.Empty,
            MarkerSet = request.MarkerSet ?? string.Empty,
            Note = request.Note,
            FrameRate = FrameRate,
            State = TakeState.Recording,
            CreatedUtc = DateTime.UtcNow,
            CalibrationId = calibration,
            Channels = string.Join('\n', Enumerable.Range(1, LiveStage.Slots).Select(i => $"Dot_{i:000}")),
        };
        db.Takes.Add(take);
        await db.SaveChangesAsync();
        lock (_lock)
        {
            (_takeId, _takeName, _streams, _kept) = (take.Id, name, new RecordingStreams(FrameRate), 0);
        }

        _ = CountIn(take.Id);
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
                if (_streams.Pending >= FlushFrames + Grace)
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
        var parts = _streams.Take(last ? int.MaxValue : FlushFrames);
        _rate = parts.Sum(p => (long)p.Data.Length) / 0.5 / 1e6;
        _writes.Writer.TryWrite(new Write(_takeId, parts, last, _streams.Written));
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
        await new SampleStore(db).AppendAll(w.TakeId, w.Parts);
        if (w.Last)
        {
            var take = await db.Takes.FirstAsync(t => t.Id == w.TakeId);
            if (w.Frames == 0)
            {
                db.Takes.Remove(take);
            }
            else
            {
                (take.State, take.FrameCount, take.RawHash, take.Devices) = (
                    TakeState.Kept,
                    w.Frames,
                    $"rec-{take.Id}-{w.Frames}",
                    DeviceLines()
                );
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
