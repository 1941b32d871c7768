using System.Collections.Concurrent;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests;

/// <summary>Scenes performed, and seen by the ring, once a run of the tests: most tests look at the same few.</summary>
internal static class Acts
{
    private static readonly ConcurrentDictionary<object, Lazy<(Performance Act, UInt128[] Content)>> Performed = new();
    private static readonly ConcurrentDictionary<object, Lazy<MarkerTake>> Seen = new();

    /// <summary>As <see cref="SceneCatalog.Perform"/>; what comes is shared and not to be changed.</summary>
    public static Performance Perform(string scene, Person person, int take, double rate = 120)
    {
        var key = (scene, person.Name, person.Stature, person.ArmScale, person.Seed, person.Spread, take, rate);
        var (act, content) = Performed
            .GetOrAdd(key, _ => new(() =>
                {
                    var made = SceneCatalog.Perform(scene, person, take, rate);
                    return (made, Content(made));
                }))
            .Value;
        Assert.True(content.SequenceEqual(Content(act)), $"{scene} was changed by a test: it is to change a copy");
        return act;
    }

    /// <summary>As <see cref="MarkerSimulator.Labelled"/>: a copy of the markers' own.</summary>
    public static MarkerTake Labelled(Performance performance, MarkerSimulator.Settings? settings = null) =>
        Seen.GetOrAdd((performance, settings), _ => new(() => MarkerSimulator.Labelled(performance, settings))).Value.Copy();

    private static UInt128[] Content(Performance act) => [.. act.Actors.Select(a => ContentHash.Of(new MotionValue(a.Motion)))];
}
