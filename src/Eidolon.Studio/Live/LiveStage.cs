using System.Collections.Concurrent;
using System.Numerics;
using Eidolon.Core;
using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Optical;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.Studio.Live.Devices;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.SignalR;

namespace Eidolon.Studio.Live;

/// <summary>
/// The live view: every frame of the ring becomes points, the points get names, bodies and props are followed, and every second
/// frame goes to the open pages. When the work falls behind, frames are left out here; the recording has them all the same.
/// </summary>
public sealed class LiveStage : BackgroundService
{
    /// <summary>Points at a time.</summary>
    public const int Slots = 192;

    /// <summary>A ring that says nothing for so long is silent, seconds.</summary>
    private const double RingSilent = 0.25;

    private const int SearchEvery = 45;
    private readonly BlockingCollection<RingFrame> _frames = new(64);
    private readonly IHubContext<LiveHub> _hub;
    private readonly ILogger<LiveStage> _log;
    private readonly LiveCast _cast;
    private readonly LiveAudience _audience;
    private readonly Faults _faults;
    private readonly SuitFeed _suit;
    private readonly Lock _lock = new();
    private CameraRing? _ring;
    private FrameReconstructor? _reconstructor;
    private SlotTable _slots = new(60, Slots);
    private List<LiveBody> _bodies = [];
    private List<LiveFigure> _figures = [];
    private List<RigidBodyTracker> _props = [];
    private List<LiveCharacter> _characters = [];
    private Dictionary<int, int> _plays = [];
    private int[] _propIds = [];
    private Task<List<(LiveBody Body, LiveFind Find)>>? _search;
    private int _sinceSearch;
    private int _frame;
    private int _suitSteps;
    private double _ringAt = double.NegativeInfinity;
    private LiveFrame? _latest;
    private LiveView _view = LiveView.Empty;

    public LiveStage(
        RingAssembler assembler,
        LiveCast cast,
        LiveAudience audience,
        SuitFeed suit,
        IHubContext<LiveHub> hub,
        Faults faults,
        ILogger<LiveStage> log
    )
    {
        (_cast, _audience, _suit, _hub, _faults, _log) = (cast, audience, suit, hub, faults, log);
        assembler.Frame += Queue;
        suit.Moved += ShowSuit;
    }

    /// <summary>Every frame that was worked on, in order.</summary>
    public event Action<LiveFrame>? Made;

    public LiveLoad Load { get; } = new();

    /// <summary>What each camera saw last, pixels; null where nothing arrived.</summary>
    public (float[] U, float[] V)?[] Pictures { get; private set; } = [];

    public LiveFrame? Latest => Volatile.Read(ref _latest);

    /// <summary>Who is seen and what is hidden, for the page.</summary>
    public LiveView View => Volatile.Read(ref _view);

    /// <summary>Time constant of the figures' smoothing; it is also how much later they are, milliseconds.</summary>
    public double SmoothingMilliseconds { get; set; }

    /// <summary>Where the first performer's hips are; null while nobody is found.</summary>
    public Vector3? Hips
    {
        get
        {
            lock (_lock)
            {
                return _bodies.Find(b => b.Found) is { } body ? body.Shown.Root : null;
            }
        }
    }

    public CameraRing? Ring => Volatile.Read(ref _ring);

    /// <summary>Ids of the performers that are followed.</summary>
    public IReadOnlyList<int> Performers { get; private set; } = [];

    public BodyPart Part { get; private set; }

    /// <summary>Characters that are driven, in the order of the figures: whose they are and who they are.</summary>
    public IReadOnlyList<(int Performer, int Character, Skeleton Rig)> Played { get; private set; } = [];

    /// <summary>A performer drives a character from now on; 0 for nobody.</summary>
    /// <exception cref="RefusedException">The character cannot be driven; says why.</exception>
    public void Play(int performer, int character)
    {
        if (character != 0 && _cast.Rig(character) is null)
        {
            throw new RefusedException("this character is gone from the library, or has no file");
        }

        lock (_lock)
        {
            _plays = new Dictionary<int, int>(_plays);
            _plays.Remove(performer);
            if (character != 0)
            {
                _plays[performer] = character;
            }
        }

        Track(Performers, Part);
    }

    /// <summary>Works with these cameras from the next frame on.</summary>
    public void Use(CameraRing? ring)
    {
        lock (_lock)
        {
            _ring = ring;
            _reconstructor = ring is null ? null : new FrameReconstructor(ring);
            _slots = new SlotTable(60, Slots);
        }
    }

    /// <summary>Follows these performers and all props of the production.</summary>
    public void Track(IReadOnlyList<int> performers, BodyPart part)
    {
        var found = performers.Select(p => (Performer: p, Body: _cast.Body(p, part))).Where(b => b.Body is not null).ToList();
        // There is one suit: who is named first wears it.
        var figures = found.Select((b, i) => new LiveFigure(b.Body!, i == 0 ? () => _suit.Now : null)).ToList();
        // A character that is gone from the library meanwhile is driven by nobody; the performers are followed all the same.
        var characters = new List<LiveCharacter>();
        var played = new List<(int Performer, int Character, Skeleton Rig)>();
        foreach (var ((performer, _), figure) in found.Zip(figures))
        {
            if (_plays.TryGetValue(performer, out var character) && _cast.Rig(character) is { } rig)
            {
                characters.Add(new LiveCharacter(figure, new LiveRetarget(figure.Skeleton, rig)));
                played.Add((performer, character, rig));
            }
        }

        var known = _cast.Props();
        var props = known.Select(p => new RigidBodyTracker(p.Body)).ToList();
        lock (_lock)
        {
            (_figures, _bodies) = (figures, figures.ConvertAll(f => f.Ring));
            (_props, _search, Performers, Part) = (props, null, performers, part);
            (_characters, Played) = (characters, played);
            _propIds = [.. known.Select(p => p.Id)];
            _sinceSearch = SearchEvery;
        }

        _suit.Wear(figures.Count > 0 ? figures[0].Skeleton : null);
    }

    /// <remarks>A thread of its own: frames must not wait for a free thread of the pool.</remarks>
    protected override Task ExecuteAsync(CancellationToken stoppingToken) =>
        Task.Factory.StartNew(() => Run(stoppingToken), CancellationToken.None, TaskCreationOptions.LongRunning, TaskScheduler.Default);

    private void Queue(RingFrame frame)
    {
        while (!_frames.TryAdd(frame))
        {
            // Behind: the oldest frame is not worth showing any more.
            if (_frames.TryTake(out _))
            {
                Load.NoteBehind();
            }
        }
    }

    private void Run(CancellationToken stop)
    {
        try
        {
            foreach (var frame in _frames.GetConsumingEnumerable(stop))
            {
                try
                {
                    Show(frame, stop);
                }
                catch (Exception e) when (!stop.IsCancellationRequested)
                {
                    // This frame is not shown; the recording has it all the same.
                    _faults.Note("the live view", e);
                }
            }
        }
        catch (OperationCanceledException)
        {
            _log.LogInformation("The live stage ends");
        }
    }

    private void Show(RingFrame frame, CancellationToken stop)
    {
        Pictures = frame.Pictures;
        Volatile.Write(ref _ringAt, frame.At);
        var (live, push) = Work(frame);
        if (live is null)
        {
            return;
        }

        Volatile.Write(ref _latest, live);
        Made?.Invoke(live);
        if (push is null)
        {
            Load.Note(StudioClock.Now - frame.At);
            return;
        }

        Send(push, frame.At, stop);
    }

    /// <summary>Where no camera sends, the suit alone gives the beat: every second sample is shown.</summary>
    private void ShowSuit()
    {
        var now = StudioClock.Now;
        if (now - Volatile.Read(ref _ringAt) < RingSilent || ++_suitSteps % 2 != 0)
        {
            return;
        }

        LivePacket push;
        lock (_lock)
        {
            var slots = new Vector3[Slots];
            Array.Fill(slots, new Vector3(float.NaN));
            push = LivePacket.Of(slots, [], [], _figures, _props, _characters, SmoothingMilliseconds, now, silent: true);
            if (_suitSteps % 20 == 0)
            {
                Volatile.Write(ref _view, _view.With(_figures, _characters));
            }
        }

        Send(push, now, CancellationToken.None);
    }

    private void Send(LivePacket push, double at, CancellationToken stop) =>
        _hub
            .Clients.Clients(_audience.Next())
            .SendAsync("frame", push.Points, push.Marks, push.Figures, push.Props, stop)
            .ContinueWith(_ => Load.Note(StudioClock.Now - at), stop, TaskContinuationOptions.ExecuteSynchronously, TaskScheduler.Default);

    private (LiveFrame?, LivePacket?) Work(RingFrame frame)
    {
        lock (_lock)
        {
            if (_reconstructor is null)
            {
                return (null, null);
            }

            for (var c = 0; c < _ring!.Count; c++)
            {
                var picture = c < frame.Pictures.Length ? frame.Pictures[c] : null;
                _reconstructor.Load(c, picture?.U ?? [], picture?.V ?? []);
            }

            _reconstructor.Step();
            _frame++;
            var seen = _reconstructor.Points.Where(p => p.Age >= 3).ToArray();
            List<int> ids = [.. seen.Select(p => p.Id)];
            List<Vector3> places = [.. seen.Select(p => p.Position)];
            Follow(ids, places);
            var slots = new Vector3[Slots];
            Array.Fill(slots, new Vector3(float.NaN));
            var slotOf = new Dictionary<int, int>(seen.Length);
            foreach (var p in seen)
            {
                var slot = _slots.SlotOf(p.Id, _frame);
                if (slot >= 0)
                {
                    (slots[slot], slotOf[p.Id]) = (p.Position, slot);
                }
            }

            var live = new LiveFrame(frame.Number, frame.Clock, frame.At, slots, [.. _props.Select((p, i) => (_propIds[i], p.Pose))]);
            if (_frame % 24 == 0)
            {
                Volatile.Write(ref _view, LiveView.Of(_figures, _props, _characters, seen.Length, _reconstructor.Health, _ring));
            }

            return (
                live,
                _frame % 2 == 0
                    ? LivePacket.Of(slots, seen, slotOf, _figures, _props, _characters, SmoothingMilliseconds, frame.Clock)
                    : null
            );
        }
    }

    private void Follow(List<int> ids, List<Vector3> places)
    {
        var owned = new HashSet<int>(_bodies.Where(b => b.Found).SelectMany(b => b.Held.Keys));
        foreach (var prop in _props)
        {
            var mine = prop.Ids.Where(id => id >= 0).ToHashSet();
            prop.Step(places, ids, i => !owned.Contains(ids[i]) || mine.Contains(ids[i]));
            owned.UnionWith(prop.Ids.Where(id => id >= 0));
        }

        foreach (var body in _bodies)
        {
            var own = body.Held;
            var open = Enumerable.Range(0, ids.Count).Where(i => own.ContainsKey(ids[i]) || !owned.Contains(ids[i])).ToArray();
            body.Step(Array.ConvertAll(open, i => ids[i]), Array.ConvertAll(open, i => places[i]));
            owned.UnionWith(body.Held.Keys);
        }

        Search(ids, places, owned);
    }

    /// <summary>Bodies that are not found are looked for beside the frames, at most one search at a time.</summary>
    private void Search(List<int> ids, List<Vector3> places, HashSet<int> owned)
    {
        if (_search is { IsCompleted: true } done)
        {
            if (done.Exception is { } fault)
            {
                _log.LogError(fault, "The search for performers failed");
            }

            foreach (var (body, find) in done.IsCompletedSuccessfully ? done.Result : [])
            {
                if (_bodies.Contains(body) && !body.Found)
                {
                    body.Begin(find);
                }
            }

            _search = null;
        }

        if (_search is not null || ++_sinceSearch < SearchEvery || _bodies.All(b => b.Found))
        {
            return;
        }

        _sinceSearch = 0;
        var missing = _bodies.Where(b => !b.Found).ToList();
        var open = Enumerable.Range(0, ids.Count).Where(i => !owned.Contains(ids[i])).ToArray();
        int[] freeIds = [.. open.Select(i => ids[i])];
        Vector3[] freePlaces = [.. open.Select(i => places[i])];
        _search = Task.Factory.StartNew(
            () => FindAll(missing, freeIds, freePlaces),
            CancellationToken.None,
            TaskCreationOptions.LongRunning,
            TaskScheduler.Default
        );
    }

    /// <summary>The best fit is believed first; the others look among what it leaves.</summary>
    private static List<(LiveBody, LiveFind)> FindAll(List<LiveBody> missing, int[] ids, Vector3[] places)
    {
        var found = new List<(LiveBody, LiveFind)>();
        while (missing.Count > 0)
        {
            var best = missing
                .Select(b => (Body: b, Find: b.Find(ids, places)))
                .Where(x => x.Find is not null)
                .OrderByDescending(x => x.Find!.Fit)
                .FirstOrDefault();
            if (best.Find is null)
            {
                break;
            }

            found.Add((best.Body, best.Find));
            missing = [.. missing.Where(b => b != best.Body)];
            var taken = best.Find.Matches.Select(m => m.Id).ToHashSet();
            var left = Enumerable.Range(0, ids.Length).Where(i => !taken.Contains(ids[i])).ToArray();
            (ids, places) = (Array.ConvertAll(left, i => ids[i]), Array.ConvertAll(left, i => places[i]));
        }

        return found;
    }
}
