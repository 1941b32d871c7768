using System.Text.Json;
using System.Text.Json.Nodes;
using Eidolon.Core.Formats.Gltf;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Inertial;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Optical;
using Eidolon.StandIns.Characters;
using Eidolon.StandIns.Devices;
using Eidolon.StandIns.Inertial;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.StandIns.Video;
using Eidolon.Storage;
using Eidolon.Storage.Blobs;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Demo;

/// <summary>Makes Harbour Lights: performers measured from their range-of-motion takes, characters, props, and a day of takes at different Steps.</summary>
public sealed class DemoProduction(EidolonDb db, SubjectLibrary library, LedgerBook book, TakeService takes, SceneService scenes)
{
    /// <param name="Steps">0 recorded, 1 labelled, 2 cleaned, 3 solved, 4 retargeted.</param>
    private sealed record Planned(string Scene, string[] Who, int Number, bool Circled, string Note, string Character, int Steps);

    private const string RingTake = "HL_021_crate-carry";
    private const string SignalTake = "HL_033_signal-wave";
    private const string PatrolTake = "HL_040_suit-patrol";
    private const string NetTake = "HL_044_cam-mend-net";

    /// <summary>Frames of the signal in which two nails have each other's names, the last one outside.</summary>
    private const int ExchangedFrom = 1486,
        ExchangedTo = 1523;

    /// <summary>The face's tracker began so many seconds after the ring.</summary>
    private const double FaceLate = 0.083;

    private const string FirstScene = "Quay scene A";

    private static readonly Planned[] Plan =
    [
        new("lamp-walk", ["Ines"], 1, true, "Good light, keep", "Lamplighter", 4),
        new("lamp-walk", ["Ines"], 2, false, "Turned too early", "", 1),
        new("lamp-walk", ["Ines"], 3, false, "", "", 0),
        new("haul-rope", ["Tobi"], 1, false, "", "", 0),
        new("haul-rope", ["Tobi"], 2, false, "Second choice", "Stevedore", 4),
        new("haul-rope", ["Tobi"], 3, true, "Strong pull, gaps at the wrists", "", 1),
        new("gangplank-hop", ["Tobi"], 1, false, "", "", 3),
        new("gangplank-hop", ["Tobi"], 2, true, "Best landing", "Stevedore", 4),
        new("deck-crouch", ["Ines", "Tobi"], 1, false, "Never a clear pose", "", 0),
        new("quay-run", ["Tobi"], 1, true, "To join", "Stevedore", 4),
        new("corner-run", ["Tobi"], 1, false, "To join", "Stevedore", 4),
        new("steps-down", ["Tobi"], 1, true, "To join", "Stevedore", 4),
        new("long-watch", ["Tobi"], 1, false, "To loop", "Stevedore", 4),
        new("quay-round", ["Tobi"], 1, false, "To loop", "Stevedore", 4),
    ];

    public static async Task MakeIfMissing(IServiceProvider services, Action<string> say, CancellationToken cancel = default)
    {
        using var scope = services.CreateScope();
        var s = scope.ServiceProvider;
        var db = s.GetRequiredService<EidolonDb>();
        var steps = new DemoSteps(Path.Combine(s.GetRequiredService<StudioOptions>().DataFolder, "demo-steps"));
        if (steps.Finished || (!steps.Begun && await db.Productions.AnyAsync(cancel)))
        {
            return;
        }

        var made = new DemoProduction(
            db,
            s.GetRequiredService<SubjectLibrary>(),
            s.GetRequiredService<LedgerBook>(),
            s.GetRequiredService<TakeService>(),
            s.GetRequiredService<SceneService>()
        );
        await made.Make(steps, say, cancel);
    }

    private async Task Make(DemoSteps steps, Action<string> say, CancellationToken cancel)
    {
        steps.Begin();
        await steps.Do("production", () => Task.CompletedTask, () => AddProduction(cancel));
        var production = (await db.Productions.FirstAsync(cancel)).Id;
        var days = await db.Days.OrderBy(d => d.Date).ToListAsync(cancel);
        var (shapes, quay) = (days[0], days[1]);
        Task Step(string step, string words, Func<Task> clear, Func<Task> make) => steps.Do(step, clear, async () =>
            {
                if (words.Length > 0)
                {
                    say(words);
                }

                await make();
            });
        foreach (var person in new[] { HarbourCast.Ines, HarbourCast.Tobi })
        {
            await Step(
                person.Name,
                $"measuring {person.Name} from a range-of-motion take",
                async () =>
                {
                    await ClearTake(RomSlate(person) + "_01", cancel);
                    await ClearSubject(person.Name, cancel);
                },
                () => AddPerformer(production, shapes, person, cancel)
            );
        }

        foreach (var name in HarbourCharacters.Names)
        {
            await Step(name, $"sculpting {name}", () => ClearSubject(name, cancel), () => AddCharacter(production, name, cancel));
        }

        foreach (var prop in HarbourProps.All)
        {
            await Step(prop.Name, string.Empty, () => ClearSubject(prop.Name, cancel), () => AddProp(production, prop, cancel));
        }

        await Step(
            "ring",
            "waving the wand before the camera ring",
            () => db.Calibrations.ExecuteDeleteAsync(cancel),
            () => Calibrate(production, cancel)
        );
        await Step(
            RingTake,
            "performing crate-carry before the ring",
            () => ClearTake(RingTake + "_01", cancel),
            () => AddRingTake(quay, cancel)
        );
        foreach (var planned in Plan)
        {
            var slate = SlateOf(planned);
            await Step(
                $"{slate}_{planned.Number:00}",
                $"performing {planned.Scene}, take {planned.Number}",
                () => ClearTake($"{slate}_{planned.Number:00}", cancel),
                () => AddTake(quay, planned, cancel)
            );
        }

        await Step(
            SignalTake,
            "waving to a boat, with fingers and face",
            () => ClearTake(SignalTake + "_01", cancel),
            () => AddSignalTake(production, quay, cancel)
        );
        await Step(
            PatrolTake,
            "walking the patrol in the suit",
            () => ClearTake(PatrolTake + "_01", cancel),
            () => AddSuitTake(quay, cancel)
        );
        await Step(
            NetTake,
            "mending the net before the witness cameras",
            () => ClearTake(NetTake + "_01", cancel),
            () => AddFilmTake(quay, cancel)
        );
        await Step(
            FirstScene,
            "laying out a scene",
            () => db.Scenes.Where(s => s.Name == FirstScene).ExecuteDeleteAsync(cancel),
            () => new DemoScene(db, scenes, book).Add(production, quay, FirstScene, cancel)
        );
        // Every change of it was followed as it was made.
        await db.Outbox.ExecuteDeleteAsync(cancel);
        steps.End();
    }

    /// <summary>The production with its days and its marker set, all or nothing.</summary>
    private async Task AddProduction(CancellationToken cancel)
    {
        if (await db.Productions.AnyAsync(cancel))
        {
            return;
        }

        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var production = new Production { Name = "Harbour Lights" };
        production.Days.AddRange([
            new ShootDay { Name = "Day 1, shapes", Date = new DateOnly(2026, 5, 4) },
            new ShootDay { Name = "Day 2, quay", Date = new DateOnly(2026, 5, 5) },
        ]);
        db.Add(production);
        await db.SaveChangesAsync(cancel);
        var set = new MarkerSetRow
        {
            ProductionId = production.Id,
            Name = HarbourMarkers.Set().Name,
            Json = MarkerSetJson.Write(HarbourMarkers.Set()),
        };
        db.MarkerSets.Add(set);
        await db.SaveChangesAsync(cancel);
        production.MarkerSetId = set.Id;
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
    }

    private async Task ClearTake(string name, CancellationToken cancel)
    {
        foreach (var id in await db.Takes.Where(t => t.Name == name).Select(t => t.Id).ToListAsync(cancel))
        {
            await TakeRemoval.Remove(db, id, cancel);
        }

        db.ChangeTracker.Clear();
    }

    private async Task ClearSubject(string name, CancellationToken cancel)
    {
        await db.Subjects.Where(s => s.Name == name).ExecuteDeleteAsync(cancel);
        db.ChangeTracker.Clear();
    }

    /// <summary>A subject of the demo by its name; in the demo no two have the same.</summary>
    private int Id(string name) => db.Subjects.Where(s => s.Name == name).Select(s => s.Id).First();

    private static string RomSlate(Person person) => person.Name == HarbourCast.Ines.Name ? "HL_001_rom" : "HL_002_rom";

    private static string SlateOf(Planned planned) => $"HL_{SceneCatalog.Slate(planned.Scene):000}_{planned.Scene}";

    private async Task AddCharacter(int production, string name, CancellationToken cancel)
    {
        var character = await library.Add(production, SubjectKind.Character, name, cancel);
        await library.Dress(character.Id, HarbourCharacters.Build(name), name + ".glb", cancel);
        await library.Accept(character.Id, cancel);
    }

    private async Task AddPerformer(int production, ShootDay day, Person person, CancellationToken cancel)
    {
        var rom = MarkerSimulator.Labelled(SceneCatalog.Perform("rom", person, 1));
        var subject = await library.Add(production, SubjectKind.Performer, person.Name, cancel);
        var take = await Store(day, rom, RomSlate(person), 1, [subject.Id], [], true, "Range of motion", cancel);
        await library.Measure(subject.Id, rom, HarbourMarkers.Set(), take.Id, null, cancel);
        Run(take, new AddEntries(SolveOperations.Solve.Name, []));
    }

    private async Task AddProp(int production, RigidBody prop, CancellationToken cancel)
    {
        var subject = await library.Add(production, SubjectKind.Prop, prop.Name, cancel);
        await library.Shape(subject.Id, prop, "model", "from the prop maker", cancel);
        if (HarbourPropModels.Build(prop.Name) is { } model)
        {
            await library.Model(subject.Id, model, prop.Name + ".glb", new PropModelFit(1, Centred: false), cancel);
        }
    }

    /// <summary>The day's calibration: a waved wand and the ground frame, worked out as on the page.</summary>
    private async Task Calibrate(int production, CancellationToken cancel)
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
            ProductionId = production,
            MadeUtc = DateTime.UtcNow,
            GroundUtc = DateTime.UtcNow,
            Cameras = CameraRingJson.Write(ring),
            ResidualPixels = report.ResidualPixels,
            Report = JsonSerializer.Serialize(report, JsonSerializerOptions.Web),
        };
        db.Calibrations.Add(row);
        await db.SaveChangesAsync(cancel);
    }

    /// <summary>A take as the ring recorded it: 2D centroids, the points made of them, and the crate as the live stage followed it.</summary>
    private async Task AddRingTake(ShootDay day, CancellationToken cancel)
    {
        var calibration = await db.Calibrations.OrderByDescending(c => c.Id).FirstAsync(cancel);
        var pictures = new RingStandIn().Pictures("crate-carry", HarbourCast.Ines, 1);
        var ring = CameraRingJson.Read(System.Text.Encoding.UTF8.GetBytes(calibration.Cameras), "calibration");
        var (points, _) = TakeReconstructor.Reconstruct(pictures, ring, null, cancel);
        int[] who = [Id(HarbourCast.Ines.Name), Id(HarbourCast.Tobi.Name)];
        var take = await Store(day, points, RingTake, 1, who, [HarbourProps.Crate], false, "Both lift and carry", cancel);
        await db.Takes.Where(t => t.Id == take.Id).ExecuteUpdateAsync(s => s.SetProperty(t => t.CalibrationId, calibration.Id), cancel);
        await new SampleStore(db).WriteCentroids(take.Id, pictures, cancel);
        takes.Refresh(take.Id);
    }

    /// <summary>
    /// A take with a marker on every fingernail and a face beside it, solved with both. While she points, the names of two nails are exchanged.
    /// </summary>
    private async Task AddSignalTake(int production, ShootDay day, CancellationToken cancel)
    {
        var performance = SceneCatalog.Perform("signal-wave", HarbourCast.Ines, 1);
        var seen = MarkerSimulator.Labelled(performance, new MarkerSimulator.Settings(MinimumCameras: 3));
        int a = seen.IndexOf("IndexNailR"),
            b = seen.IndexOf("MiddleNailR");
        for (var f = ExchangedFrom; f < ExchangedTo; f++)
        {
            (seen[f, a], seen[f, b]) = (seen[f, b], seen[f, a]);
        }

        var set = HarbourMarkers.Set(hands: true);
        var row = await db.MarkerSets.FirstOrDefaultAsync(s => s.Name == set.Name, cancel);
        if (row is null)
        {
            row = new MarkerSetRow
            {
                ProductionId = production,
                Name = set.Name,
                Json = MarkerSetJson.Write(set),
            };
            db.MarkerSets.Add(row);
            await db.SaveChangesAsync(cancel);
        }

        var who = Id(HarbourCast.Ines.Name);
        var take = await Store(day, seen, SignalTake, 1, [who], [], false, performance.Note, cancel);
        await db.Takes.Where(t => t.Id == take.Id).ExecuteUpdateAsync(s => s.SetProperty(t => t.MarkerSetId, row.Id), cancel);
        var face = FaceSimulator.See(performance.Face!, performance.Seconds, FaceLate, HarbourCast.Ines.Seed);
        await new SampleStore(db).WriteFace(take.Id, who, face, cancel);
        Run(take, new AddEntries(SolveOperations.Solve.Name, []));
        Run(take, new AddEntries(HandOperations.Fingers.Name, []));
        Run(take, new AddEntries(HandOperations.Face.Name, []));
        takes.Refresh(take.Id);
    }

    /// <summary>A take of the suit alone: its poses, then the patrol, solved.</summary>
    private async Task AddSuitTake(ShootDay day, CancellationToken cancel)
    {
        var performance = SceneCatalog.Perform("suit-patrol", HarbourCast.Ines, 1, SuitSensors.Rate);
        var suit = new SuitTake(SuitSensors.Rate, SuitSimulator.Measure(performance.Actors[0], HarbourCast.Ines.Seed));
        var wearer = Id(HarbourCast.Ines.Name);
        var take = new Take
        {
            ShootDayId = day.Id,
            Name = PatrolTake + "_01",
            SetUp = PatrolTake,
            Number = 1,
            FrameRate = suit.FrameRate,
            FrameCount = suit.FrameCount,
            State = TakeState.Kept,
            Note = performance.Note,
        };
        await TakeMaker.Add(db, take, [wearer], [], cancel);
        await new SampleStore(db).WriteSuit(take.Id, wearer, suit, cancel);
        Run(take, new AddEntries(SuitOperation.Solve.Name, []));
        takes.Refresh(take.Id);
    }

    /// <summary>A take of three witness films that began when each pleased, and of the suit, solved as it came: for a while the net is taken for a hand.</summary>
    private async Task AddFilmTake(ShootDay day, CancellationToken cancel)
    {
        var shot = NetFilms.Shoot(HarbourCast.Ines);
        var who = Id(HarbourCast.Ines.Name);
        var take = new Take
        {
            ShootDayId = day.Id,
            Name = NetTake + "_01",
            SetUp = NetTake,
            Number = 1,
            FrameRate = shot.Films.Films[0].FrameRate,
            FrameCount = shot.Films.FrameCount,
            State = TakeState.Kept,
            Note = shot.Truth.Note,
        };
        await TakeMaker.Add(db, take, [who], [], cancel);
        var store = new SampleStore(db);
        await store.WriteFilms(take.Id, who, shot.Films, shot.Pictures, cancel);
        // Ines wore the suit, too: switched on before the films, its poses first. Both are solved, the films count.
        await store.WriteSuit(take.Id, who, shot.Suit(HarbourCast.Ines), cancel);
        Run(take, new AddEntries(SuitOperation.Solve.Name, new JsonObject { ["late"] = Math.Round(shot.SuitLate, 3) }));
        Run(take, new AddEntries(FilmOperation.Solve.Name, []));
        takes.Refresh(take.Id);
    }

    private async Task AddTake(ShootDay day, Planned planned, CancellationToken cancel)
    {
        var performance = SceneCatalog.Perform(planned.Scene, HarbourCast.Find(planned.Who[0]), planned.Number);
        var seen = MarkerSimulator.LabelledWithProps(performance, new MarkerSimulator.Settings(MinimumCameras: 3));
        var dots = SlotMaker.Make(seen, planned.Number);
        RigidBody[] props = [.. performance.Props.Select(p => p.Body)];
        var take = await Store(
            day,
            dots,
            SlateOf(planned),
            planned.Number,
            [.. planned.Who.Select(w => Id(w))],
            props,
            planned.Circled,
            planned.Note,
            cancel
        );
        foreach (var piece in performance.SetPieces)
        {
            db.SetPieces.Add(
                new SetPiece
                {
                    TakeId = take.Id,
                    Kind = piece.Kind,
                    X = piece.X,
                    Z = piece.Z,
                    Heading = piece.Heading,
                }
            );
        }

        await db.SaveChangesAsync(cancel);
        LedgerChange[] done =
        [
            new AddEntries(LabelOperations.Label.Name, []),
            new AddEntries([new("despike", []), new("fill", new JsonObject { ["method"] = "auto", ["longest"] = 60 })]),
            new AddEntries(SolveOperations.Solve.Name, []),
        ];
        foreach (var change in done.Take(Math.Min(planned.Steps, done.Length)))
        {
            Run(take, change);
        }

        if (planned.Steps > done.Length)
        {
            var cast = await TakeNodes.Cast(db, take.Id, Id(planned.Who[0]), Id(planned.Character), cancel);
            Run(take, new AddEntries(RetargetOperation.Retarget.Name, CastProposal.For(takes.Open(take.Id), Id(planned.Who[0])), cast.Id));
            foreach (var prop in props.Where(p => p.Name == HarbourProps.LanternPole.Name))
            {
                // What she carries is carried by whom she plays.
                var node = await TakeNodes.Attached(db, take.Id, Id(prop.Name), cancel);
                Run(
                    take,
                    new AddEntries(AttachOperation.Attach.Name, AttachProposal.For(takes.Open(take.Id), Id(prop.Name), null), node.Id)
                );
            }
        }

        takes.Refresh(take.Id);
    }

    /// <summary>A change with everything it needs run, as a job would; the demo has no job for it.</summary>
    private void Run(Take take, LedgerChange change)
    {
        book.Keep(LedgerOwner.Take(take.Id), change);
        book.BringUp(LedgerOwner.Take(take.Id), cancel: CancellationToken.None);
        takes.Refresh(take.Id);
    }

    private async Task<Take> Store(
        ShootDay day,
        MarkerTake samples,
        string setUp,
        int number,
        IReadOnlyList<int> performers,
        IReadOnlyList<RigidBody> props,
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
            Circled = circled,
            Note = note,
            FrameRate = samples.FrameRate,
            FrameCount = samples.FrameCount,
            State = TakeState.Kept,
        };
        await TakeMaker.Add(db, take, performers, [.. props.Select(p => Id(p.Name))], cancel);
        var store = new SampleStore(db);
        await store.WriteMarkers(take.Id, samples, cancel);
        foreach (var prop in props)
        {
            // As the live stage would have followed it while this was recorded.
            var (places, _) = PropFinder.Find(samples, prop, new HashSet<string>(), cancel);
            await store.WritePlaces(take.Id, Id(prop.Name), places, cancel);
        }

        takes.Refresh(take.Id);
        return take;
    }
}
