using System.Numerics;
using System.Runtime.InteropServices;
using Eidolon.Core.Inertial;
using Eidolon.Core.Skeletons;
using Eidolon.Studio.Services;

namespace Eidolon.Studio.Live;

/// <summary>
/// The suit's wearer live. As soon as still, T-pose and A-pose were held, one after the other, the body is known, and every sample moves it;
/// when they are held again it begins anew.
/// </summary>
public sealed class SuitFeed
{
    /// <summary>Samples that are kept to look for the poses in, and every how many of them is looked.</summary>
    private const int Kept = 40 * (int)SuitSensors.Rate,
        Every = (int)SuitSensors.Rate;

    /// <summary>Poses take so many samples at least.</summary>
    private const int Least = 5 * (int)SuitSensors.Rate;

    /// <summary>A suit that says nothing for so long moves nobody, seconds.</summary>
    private const double Fresh = 0.25;

    private readonly IDeviceSource _device;
    private readonly Faults _faults;
    private readonly Lock _lock = new();
    private readonly List<(float[] Row, double Seconds)> _rows = [];
    private LiveSuit? _suit;
    private Skeleton? _wearer;
    private SuitPose? _now;
    private Task? _search;
    private double _clock = double.NaN;
    private int _session;
    private int _since;

    public SuitFeed(IDeviceSource suit, Faults faults)
    {
        (_device, _faults) = (suit, faults);
        _device.Arrived += OnPacket;
    }

    /// <summary>After every sample that moved the body; on the device's own thread.</summary>
    public event Action? Moved;

    /// <summary>The wearer as the last sample has them; null while the poses were not held, or the suit is silent.</summary>
    public SuitPose? Now => Volatile.Read(ref _now) is { } p && StudioClock.Now - p.At < Fresh ? p : null;

    /// <summary>Whether the poses were held and the body is known.</summary>
    public bool Ready
    {
        get
        {
            lock (_lock)
            {
                return _suit is not null;
            }
        }
    }

    /// <summary>Who wears it from now on; null for nobody.</summary>
    public void Wear(Skeleton? body)
    {
        lock (_lock)
        {
            if (body is not null && _suit is not null && body != _wearer)
            {
                _suit = _suit.Wear(body);
            }

            _wearer = body;
            Volatile.Write(ref _now, null);
        }
    }

    /// <summary>What the preparation says of it; null while no suit sends.</summary>
    public Check? Check() =>
        !_device.Meter.Connected ? null
        : Ready ? new("suitlive", "Suit moves its wearer", "good", "live", string.Empty)
        : new(
            "suitlive",
            "Suit moves its wearer",
            "wait",
            "not yet",
            "Stand still, hold the T-pose, then the A-pose: from then on the suit is seen."
        );

    private void OnPacket(DeviceArrival arrival)
    {
        if (arrival.Payload.Length < SuitTake.Stride * sizeof(float))
        {
            return;
        }

        float[] row = [.. MemoryMarshal.Cast<byte, float>(arrival.Payload.Span)[..SuitTake.Stride]];
        bool moved;
        lock (_lock)
        {
            if (arrival.Session != _session)
            {
                Forget();
                _session = arrival.Session;
            }

            var seconds = double.IsNaN(_clock) ? 1 / SuitSensors.Rate : arrival.Packet.Clock - _clock;
            if (!(seconds > 0))
            {
                // A packet that overtook another says nothing new.
                return;
            }

            _clock = arrival.Packet.Clock;
            Keep(row, seconds);
            moved = Step(row, seconds);
            LookForPoses();
        }

        if (moved)
        {
            Moved?.Invoke();
        }
    }

    /// <summary>A suit that was switched on anew is strapped on anew.</summary>
    private void Forget()
    {
        _rows.Clear();
        (_suit, _clock, _since) = (null, double.NaN, 0);
        Volatile.Write(ref _now, null);
    }

    private void Keep(float[] row, double seconds)
    {
        _rows.Add((row, seconds));
        if (_rows.Count > Kept + Every)
        {
            _rows.RemoveRange(0, Every);
        }
    }

    private bool Step(float[] row, double seconds)
    {
        if (_suit is null || _wearer is null)
        {
            return false;
        }

        _suit.Step(row, seconds);
        Volatile.Write(ref _now, new SuitPose(_suit.Root, _suit.Turns.ToArray(), StudioClock.Now));
        return true;
    }

    private void LookForPoses()
    {
        if (++_since < Every || _rows.Count < Least || _wearer is null || _search is { IsCompleted: false })
        {
            return;
        }

        _since = 0;
        var (rows, body, session) = (_rows.ToArray(), _wearer, _session);
        _search = Task.Run(() =>
        {
            try
            {
                Begin(rows, body, session);
            }
            catch (Exception e)
            {
                // The suit is not seen then; the recording has it all the same.
                _faults.Note("the live suit", e);
            }
        });
    }

    private void Begin((float[] Row, double Seconds)[] rows, Skeleton body, int session)
    {
        var take = Take(rows);
        if (LiveSuit.Look(take) is not { } poses)
        {
            return;
        }

        LiveSuit suit;
        try
        {
            suit = LiveSuit.Begin(body, take, poses);
        }
        catch (Core.RefusedException)
        {
            // Arms that were not lowered: it is looked again in a second.
            return;
        }

        lock (_lock)
        {
            if (session != _session || _wearer is null)
            {
                return;
            }

            // Samples that came in meanwhile.
            var at = _rows.FindIndex(r => ReferenceEquals(r.Row, rows[^1].Row));
            for (var k = at + 1; k < _rows.Count; k++)
            {
                suit.Step(_rows[k].Row, _rows[k].Seconds);
            }

            _suit = body == _wearer ? suit : suit.Wear(_wearer);
            // These poses are used: only new ones begin it anew.
            _rows.RemoveRange(0, Math.Max(0, at + 1));
        }
    }

    /// <summary>Lost packets leave whole rows out; a recording has a row for each moment.</summary>
    private static SuitTake Take((float[] Row, double Seconds)[] rows)
    {
        var samples = new List<float>(rows.Length * SuitTake.Stride);
        var lost = new float[SuitTake.Stride];
        Array.Fill(lost, float.NaN);
        foreach (var (row, seconds) in rows)
        {
            for (var k = (int)Math.Min(Every, Math.Round(seconds * SuitSensors.Rate)); k > 1 && samples.Count > 0; k--)
            {
                samples.AddRange(lost);
            }

            samples.AddRange(row);
        }

        return new SuitTake(SuitSensors.Rate, [.. samples]);
    }
}

/// <summary>A wearer at one moment.</summary>
/// <param name="Root">Where the first joint is, metres.</param>
/// <param name="Turns">Local turns of all joints.</param>
/// <param name="At">Studio clock, seconds.</param>
public sealed record SuitPose(Vector3 Root, ReadOnlyMemory<Quaternion> Turns, double At);
