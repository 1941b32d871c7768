using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Solving;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Bench;

/// <summary>Labels of takes that are hard in different ways: two who carry, two who creep, eighty markers.</summary>
internal static class LabelLoad
{
    public static void Run()
    {
        var usual = new MarkerSimulator.Settings(MinimumCameras: 3);
        Measure("label, two who carry a crate", "crate-carry", HarbourMarkers.Set(), usual, HarbourCast.Ines, HarbourCast.Tobi);
        Measure("label, two who creep", "deck-crouch", HarbourMarkers.Set(), usual, HarbourCast.Ines, HarbourCast.Tobi);
        Measure("label, 80 markers", "haul-rope", OddMarkers.Set(80, 5), usual with { Rows = OddMarkers.Rows(80, 5) }, HarbourCast.Ines);
    }

    private static void Measure(string what, string scene, MarkerSet set, MarkerSimulator.Settings settings, params Person[] people)
    {
        LabelSubject[] subjects =
        [
            .. people.Select(p =>
            {
                var rom = MarkerSimulator.Labelled(SceneCatalog.Perform("rom", p, 3), settings);
                return LabelSubject.From(
                    people.Length > 1 ? p.Name : null,
                    PerformerCalibration.Calibrate(p.Name, rom, set).Performer,
                    rom
                );
            }),
        ];
        var dots = DotMaker.Make(MarkerSimulator.Labelled(SceneCatalog.Perform(scene, people[0], 2), settings), 2, out _, 6);
        Bench.Measure.Frames(what, dots.FrameCount, 120, () => TakeLabeller.Label(dots, set, subjects), 3);
    }
}
