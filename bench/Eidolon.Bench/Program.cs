using System.Diagnostics;
using Eidolon.Bench;

var p = ReferenceProblem.Load(ReferenceProblem.Folder()!);
for (var i = 0; i < 4; i++)
{
    var w = Stopwatch.StartNew();
    var r = p.Solve();
    Console.WriteLine($"{r} {p.Frames / w.Elapsed.TotalSeconds:0} frames/s");
}
