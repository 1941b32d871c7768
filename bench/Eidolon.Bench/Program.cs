using System.Diagnostics;
using System.Numerics;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

foreach (var (who, scenes) in new[] { ("Ines", new[] { "rom", "lamp-walk", "gangplank-hop" }), ("Tobi", new[] { "rom", "haul-rope", "gangplank-hop" }) })
{
    var person = HarbourCast.Find(who);
    var w = Stopwatch.StartNew();
    var rom = SceneCatalog.Perform("rom", person, 1);
    var t1 = w.Elapsed;
    var romTake = MarkerSimulator.Labelled(rom);
    Console.WriteLine($"rom {rom.FrameCount} frames perform {t1.TotalSeconds:0.0}s see {(w.Elapsed - t1).TotalSeconds:0.0}s hidden {100.0 * romTake.Positions.Count(p => float.IsNaN(p.X)) / romTake.Positions.Length:0.0}%");
    w.Restart();
    var (performer, rep) = PerformerCalibration.Calibrate(who, romTake, HarbourMarkers.Set());
    Console.WriteLine($"calibrate {w.Elapsed.TotalSeconds:0.0}s T {rep.TakeFrame} rms {rep.ResidualRms * 1000:0.00} mm {string.Join(";", rep.Warnings)}");
    foreach (var j in performer.Skeleton.Joints.Skip(1)) Console.Write($"{j.Name} {j.Offset.Length() * 1000:0}/{person.Skeleton[person.Skeleton.IndexOf(j.Role!.Value)].Offset.Length() * 1000:0} ");
    Console.WriteLine();
    foreach (var s in scenes)
    {
        var perf = SceneCatalog.Perform(s, person, 1);
        var take = MarkerSimulator.Labelled(perf);
        w.Restart();
        var (motion, report) = TakeSolver.Solve(performer, take);
        var truth = ForwardKinematics.WorldPositions(perf.Actors[0].Motion);
        var mine = ForwardKinematics.WorldPositions(motion);
        int n = motion.Skeleton.Count;
        Console.WriteLine($"{s}: {perf.FrameCount} fr hidden {100.0 * take.Positions.Count(p => float.IsNaN(p.X)) / take.Positions.Length:0.0}% residual {report.Mean:0.00} p95 {report.P95:0.0} max {report.Max:0.0} {report.FramesPerSecond:0} fps");
        double all = 0; var line = "";
        for (var j = 0; j < n; j++)
        {
            double sum = 0;
            for (var f = 0; f < perf.FrameCount; f++) sum += (truth[f * n + j] - mine[f * n + j]).LengthSquared();
            all += sum; line += $"{motion.Skeleton[j].Name} {Math.Sqrt(sum / perf.FrameCount) * 1000:0.0} ";
        }
        Console.WriteLine($"   joint rms {Math.Sqrt(all / n / perf.FrameCount) * 1000:0.00} mm: {line}");
    }
}
