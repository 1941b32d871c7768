using Eidolon.Core.Formats.Json;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Bench.Truth;

/// <summary>Where the joints of measured performers are: strangers, skins, sets of markers, rates; and of the lent performer.</summary>
internal static class BodyTruth
{
    private static readonly string[] Parts =
    [
        "Thigh",
        "Shin",
        "Foot",
        "Toes",
        "UpperArm",
        "Forearm",
        "Hand",
        "Clavicle",
        "Neck",
        "Head",
        "Pelvis",
    ];

    /// <summary>Joints that every skeleton has in one place; how a spine is divided is a matter of taste.</summary>
    private static readonly string[] Limbs = ["Thigh", "Shin", "Foot", "UpperArm", "Forearm", "Hand"];

    /// <summary>Frame of the lent motion that the first frame of its labelled take is.</summary>
    private const int LentFirst = 2401;

    private static readonly string[] Scenes = ["rom", "gangplank-hop"];

    public static void Run()
    {
        Console.WriteLine("bodies: joint centres off the truth, RMS in mm, in all and by joint (the worse side)");
        (string Name, Skin Skin)[] skins =
        [
            ("firm", Skin.Firm),
            ("soft", Skin.Soft),
            ("swing", Skin.Loose with { Shift = 0 }),
            ("loose", Skin.Loose),
        ];
        foreach (var rate in TruthRun.Rates(60))
        {
            foreach (var person in Strangers.Some(4, 9))
            {
                foreach (var (name, skin) in skins)
                {
                    foreach (var count in new[] { 39, 53, 64 })
                    {
                        Try($"{rate, 4:0} Hz {person.Stature:0.00} m {name, -5} {count}", person, skin, count, rate);
                    }
                }
            }
        }

        Recording();
    }

    /// <summary>The lent performer, measured from their own range-of-motion take, against the motion their markers were put on.</summary>
    public static void Recording()
    {
        if (Lent.Folder() is not { } folder)
        {
            return;
        }

        var path = Path.Combine(folder, "markers.json");
        var performer = PerformerCalibration
            .Calibrate("lent", Lent.Markers(folder, "rom.c3d"), MarkerSetJson.Read(File.ReadAllBytes(path), path))
            .Performer;
        var mine = TakeSolver.Solve(performer, Lent.Markers(folder, "labelled.c3d")).Motion;
        var whole = Lent.Motion(folder);
        var truth = MotionEdits.Range(whole, LentFirst, LentFirst + mine.FrameCount);
        var off = Off(truth, mine);
        var limbs = off.Where(o => Limbs.Contains(o.Key.TrimEnd('L', 'R'))).ToArray();
        Console.WriteLine(
            $"  recording: limbs' joints {Math.Sqrt(limbs.Average(o => o.Value)) * 1000:0.0} mm; "
                + string.Join(", ", off.Select(o => $"{o.Key} {Math.Sqrt(o.Value) * 1000:0.0}"))
        );
    }

    private static void Try(string what, Person person, Skin skin, int count, double rate)
    {
        var rows = count == 53 ? null : OddMarkers.Rows(count, 5);
        var set = count == 53 ? HarbourMarkers.Set() : OddMarkers.Set(count, 5);
        var worn = new MarkerSimulator.Settings(SpikesPerMinute: 0, Skin: skin, Rows: rows, Occlusion: false);
        var rom = MarkerSimulator.Labelled(SceneCatalog.Perform("rom", person, 1, rate), worn);
        var performer = PerformerCalibration.Calibrate("x", rom, set).Performer;
        var sums = new Dictionary<string, (double Sum, int Count)>(StringComparer.Ordinal);
        var lines = new List<string>();
        foreach (var scene in Scenes)
        {
            var truth = SceneCatalog.Perform(scene, person, scene == "rom" ? 1 : 2, rate);
            var take = scene == "rom" ? rom : MarkerSimulator.Labelled(truth, worn);
            var motion = TakeSolver.Solve(performer, take).Motion;
            var off = Off(truth.Actors[0].Motion, motion);
            lines.Add($"{scene} {Math.Sqrt(off.Values.Average()) * 1000:0.0}");
            foreach (var (joint, square) in off)
            {
                sums[joint] = (sums.GetValueOrDefault(joint).Sum + square, sums.GetValueOrDefault(joint).Count + 1);
            }
        }

        var by = Parts.Select(p =>
            (p, Math.Sqrt(sums.Where(s => s.Key.TrimEnd('L', 'R') == p).Max(s => s.Value.Sum / s.Value.Count)) * 1000)
        );
        Console.WriteLine($"  {what}  {string.Join(", ", lines)}; {string.Join(", ", by.Select(b => $"{b.p} {b.Item2:0.0}"))}");
        var bones = new[] { "Shin", "Foot", "Forearm", "Hand" }.Select(b =>
            $"{b} {string.Join('/', "LR".Select(s => (Length(performer.Skeleton, b + s) - Length(person.Skeleton, b + s)).ToString("+0.0;-0.0")))}"
        );
        Console.WriteLine($"      bones longer by {string.Join(", ", bones)}");
    }

    private static double Length(Skeleton skeleton, string joint) =>
        skeleton[skeleton.IndexOf(Enum.Parse<BodyRole>(joint))].Offset.Length() * 1000;

    /// <summary>Mean square by joint, m².</summary>
    private static Dictionary<string, double> Off(Motion truth, Motion mine)
    {
        var (p, q) = (ForwardKinematics.WorldPositions(truth), ForwardKinematics.WorldPositions(mine));
        var frames = Math.Min(truth.FrameCount, mine.FrameCount);
        return truth
            .Skeleton.Joints.Where(j => j.Role is { } role && mine.Skeleton.IndexOf(role) >= 0)
            .ToDictionary(
                j => j.Role!.Value.ToString(),
                j =>
                {
                    var (a, b) = (truth.Skeleton.IndexOf(j.Role!.Value), mine.Skeleton.IndexOf(j.Role!.Value));
                    return Enumerable
                        .Range(0, frames)
                        .Average(f => (double)(p[(f * truth.Skeleton.Count) + a] - q[(f * mine.Skeleton.Count) + b]).LengthSquared());
                }
            );
    }
}
