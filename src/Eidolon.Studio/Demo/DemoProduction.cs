using System.Text.Json.Nodes;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Optical;
using Eidolon.Core.Solving;
using Eidolon.StandIns.Characters;
using Eidolon.StandIns.Devices;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Demo;

/// <summary>Makes Harbour Lights: performers measured from their range-of-motion takes, characters, and a day of takes at different Steps.</summary>
public static class DemoProduction
{
    private sealed record Planned(string Scene, string Who, int Number, bool Circled, string Note, string Character, int Steps);

    /// <summary>Steps: 0 recorded, 1 labelled, 2 cleaned, 3 solved, 4 retargeted.</summary>
    private static readonly Planned[] Plan =
    [
        new("lamp-walk", "Ines", 1, true, "Good light, keep", "Lamplighter", 4),
        new("lamp-walk", "Ines", 2, false, "Turned too early", "", 1),
        new("lamp-walk", "Ines", 3, false, "", "", 0),
        new("haul-rope", "Tobi", 1, false, "", "", 0),
        new("haul-rope", "Tobi", 2, false, "Second choice", "Stevedore", 4),
        new("haul-rope", "Tobi", 3, true, "Strong pull, gaps at the wrists", "", 1),
        new("gangplank-hop", "Tobi", 1, false, "", "", 3),
        new("gangplank-hop", "Tobi", 2, true, "Best landing", "Stevedore", 4),
        new("deck-crouch", "Ines, Tobi", 1, false, "Never a clear pose", "", 0),
    ];

    public static async Task MakeIfMissing(IServiceProvider services, Action<string> say, CancellationToken cancel = default)
    {
        using var scope = services.CreateScope();
        var db = scope.ServiceProvider.GetRequiredService<EidolonDb>();
        if (await db.Productions.AnyAsync(cancel))
        {
            return;
        }

        var production = new Production { Name = "Harbour Lights" };
        var shapes = new ShootDay { Name = "Day 1, shapes", Date = new DateOnly(2026, 5, 4) };
        var quay = new ShootDay { Name = "Day 2, quay", Date = new DateOnly(2026, 5, 5) };
        production.Days.AddRange([shapes, quay]);
        db.Add(production);
        await db.SaveChangesAsync(cancel);
        foreach (var person in new[] { HarbourCast.Ines, HarbourCast.Tobi })
        {
            say($"measuring {person.Name} from a range-of-motion take");
            await AddPerformer(db, production, shapes, person, cancel);
        }

        foreach (var name in HarbourCharacters.Names)
        {
            say($"sculpting {name}");
            await AddCharacter(db, production, name, cancel);
        }

        say("waving the wand before the camera ring");
        var ring = await Calibrate(db, production, cancel);
        foreach (var prop in HarbourProps.All)
        {
            db.Props.Add(
                new PropRow
                {
                    ProductionId = production.Id,
                    Name = prop.Name,
                    Markers = RigidBodyJson.Write(prop),
                    Tie = "model",
                }
            );
        }

        db.MarkerSets.Add(
            new MarkerSetRow
            {
                ProductionId = production.Id,
                Name = HarbourMarkers.Set().Name,
                Json = MarkerSetJson.Write(HarbourMarkers.Set()),
            }
        );
        await db.SaveChangesAsync(cancel);
        say("performing crate-carry before the ring");
        await AddRingTake(db, quay, ring, cancel);
        foreach (var planned in Plan)
        {
            say($"performing {planned.Scene}, take {planned.Number}");
            await AddTake(scope.ServiceProvider, db, quay, planned, cancel);
        }
    }

    /// <summary>The day's calibration: a waved wand and the ground frame, worked out as on the page.</summary>
    private static async Task<CalibrationRow> Calibrate(EidolonDb db, Production production, CancellationToken cancel)
    {
        var truth = HarbourRing.True();
        var (ring, report) = RingCalibration.Calibrate(
            PictureSimulator.See(WandWave.Wave(40), truth, 3),
            HarbourRing.Nominal,
            null,
            cancel
        );
        (ring, _) = GroundAlignment.Align(ring, PictureSimulator.See(WandWave.Ground(1), truth, 9));
        var row = new CalibrationRow
        {
            ProductionId = production.Id,
            MadeUtc = DateTime.UtcNow,
            GroundUtc = DateTime.UtcNow,
            Cameras = CameraRingJson.Write(ring),
            ResidualPixels = report.ResidualPixels,
            Report = System.Text.Json.JsonSerializer.Serialize(report, System.Text.Json.JsonSerializerOptions.Web),
        };
        db.Calibrations.Add(row);
        await db.SaveChangesAsync(cancel);
        return row;
    }

    /// <summary>A take as the ring recorded it: 2D centroids, and the points made of them.</summary>
    private static async Task AddRingTake(EidolonDb db, ShootDay day, CalibrationRow calibration, CancellationToken cancel)
    {
        var pictures = new RingStandIn().Pictures("crate-carry", HarbourCast.Ines, 1);
        var ring = CameraRingJson.Read(System.Text.Encoding.UTF8.GetBytes(calibration.Cameras), "calibration");
        var (points, _) = TakeReconstructor.Reconstruct(pictures, ring, null, cancel);
        var take = await Store(db, day, points, "HL_021_crate-carry", 1, "Ines, Tobi", false, "Both lift and carry", cancel);
        (take.Props, take.CalibrationId) = ("Crate", calibration.Id);
        await db.SaveChangesAsync(cancel);
        await new SampleStore(db).WriteCentroids(take.Id, pictures, cancel);
    }

    private static async Task AddPerformer(EidolonDb db, Production production, ShootDay day, Person person, CancellationToken cancel)
    {
        var rom = MarkerSimulator.Labelled(SceneCatalog.Perform("rom", person, 1));
        var slate = person.Name == "Ines" ? "HL_001_rom" : "HL_002_rom";
        var take = await Store(db, day, rom, slate, 1, person.Name, true, "Range of motion", cancel);
        var (performer, report) = PerformerCalibration.Calibrate(person.Name, rom, HarbourMarkers.Set(), cancel);
        var (motion, _) = TakeSolver.Solve(performer, rom.Range(0, Math.Min(rom.FrameCount, 2400)), cancel);
        take.Postures = Postures.Svg(motion);
        db.Performers.Add(
            new PerformerRow
            {
                ProductionId = production.Id,
                Name = person.Name,
                Stature = performer.Stature,
                Body = PerformerJson.Write(performer),
                FitMillimetres = report.ResidualRms * 1000,
                ReferenceTakeId = take.Id,
                Figure = GltfSkinWriter.Write(performer.Skeleton, BodyParts.Figure(performer.Skeleton), person.Name),
            }
        );
        await db.SaveChangesAsync(cancel);
    }

    private static async Task AddCharacter(EidolonDb db, Production production, string name, CancellationToken cancel)
    {
        var glb = HarbourCharacters.Build(name);
        var skeleton = RoleFinder.Assign(GltfReader.GltfBindingOf(GltfReader.Open(glb, name + ".glb"), name).Skeleton, null, name);
        var check = RestCheck.Check(skeleton);
        var height = name == "Stevedore" ? 1.95f : 1.45f;
        db.Characters.Add(
            new CharacterRow
            {
                ProductionId = production.Id,
                Name = name,
                Glb = glb,
                Verdict = check.Verdict.ToString(),
                Reasons = string.Join("; ", check.Reasons),
                Height = height,
            }
        );
        await db.SaveChangesAsync(cancel);
    }

    private static async Task AddTake(IServiceProvider services, EidolonDb db, ShootDay day, Planned planned, CancellationToken cancel)
    {
        var performance = SceneCatalog.Perform(planned.Scene, HarbourCast.Find(planned.Who.Split(", ")[0]), planned.Number);
        var seen = MarkerSimulator.Labelled(performance, new MarkerSimulator.Settings(MinimumCameras: 3));
        var dots = SlotMaker.Make(seen, planned.Number);
        var slate = $"HL_{SceneCatalog.Slate(planned.Scene):000}_{planned.Scene}";
        var take = await Store(db, day, dots, slate, planned.Number, planned.Who, planned.Circled, planned.Note, cancel);
        take.Props = planned.Scene switch
        {
            "lamp-walk" => "Lantern pole",
            "haul-rope" => "Bollard hook",
            _ => string.Empty,
        };
        await db.SaveChangesAsync(cancel);
        var takes = services.GetRequiredService<TakeService>();
        Entry[] entries =
        [
            LabelOperations.Label.Entry(),
            MarkerOperations.Despike.Entry(),
            MarkerOperations.Fill.Entry(new JsonObject { ["method"] = "auto", ["longest"] = 60 }),
            MotionOperations.Solve.Entry(),
            MotionOperations.Retarget.Entry(new JsonObject { ["character"] = planned.Character, ["travel"] = "scaled" }),
        ];
        var count = planned.Steps switch
        {
            0 => 0,
            1 => 1,
            2 => 3,
            3 => 4,
            _ => 5,
        };
        foreach (var entry in entries.Take(count))
        {
            await takes.Keep(take.Id, entry, null, cancel);
        }
    }

    private static async Task<Take> Store(
        EidolonDb db,
        ShootDay day,
        MarkerTake samples,
        string setUp,
        int number,
        string performer,
        bool circled,
        string note,
        CancellationToken cancel
    )
    {
        var take = new Take
        {
            ShootDayId = day.Id,
            Name = $"{setUp}_{number:00}",
            SetUp = setUp,
            Number = number,
            Performer = performer,
            Circled = circled,
            Note = note,
            FrameRate = samples.FrameRate,
            FrameCount = samples.FrameCount,
            Channels = string.Join('\n', samples.Names),
            RawHash = SampleStore.Hash(samples.Bytes).ToString("x"),
            State = TakeState.Kept,
            CreatedUtc = DateTime.UtcNow,
        };
        db.Takes.Add(take);
        await db.SaveChangesAsync(cancel);
        await new SampleStore(db).WriteMarkers(take.Id, samples, cancel);
        return await db.Takes.FirstAsync(t => t.Id == take.Id, cancel);
    }
}
