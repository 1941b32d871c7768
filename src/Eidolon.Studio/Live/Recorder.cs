using System.Numerics;
using System.Runtime.InteropServices;
using System.Text.RegularExpressions;
using Eidolon.StandIns.Devices;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Microsoft.AspNetCore.SignalR;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Live;

/// <summary>Ready, Pre-roll, Recording, Kept: writes raw frames every half second in a transaction of their own, and pushes the live view.</summary>
public sealed partial class Recorder : BackgroundService
{
    private const int FlushFrames = 60;
    private const double PreRollSeconds = 3;
    private readonly RingReceiver _ring;
    private readonly RingService _standIn;
    private readonly IServiceScopeFactory _scopes;
    private readonly IHubContext<LiveHub> _hub;
    private readonly ILogger<Recorder> _log;
    private readonly Lock _lock = new();
    private readonly List<Vector3> _pending = [];
    private readonly System.Threading.Channels.Channel<(int TakeId, int First, byte[] Data, int Frames, bool Last)> _writes = System.Threading.Channels.Channel.CreateUnbounded<(int, int, byte[], int, bool)>();
    private Vector3[] _latest = [];
    private string _state = "Ready";
    private long _stateSince = Environment.TickCount64;
    private int _takeId;
    private string _takeName = string.Empty;
    private int _frames;
    private long _arrived;
    private TaskCompletionSource<int>? _kept;

    public Recorder(RingReceiver ring, RingService standIn, IServiceScopeFactory scopes, IHubContext<LiveHub> hub, ILogger<Recorder> log)
    {
        (_ring, _standIn, _scopes, _hub, _log) = (ring, standIn, scopes, hub, log);
        ring.Frame += OnFrame;
    }

    public RecorderStatus Status()
    {
        lock (_lock)
        {
            var seen = _latest.Count(p => !float.IsNaN(p.X));
            var since = (Environment.TickCount64 - _stateSince) / 1000.0;
            var seconds = _state == "Pre-roll" ? Math.Max(0, PreRollSeconds - since) : _frames / 120.0;
            return new RecorderStatus(_state, seconds, _frames, seen, _ring.Connected ? _ring.Rate : 0, _ring.Dropped, _ring.Bad, Math.Min(999, Environment.TickCount64 - _arrived), _takeId, _takeName, _state == "Recording" ? RingPacket.Slots * 12 * _ring.Rate / 1e6 : 0);
        }
    }

    public void Perform(string scene, string performer) => _standIn.Perform(scene, performer, 1);

    /// <summary>Checks the slate, makes the take's row, counts in.</summary>
    public async Task Start(RecordRequest request)
    {
        if (!Slate().IsMatch(request.SetUp))
        {
            throw new ArgumentException($"'{request.SetUp}' cannot be a set-up's name: letters, digits, - and _ only. Try HL_009_lamp-walk.");
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

            (_state, _stateSince) = ("Pre-roll", Environment.TickCount64);
        }

        var take = new Take
        {
            ShootDayId = request.DayId, Name = name, SetUp = request.SetUp, Number = request.Number, Performer = request.Performer, Note = request.Note, FrameRate = 120, State = TakeState.Recording, CreatedUtc = DateTime.UtcNow,
            Channels = string.Join('\n', Enumerable.Range(1, RingPacket.Slots).Select(i => $"Dot_{i:000}")),
        };
        db.Takes.Add(take);
        await db.SaveChangesAsync();
        lock (_lock)
        {
            (_takeId, _takeName, _frames) = (take.Id, name, 0);
            _pending.Clear();
        }

        _ = CountIn();
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

            (_state, _stateSince) = ("Kept", Environment.TickCount64);
            _kept = new TaskCompletionSource<int>(TaskCreationOptions.RunContinuationsAsynchronously);
            kept = _kept.Task;
            Flush(last: true);
        }

        return await kept;
    }

    private async Task CountIn()
    {
        await Task.Delay(TimeSpan.FromSeconds(PreRollSeconds));
        lock (_lock)
        {
            if (_state == "Pre-roll")
            {
                _standIn.Sender.Restart();
                (_state, _stateSince) = ("Recording", Environment.TickCount64);
            }
        }
    }

    private void OnFrame(Vector3[] slots, int lost)
    {
        lock (_lock)
        {
            _latest = slots;
            _arrived = Environment.TickCount64;
            if (_state != "Recording")
            {
                return;
            }

            // Lost frames are kept as frames in which nothing was seen, so that time stays true.
            for (var i = 0; i < lost; i++)
            {
                _pending.AddRange(Enumerable.Repeat(new Vector3(float.NaN), slots.Length));
                _frames++;
            }

            _pending.AddRange(slots);
            _frames++;
            if (_pending.Count >= FlushFrames * RingPacket.Slots)
            {
                Flush(last: false);
            }
        }
    }

    private void Flush(bool last)
    {
        var data = MemoryMarshal.AsBytes(CollectionsMarshal.AsSpan(_pending)).ToArray();
        var frames = _pending.Count / RingPacket.Slots;
        _writes.Writer.TryWrite((_takeId, _frames - frames, data, frames, last));
        _pending.Clear();
    }

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        var push = Push(stoppingToken);
        try
        {
            await foreach (var w in _writes.Reader.ReadAllAsync(stoppingToken))
            {
                await Write(w);
            }
        }
        catch (OperationCanceledException)
        {
            _log.LogInformation("The recorder stops");
        }

        await push;
    }

    private async Task Write((int TakeId, int First, byte[] Data, int Frames, bool Last) w)
    {
        using var scope = _scopes.CreateScope();
        var db = scope.ServiceProvider.GetRequiredService<EidolonDb>();
        if (w.Frames > 0)
        {
            await new SampleStore(db).Append(w.TakeId, SampleStore.RawMarkers, w.First, w.Frames, w.Data);
        }

        if (!w.Last)
        {
            return;
        }

        var take = await db.Takes.FirstAsync(t => t.Id == w.TakeId);
        var frames = w.First + w.Frames;
        if (frames == 0)
        {
            db.Takes.Remove(take);
        }
        else
        {
            (take.State, take.FrameCount, take.RawHash) = (TakeState.Kept, frames, $"rec-{take.Id}-{frames}-{SampleStore.Hash(w.Data):x}");
        }

        await db.SaveChangesAsync();
        lock (_lock)
        {
            _kept?.TrySetResult(frames == 0 ? 0 : w.TakeId);
            _state = frames == 0 ? "Ready" : "Kept";
        }
    }

    /// <summary>Sixty times a second the newest frame goes to every open Record page.</summary>
    private async Task Push(CancellationToken cancel)
    {
        using var timer = new PeriodicTimer(TimeSpan.FromMilliseconds(1000.0 / 60));
        var tick = 0;
        try
        {
            while (await timer.WaitForNextTickAsync(cancel))
            {
                Vector3[] latest;
                lock (_lock)
                {
                    latest = _latest;
                }

                if (latest.Length > 0)
                {
                    await _hub.Clients.All.SendAsync("frame", MemoryMarshal.AsBytes<Vector3>(latest).ToArray(), cancel);
                }

                if (tick++ % 12 == 0)
                {
                    await _hub.Clients.All.SendAsync("status", Status(), cancel);
                }
            }
        }
        catch (OperationCanceledException)
        {
            _log.LogDebug("Live push ends");
        }
    }

    [GeneratedRegex("^[A-Za-z0-9][A-Za-z0-9_-]{1,60}$")]
    private static partial Regex Slate();
}
