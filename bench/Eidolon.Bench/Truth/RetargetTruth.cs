using System.Diagnostics;
using System.Numerics;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Geometry;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Characters;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Bench.Truth;

/// <summary>What a retarget keeps: planted feet, the floor, holds, and no joint faster than the performer's; scenes of several people onto several rigs.</summary>
internal static class RetargetTruth
{
    private static readonly string[] Scenes =
    [
        "rom",
        "lamp-walk",
        "haul-rope",
        "crate-carry",
        "deck-crouch",
        "gangplank-hop",
        "signal-wave",
        "suit-patrol",
        "cam-mend-net",
    ];

    public static void Run()
    {
        Header();
        var rigs = Rigs();
        foreach (var person in Strangers.Some(2, 23).Append(HarbourCast.Ines).Append(HarbourCast.Tobi))
        {
            foreach (var rate in TruthRun.Rates(120))
            {
                foreach (var scene in Scenes)
                {
                    var motion = SceneCatalog.Perform(scene, person, 1, rate).Actors[0].Motion;
                    One($"{scene} {person.Stature:0.00} m {rate:0} Hz", motion, rigs);
                }
            }
        }
    }

    /// <summary>Two who carry a crate, played by characters of other sizes: how far their hands are from where the crate was held.</summary>
    public static void Carriers()
    {
        Console.WriteLine(
            "carriers: worst distance of four hands from where the crate was held (mm), both held all through; fastest turn against the performer's"
        );
        var rigs = Rigs();
        foreach (var take in new[] { 1, 2, 5 })
        {
            var actors = SceneCatalog.Perform("crate-carry", HarbourCast.Ines, take, 120).Actors;
            foreach (var (name, rig) in rigs)
            {
                var held = new RetargetSetup { ScaleTravel = false }
                    .With(BodyRole.HandL, 1)
                    .With(BodyRole.HandR, 1);
                var reports = actors.Select(a => Retargeter.Retarget(a.Motion, rig, held).Report).ToArray();
                Console.WriteLine(
                    $"take {take} {name, -15} {string.Join("   ", reports.Select(r => $"{r.HoldErrors[BodyRole.HandL]:0.0} {r.HoldErrors[BodyRole.HandR]:0.0}, turn {r.Fastest.Ratio:0.00} {r.Fastest.Role} {r.Fastest.Frame}"))}"
                );
            }
        }
    }

    public static void Recording()
    {
        if (Lent.Folder() is not { } folder)
        {
            return;
        }

        Header();
        One("recording", Lent.Motion(folder), Rigs());
    }

    private static void Header() =>
        Console.WriteLine(
            "retarget: worst of all rigs, natural and held by both hands at the performer's own places: slide of a contact (mm), planted joints off their height (mm, the performer's own in brackets), "
                + "fastest joint against the performer's (travel, turn), hands off where the arm reaches (mm), short (mm), × real time"
        );

    private static Dictionary<string, Skeleton> Rigs()
    {
        var rigs = new Dictionary<string, Skeleton>();
        foreach (var name in HarbourCharacters.All)
        {
            var skeleton = GltfReader.GltfBindingOf(GltfReader.Open(HarbourCharacters.Build(name), name + ".glb"), name).Skeleton;
            rigs[name] = Sized(RoleFinder.Assign(skeleton, null, name));
        }

        foreach (var person in Strangers.Some(2, 71))
        {
            rigs[$"{person.Stature:0.00} m"] = SceneCatalog.Perform("signal-wave", person, 1, 60).Actors[0].Motion.Skeleton;
        }

        return rigs;
    }

    /// <summary>A rig in another unit than metres brought to the size of a person.</summary>
    private static Skeleton Sized(Skeleton s)
    {
        var height = s.RestPositions.Max(p => p.Y) - s.RestPositions.Min(p => p.Y);
        return height < 3 ? s : new Skeleton(s.Joints.Select(j => j with { Offset = j.Offset * 0.0254f, EndSite = j.EndSite * 0.0254f }));
    }

    private static void One(string what, Motion source, Dictionary<string, Skeleton> rigs)
    {
        foreach (var held in new[] { false, true })
        {
            var setup = held
                ? new RetargetSetup { ScaleTravel = false }
                    .With(BodyRole.HandL, 1)
                    .With(BodyRole.HandR, 1)
                : new RetargetSetup();
            var (slide, floor, own, travel, turn, off, shortest, speed) = (0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, double.PositiveInfinity);
            string slid = "",
                slower = "",
                faster = "";
            foreach (var (name, rig) in rigs)
            {
                var clock = Stopwatch.StartNew();
                var (motion, report) = Retargeter.Retarget(source, rig, setup);
                speed = Math.Min(speed, source.DurationSeconds / clock.Elapsed.TotalSeconds);
                foreach (var c in report.Contacts.Where(c => c.SlideMillimetres > slide))
                {
                    (slide, slid) = (c.SlideMillimetres, $"{name} {c.Role} {c.Start}-{c.End}");
                }

                floor = Math.Max(floor, OffFloor(motion, report.Contacts));
                own = Math.Max(own, OffFloor(source, report.Contacts));
                var (t, r) = Speeds(source, motion, held ? 1 : report.Scale);
                (travel, slower) = t.Ratio > travel ? (t.Ratio, $"{name} {t.Role} at {t.Frame}") : (travel, slower);
                (turn, faster) = r.Ratio > turn ? (r.Ratio, $"{name} {r.Role} at {r.Frame}") : (turn, faster);
                if (held)
                {
                    var (o, s) = Held(source, motion, report);
                    (off, shortest) = (Math.Max(off, o), Math.Max(shortest, s));
                }
            }

            Console.WriteLine(
                $"{what, -28} {(held ? "held" : "natural"), -8} slide {slide:0.00} ({slid})   floor {floor:0.0} ({own:0.0})   travel {travel:0.00} ({slower})   turn {turn:0.00} ({faster})   "
                    + $"{(held ? $"off {off:0.00}, short {shortest:0}   " : string.Empty)}{speed:0} ×"
            );
        }
    }

    /// <summary>How far a planted foot's ankle or toes leave the height they rest at, millimetres: the middle of each contact.</summary>
    private static double OffFloor(Motion motion, IReadOnlyList<HeldContact> contacts)
    {
        var world = ForwardKinematics.WorldPositions(motion);
        var s = motion.Skeleton;
        double worst = 0;
        foreach (var c in contacts.Where(c => c.Role is BodyRole.ToesL or BodyRole.ToesR))
        {
            var joint = s.IndexOf(c.Role);
            var heights = Enumerable
                .Range(c.Start, c.End - c.Start + 1)
                .Select(f => (double)world[(f * s.Count) + joint].Y)
                .Order()
                .ToArray();
            var off = heights[heights.Length / 2] - GroundLevel.Height(s, c.Role);
            // A foot on a step or a plank stands on that: only what is near the floor is compared with it.
            worst = Math.Abs(off) < 0.06 ? Math.Max(worst, Math.Abs(off) * 1000) : worst;
        }

        return worst;
    }

    /// <summary>Fastest joint (scaled) and fastest turn of a role, as a multiple of the fastest the performer has anywhere.</summary>
    private static ((double Ratio, BodyRole Role, int Frame) Travel, (double Ratio, BodyRole Role, int Frame) Turn) Speeds(
        Motion source,
        Motion target,
        double scale
    )
    {
        var (from, to) = (Fastest(source), Fastest(target));
        return (
            (to.Travel.Value / (from.Travel.Value * scale), to.Travel.Role, to.Travel.Frame),
            (to.Turn.Value / from.Turn.Value, to.Turn.Role, to.Turn.Frame)
        );
    }

    private static ((double Value, BodyRole Role, int Frame) Travel, (double Value, BodyRole Role, int Frame) Turn) Fastest(Motion m)
    {
        var turns = new Quaternion[m.Rotations.Length];
        var world = ForwardKinematics.WorldPositions(m, turns);
        var n = m.Skeleton.Count;
        (double Value, BodyRole Role, int Frame) travel = default,
            turn = default;
        foreach (var role in BodyRoles.Required)
        {
            var j = m.Skeleton.IndexOf(role);
            for (var f = 1; f < m.FrameCount; f++)
            {
                double t = (world[(f * n) + j] - world[((f - 1) * n) + j]).Length(),
                    r = Rotations.Angle(turns[(f * n) + j], turns[((f - 1) * n) + j]);
                travel = t > travel.Value ? (t, role, f) : travel;
                turn = r > turn.Value ? (r, role, f) : turn;
            }
        }

        return (travel, turn);
    }

    /// <summary>How far held hands are from the performer's own, where the arm is long enough, and the most they stay short elsewhere.</summary>
    private static (double Off, double Short) Held(Motion source, Motion target, RetargetReport report)
    {
        var s = target.Skeleton;
        var world = ForwardKinematics.WorldPositions(target);
        double off = 0,
            shortest = 0;
        foreach (var role in new[] { BodyRole.HandL, BodyRole.HandR })
        {
            var (upper, lower) = role == BodyRole.HandL ? (BodyRole.UpperArmL, BodyRole.ForearmL) : (BodyRole.UpperArmR, BodyRole.ForearmR);
            var length =
                (s.RestPositions[s.IndexOf(lower)] - s.RestPositions[s.IndexOf(upper)]).Length()
                + (s.RestPositions[s.IndexOf(role)] - s.RestPositions[s.IndexOf(lower)]).Length();
            for (var f = 0; f < target.FrameCount; f++)
            {
                var row = world.AsSpan(f * s.Count, s.Count);
                double drift = report.Drift[role][f];
                var straight = (row[s.IndexOf(role)] - row[s.IndexOf(upper)]).Length() > length * 0.998;
                (off, shortest) = straight ? (off, Math.Max(shortest, drift)) : (Math.Max(off, drift), shortest);
            }
        }

        return (off, shortest);
    }
}
