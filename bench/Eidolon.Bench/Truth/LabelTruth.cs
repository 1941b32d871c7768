using System.Text.Json.Nodes;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.StandIns.Truth;

namespace Eidolon.Bench.Truth;

/// <summary>Names of nameless fragments with gaps, ghosts and exchanges, counted sample by sample: strangers, skins, rates; and the lent recording.</summary>
internal static class LabelTruth
{
    public static void Run()
    {
        Console.WriteLine("labels: right and wrong of all samples, times real time");
        (string Name, Skin Skin)[] skins = [("firm", Skin.Firm), ("soft", Skin.Soft), ("loose", Skin.Loose)];
        foreach (var rate in TruthRun.Rates(30, 60, 100, 240))
        {
            foreach (var (person, i) in Strangers.Some(3, 5).Select((p, i) => (p, i)))
            {
                var worn = new MarkerSimulator.Settings(Skin: skins[i].Skin);
                var rom = MarkerSimulator.Labelled(SceneCatalog.Perform("rom", person, 1, rate), worn);
                var subject = LabelSubject.Learn(null, rom, HarbourMarkers.Set());
                foreach (var scene in new[] { "lamp-walk", "haul-rope", "gangplank-hop" })
                {
                    var seen = MarkerSimulator.Labelled(SceneCatalog.Perform(scene, person, 3, rate), worn);
                    var dots = DotMaker.Make(seen, 7, out _, swaps: 6);
                    var clock = System.Diagnostics.Stopwatch.StartNew();
                    var result = TakeLabeller.Label(dots, HarbourMarkers.Set(), [subject]);
                    var speed = dots.FrameCount / dots.FrameRate / clock.Elapsed.TotalSeconds;
                    var (right, wrong) = NameScore.Count(seen, result.Take);
                    Console.WriteLine(
                        $"  {rate, 4:0} Hz {person.Stature:0.00} m {skins[i].Name, -5} {scene, -14} {right, 8:P2} right, {wrong, 8:P3} wrong, {speed, 5:0.0} x"
                    );
                    if (wrong > 0.001)
                    {
                        Say(seen, result.Take);
                    }
                }
            }
        }

        if (Lent.Folder() is { } folder)
        {
            foreach (var step in new[] { 4, 2, 1 }.Where(s => TruthRun.Only is not { } only || only == 120 / s))
            {
                Recording(folder, step);
            }
        }
    }

    /// <summary>A set of forty-two, taped elsewhere, under names that say nothing.</summary>
    public static void OtherCrew()
    {
        var person = new Person("Oda", 1.74f, 1.02f, 12);
        var worn = new MarkerSimulator.Settings(Rows: OddMarkers.Rows(42, 12));
        var set = OddMarkers.Set(42, 12);
        var subject = LabelSubject.Learn(null, MarkerSimulator.Labelled(SceneCatalog.Perform("rom", person, 1), worn), set);
        var seen = MarkerSimulator.Labelled(SceneCatalog.Perform("lamp-walk", person, 3), worn);
        var result = TakeLabeller.Label(DotMaker.Make(seen, 12, out _, swaps: 5), set, [subject]);
        var (right, wrong) = NameScore.Count(seen, result.Take);
        Console.WriteLine($"  42 markers of another crew {right, 8:P2} right, {wrong, 8:P3} wrong");
        Say(seen, result.Take);
    }

    /// <summary>Suits whose markers leave their places by 1 to 8 mm, and a child's suit of thirty-nine: one marker on the hand, two on the forearm.</summary>
    public static void Suits()
    {
        Console.WriteLine("suits: markers off their places by so much; names right and wrong");
        foreach (var rate in TruthRun.Rates(30, 60, 120))
        {
            foreach (var millimetres in new[] { 1, 2, 4, 8 })
            {
                var skin = new Skin(Bend: millimetres / 1000f, Wobble: millimetres / 2000f, Tape: millimetres / 1000f);
                Suit(
                    $"{rate, 4:0} Hz {millimetres} mm",
                    new Person("Oda", 1.74f, 1.02f, 12),
                    rate,
                    new MarkerSimulator.Settings(Skin: skin, SoftTissue: millimetres / 1000f),
                    HarbourMarkers.Set()
                );
            }

            foreach (var seed in new[] { 4, 12 })
            {
                Suit(
                    $"{rate, 4:0} Hz 39 markers, {seed}",
                    Strangers.Some(3, seed)[0],
                    rate,
                    new MarkerSimulator.Settings(Rows: OddMarkers.Rows(39, seed)),
                    OddMarkers.Set(39, seed)
                );
            }
        }
    }

    private static void Suit(string what, Person person, double rate, MarkerSimulator.Settings worn, MarkerSet set)
    {
        var subject = LabelSubject.Learn(null, MarkerSimulator.Labelled(SceneCatalog.Perform("rom", person, 1, rate), worn), set);
        foreach (var scene in new[] { "lamp-walk", "haul-rope", "gangplank-hop" })
        {
            var seen = MarkerSimulator.Labelled(SceneCatalog.Perform(scene, person, 3, rate), worn);
            var clock = System.Diagnostics.Stopwatch.StartNew();
            var result = TakeLabeller.Label(DotMaker.Make(seen, 7, out _, swaps: 6), set, [subject]);
            var (right, wrong) = NameScore.Count(seen, result.Take);
            var speed = seen.FrameCount / seen.FrameRate / clock.Elapsed.TotalSeconds;
            Console.WriteLine($"  {what, -22} {scene, -14} {right, 8:P2} right, {wrong, 8:P3} wrong, {speed, 5:0.0} x");
            if (wrong > 0.001)
            {
                Say(seen, result.Take);
            }
        }
    }

    private static void Recording(string folder, int step)
    {
        var setPath = Path.Combine(folder, "markers.json");
        var set = MarkerSetJson.Read(File.ReadAllBytes(setPath), setPath);
        var subject = LabelSubject.Learn(null, SpikeTruth.Thin(Lent.Markers(folder, "rom.c3d"), step), set);
        var take = Lent.Markers(folder, "unlabelled.c3d");
        var truth = (JsonObject)JsonNode.Parse(File.ReadAllText(Path.Combine(folder, "unlabelled.truth.json")))!;
        var seen = new MarkerTake([.. set.Markers.Select(m => m.Name)], take.FrameRate, take.FrameCount);
        foreach (var point in truth["trajectories"]!.AsArray())
        {
            foreach (var range in point!["ranges"]!.AsArray())
            {
                if ((string?)range![2] is { } name)
                {
                    for (var f = (int)range[0]!; f <= (int)range[1]!; f++)
                    {
                        seen[f, seen.IndexOf(name)] = take[f, (int)point["point"]!];
                    }
                }
            }
        }

        var (thinSeen, thin) = (SpikeTruth.Thin(seen, step), SpikeTruth.Thin(take, step));
        var result = TakeLabeller.Label(thin, set, [subject]);
        var (right, wrong) = NameScore.Count(thinSeen, result.Take);
        Console.WriteLine($"  {120 / step, 4:0} Hz recording {right, 8:P2} right, {wrong, 8:P3} wrong");
        Say(thinSeen, result.Take);
    }

    /// <summary>Which names stand where another belongs, most samples first.</summary>
    private static void Say(MarkerTake seen, MarkerTake labelled)
    {
        var wrong = new Dictionary<(string Truth, string Given), (int Count, int First, int Last)>();
        for (var f = 0; f < seen.FrameCount; f++)
        {
            var at = new Dictionary<System.Numerics.Vector3, string>();
            for (var m = 0; m < seen.MarkerCount; m++)
            {
                if (MarkerTake.Seen(seen[f, m]))
                {
                    at[seen[f, m]] = seen.Names[m];
                }
            }

            for (var m = 0; m < seen.MarkerCount; m++)
            {
                var given = labelled[f, labelled.IndexOf(seen.Names[m])];
                if (MarkerTake.Seen(given) && given != seen[f, m])
                {
                    var key = (at.GetValueOrDefault(given, "ghost"), seen.Names[m]);
                    var (n, first, _) = wrong.GetValueOrDefault(key, (0, f, f));
                    wrong[key] = (n + 1, first, f);
                }
            }
        }

        for (var m = 0; m < seen.MarkerCount; m++)
        {
            var column = labelled.IndexOf(seen.Names[m]);
            var lacks = Enumerable
                .Range(0, seen.FrameCount)
                .Where(f => MarkerTake.Seen(seen[f, m]) && !MarkerTake.Seen(labelled[f, column]))
                .ToArray();
            if (lacks.Length > 50)
            {
                Console.WriteLine(
                    $"      {seen.Names[m]} has no name: {lacks.Length} samples, {lacks[0]} to {lacks[^1]} of {seen.FrameCount}"
                );
            }
        }

        foreach (var (key, w) in wrong.OrderByDescending(w => w.Value.Count).Take(12))
        {
            Console.WriteLine($"      {key.Truth} is called {key.Given}: {w.Count} samples, {w.First} to {w.Last} of {seen.FrameCount}");
        }
    }
}
