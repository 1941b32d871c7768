using Eidolon.Core.Cleaning;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Markers;
using Eidolon.Core.Solving;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.StandIns.Truth;

namespace Eidolon.Bench.Truth;

/// <summary>Gaps cut into takes: how far off auto fills them, and each method by itself; strangers, skins, rates; and the lent recording.</summary>
internal static class GapTruth
{
    private static readonly double[] Seconds = [0.1, 0.25, 1, 2];

    public static void Run()
    {
        Console.WriteLine(
            "gaps: RMS in mm of auto, worst gap; by itself the best method; times the best; without expected error; far more than expected"
        );
        Skin[] skins = [Skin.Firm, Skin.Soft, Skin.Loose];
        foreach (var rate in TruthRun.Rates(30, 60, 120, 240))
        {
            var people = Strangers.Some(3, 5).ToArray();
            var performers = people.Select((p, i) => Performer(p, skins[i], rate)).ToArray();
            foreach (var scene in SceneCatalog.Names.Where(s => s is not "rom"))
            {
                var takes = new List<(MarkerTake, MarkerSet, Performer?)>();
                foreach (var (person, i) in people.Select((p, i) => (p, i)))
                {
                    var seen = MarkerSimulator.Labelled(
                        SceneCatalog.Perform(scene, person, 2, rate),
                        new(SpikesPerMinute: 0, Skin: skins[i], Occlusion: i == 1 && scene == "lamp-walk")
                    );
                    takes.Add((seen, HarbourMarkers.Set(), seen.Names[0].Contains(':') ? null : performers[i]));
                }

                Try($"{rate, 4:0} Hz {scene}", takes);
            }
        }

        Recording();
    }

    /// <summary>The same on the lent recording alone.</summary>
    public static void Recording()
    {
        if (Lent.Folder() is { } folder)
        {
            var setPath = Path.Combine(folder, "markers.json");
            var set = MarkerSetJson.Read(File.ReadAllBytes(setPath), setPath);
            var performer = PerformerCalibration.Calibrate("lent", Lent.Markers(folder, "rom.c3d"), set).Performer;
            foreach (var step in new[] { 4, 2, 1 }.Where(s => TruthRun.Only is not { } only || only == 120 / s))
            {
                Try($"{120 / step, 4:0} Hz recording", [(SpikeTruth.Thin(Lent.Markers(folder, "labelled.c3d"), step), set, performer)]);
            }
        }
    }

    private static Performer Performer(Person person, Skin skin, double rate) =>
        PerformerCalibration
            .Calibrate(
                person.Name,
                MarkerSimulator.Labelled(SceneCatalog.Perform("rom", person, 1, rate), new(SpikesPerMinute: 0, Skin: skin)),
                HarbourMarkers.Set()
            )
            .Performer;

    private static void Try(string what, IReadOnlyList<(MarkerTake Truth, MarkerSet Set, Performer? Body)> takes)
    {
        foreach (var kind in Enum.GetValues<GapKind>())
        {
            foreach (var seconds in Seconds)
            {
                var by = new Dictionary<string, GapScore>();
                foreach (var (truth, set, body) in takes)
                {
                    var frames = Math.Max(2, (int)Math.Round(seconds * truth.FrameRate));
                    var (take, holes) = GapScore.Cut(truth, set, kind, frames, kind == GapKind.One ? 16 : 4, 11);
                    var model = body is null
                        ? null
                        : new Lazy<SkeletonCarrier>(() => new SkeletonCarrier([new TakePerformer(0, null, body)], take));
                    foreach (var method in Enum.GetValues<FillMethod>().Where(m => m != FillMethod.Skeleton || model is not null))
                    {
                        var (filled, list) = GapFiller.Fill(
                            take,
                            set,
                            new FillOptions(method, frames, Skeleton: method == FillMethod.Skeleton ? model : null)
                        );
                        Add(by, method.ToString(), GapScore.Of(truth, filled, list, holes));
                    }

                    if (model is not null)
                    {
                        var (filled, list) = GapFiller.Fill(take, set, new FillOptions(FillMethod.Auto, frames, Skeleton: model));
                        Add(by, "Auto+skeleton", GapScore.Of(truth, filled, list, holes));
                    }
                }

                foreach (var auto in new[] { "Auto", "Auto+skeleton" }.Where(by.ContainsKey))
                {
                    var a = by[auto];
                    if (a.Gaps == 0)
                    {
                        continue;
                    }

                    var best = by.Where(b => !b.Key.StartsWith("Auto") && (auto != "Auto" || b.Key != "Skeleton"))
                        .MinBy(b => b.Value.Millimetres);
                    Console.WriteLine(
                        $"  {what, -24} {kind, -5} {seconds, 4:0.00} s {auto, -13} {a.Millimetres, 6:0.0} worst {a.Worst * 1000, 6:0.0}; {best.Key, -11} {best.Value.Millimetres, 6:0.0}, "
                            + $"{a.Millimetres / best.Value.Millimetres, 5:0.00} x; unsaid {a.Unsaid, 3} of {a.Gaps, 3}, under {a.Under, 3}, open {a.Open}"
                            + (
                                auto == "Auto"
                                    ? "   "
                                        + string.Join(
                                            ", ",
                                            by.Where(b => !b.Key.StartsWith("Auto")).Select(b => $"{b.Key[..4]} {b.Value.Millimetres:0.0}")
                                        )
                                    : string.Empty
                            )
                    );
                }
            }
        }
    }

    private static void Add(Dictionary<string, GapScore> by, string key, GapScore score) => by[key] = by.GetValueOrDefault(key) + score;
}
