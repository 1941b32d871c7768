using System.Diagnostics;
using Eidolon.Core.Solving;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
foreach (var who in new[]{"Tobi","Ines","Tobi"}) {
var person = HarbourCast.Find(who);
var rom = MarkerSimulator.Labelled(SceneCatalog.Perform("rom", person, 1));
var w = Stopwatch.StartNew();
var last = 0.0;
var (p, rep) = PerformerCalibration.Calibrate(who, rom, HarbourMarkers.Set(), default, new P(v => { Console.Write($"{v:0.00}@{w.Elapsed.TotalSeconds:0.0} "); last = v; }));
Console.WriteLine($"\n{who} {w.Elapsed.TotalSeconds:0.0}");
}
sealed class P(Action<double> a) : IProgress<double> { public void Report(double v) => a(v); }
