using System.Diagnostics;
using Eidolon.Core.Characters;
using Eidolon.Core.Labelling;
using Eidolon.Core.Quality;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using System.Numerics;
foreach (var who in new[] { "Ines", "Tobi" })
{
    var person = HarbourCast.Find(who);
    var rom = SceneCatalog.Perform("rom", person, 1);
    var w = Stopwatch.StartNew();
    var subject = LabelSubject.Learn(null, MarkerSimulator.Labelled(rom), HarbourMarkers.Set());
    Console.WriteLine($"learn {w.Elapsed.TotalSeconds:0.0}");
    var target = RoleFinder.Assign(new Skeleton(Anthropometry.Body(1.95f, 1.1f).Joints.Select((j, i) => j with { Role = null, Name = "b" + i })), null, "t");
    Console.WriteLine(string.Join(" ", target.Joints.Select(j => j.Name + "=" + j.Role)));
    foreach (var s in new[] { "lamp-walk", "haul-rope", "gangplank-hop" })
    {
        var perf = SceneCatalog.Perform(s, person, 1);
        var lab = MarkerSimulator.Labelled(perf, new MarkerSimulator.Settings(MinimumCameras: 3));
        var dots = DotMaker.Make(lab, 5, out var truth);
        w.Restart();
        var r = TakeLabeller.Label(dots, HarbourMarkers.Set(), [subject]);
        long right = 0, wrong = 0, all = 0, ghost = 0;
        foreach (var p in r.Pieces) { var len = p.End - p.Start + 1; if (truth[p.Column] != null) all += len; if (p.Name != null) { if (truth[p.Column] == p.Name) right += len; else { wrong += len; if (truth[p.Column] == null) ghost += len; } } }
        Console.WriteLine($"{s} label hidden {100.0 * lab.Positions.Count(p => float.IsNaN(p.X)) / lab.Positions.Length:0.0}% pieces {dots.MarkerCount} right {100.0 * right / all:0.00}% wrong {100.0 * wrong / all:0.00}% {dots.FrameCount / w.Elapsed.TotalSeconds / 120:0.0}x doubts {r.Doubts.Count}");
        var q = MotionQuality.Measure(perf.Actors[0].Motion);
        Console.WriteLine($"   truth: slide/frame {q.SlidePerFrame:0.000} worst {q.WorstSlide} pen {q.Penetration:0.0} float {q.Float:0.0} jitter {q.Jitter:0.00} contacts {q.Contacts.Count} clip {q.Clipping.Count} findings {string.Join("; ", q.Findings.Take(5).Select(x => x.Subject + " " + x.Message))}");
        w.Restart();
        var (m, rep) = Retargeter.Retarget(perf.Actors[0].Motion, target);
        Console.WriteLine($"   retarget {m.FrameCount / w.Elapsed.TotalSeconds / 120:0}x scale {rep.Scale:0.000} slide worst {rep.Contacts.Select(c => c.SlideMillimetres).DefaultIfEmpty().Max():0.00} hold {string.Join(" ", rep.HoldErrors)} {string.Join(";", rep.Warnings)}");
        var q2 = MotionQuality.Measure(m);
        Console.WriteLine($"   after: slide/frame {q2.SlidePerFrame:0.000} worst {q2.WorstSlide} pen {q2.Penetration:0.0} float {q2.Float:0.0} jitter {q2.Jitter:0.00} drift {q2.BoneDrift:0.00}");
    }
}
