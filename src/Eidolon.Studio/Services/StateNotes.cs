using System.Collections.Concurrent;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Quality;

namespace Eidolon.Studio.Services;

/// <summary>Findings and measures by state: worked out once, asked for often.</summary>
public sealed class StateNotes
{
    private const int Most = 64;

    /// <summary>Up to so many samples a note is worked out while the page waits: less than half a second.</summary>
    private const int Quick = 1_200_000;

    private readonly ConcurrentDictionary<UInt128, Lazy<StateNote>> _notes = new();
    private readonly ConcurrentQueue<UInt128> _order = new();
    private readonly ConcurrentDictionary<UInt128, IReadOnlyList<Gap>[]> _gaps = new();

    /// <summary>The note of a state, worked out now if it must be.</summary>
    public StateNote Of(UInt128 state, TakeData data, MarkerSet set)
    {
        var lazy = _notes.GetOrAdd(state, _ =>
        {
            _order.Enqueue(state);
            return new Lazy<StateNote>(() => Work(data, Gaps(state, data), set));
        });
        while (_order.Count > Most && _order.TryDequeue(out var oldest))
        {
            _notes.TryRemove(oldest, out _);
        }

        return lazy.Value;
    }

    /// <summary>The gaps of a state's markers: one pass over the frames, kept.</summary>
    public IReadOnlyList<Gap>[] Gaps(UInt128 state, TakeData data)
    {
        if (_gaps.Count > Most)
        {
            _gaps.Clear();
        }

        return _gaps.GetOrAdd(state, _ => GapTable.Of(data.Markers!));
    }

    /// <summary>The note when it is known or quickly made; null for long takes that were not looked at yet.</summary>
    public StateNote? Ready(UInt128 state, TakeData data, MarkerSet set) =>
        (_notes.TryGetValue(state, out var lazy) && lazy.IsValueCreated) || (data.Markers?.Positions.Length ?? 0) < Quick
            ? Of(state, data, set)
            : null;

    private static StateNote Work(TakeData data, IReadOnlyList<Gap>[] gaps, MarkerSet set)
    {
        var take = data.Markers!;
        var named = take.Names.Where(n => !MarkerNames.IsUnnamed(n)).ToArray();
        var labelled = named.Length == take.MarkerCount ? take : take.Only(named);
        Finding[] findings = named.Length == 0 ? [] : [.. MarkerFindings.Find(labelled, set).Where(f => f.Severity != Severity.Note)];
        return new StateNote(
            gaps,
            findings,
            named.Length == 0 ? null : MarkerQuality.Measure(labelled),
            data.Final is { } motion ? MotionQuality.Measure(motion) : null
        );
    }
}
