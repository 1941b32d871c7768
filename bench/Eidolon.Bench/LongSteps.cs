using System.Diagnostics;
using System.Globalization;
using System.Text.Json.Nodes;
using Eidolon.Core.Formats;
using Eidolon.Core.Markers;
using Eidolon.Demo;
using Eidolon.StandIns.Devices;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.Storage;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Studio;
using Eidolon.Studio.Services;
using Microsoft.AspNetCore.Builder;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Bench;

/// <summary>
/// A long take of two performers and a crate through the Steps, as jobs do it: how long each takes, and the most memory the process ever had.
/// </summary>
internal static class LongSteps
{
    /// <param name="data">A folder with the demo production.</param>
    /// <param name="minutes">Length of the take.</param>
    /// <param name="motion">Through Solve and Retarget too; otherwise Label and Clean, with smooth curves.</param>
    public static async Task Run(string data, double minutes, bool motion)
    {
        var module = new DemoModule();
        var app = StudioHost.Build(new StudioOptions(data), module);
        await StudioHost.Prepare(app.Services, Console.WriteLine, module);
        await app.StartAsync();
        var take = await Store(app, (int)(minutes * 60 * 120));
        Say($"stored, {minutes:0.#} minutes", TimeSpan.Zero);
        var book = app.Services.GetRequiredService<LedgerBook>();
        var owner = LedgerOwner.Take(take);
        LedgerChange[] changes =
        [
            new AddEntries("label", []),
            new AddEntries("despike", []),
            new AddEntries("fill", new JsonObject { ["method"] = motion ? "auto" : "spline", ["longest"] = 60 }),
        ];
        foreach (var change in motion ? [.. changes, new AddEntries("find-prop", []), new AddEntries("solve", [])] : changes)
        {
            Timed(((AddEntries)change).Entries[0].Operation, book, owner, change);
        }

        if (motion)
        {
            using var scope = app.Services.CreateScope();
            var db = scope.ServiceProvider.GetRequiredService<EidolonDb>();
            foreach (var (who, whom) in new[] { ("Ines", "Lamplighter"), ("Tobi", "Stevedore") })
            {
                var (performer, character) = (db.Subjects.Single(s => s.Name == who).Id, db.Subjects.Single(s => s.Name == whom).Id);
                var cast = await TakeNodes.Cast(db, take, performer, character);
                Timed(
                    $"retarget to the {whom}",
                    book,
                    owner,
                    new AddEntries("retarget", new JsonObject { ["travel"] = "scaled" }, cast.Id)
                );
            }
        }

        using var http = new HttpClient { BaseAddress = new Uri(app.Urls.First()), Timeout = TimeSpan.FromMinutes(10) };
        foreach (var step in motion ? ["label", "clean", "solve", "retarget", "export"] : new[] { "label", "clean" })
        {
            var clock = Stopwatch.StartNew();
            (await http.GetAsync($"/takes/{take}/{step}")).EnsureSuccessStatusCode();
            Say($"page of {step}, first", clock.Elapsed);
            clock.Restart();
            (await http.GetAsync($"/takes/{take}/{step}")).EnsureSuccessStatusCode();
            Say($"page of {step}, again", clock.Elapsed);
        }

        await app.StopAsync();
    }

    private static void Timed(string what, LedgerBook book, LedgerOwner owner, LedgerChange change)
    {
        var clock = Stopwatch.StartNew();
        book.Keep(owner, change);
        book.BringUp(owner);
        Say(what, clock.Elapsed);
        var look = book.Look(owner);
        if (look.Rows.Select(look.State).FirstOrDefault(s => s.Refused) is { } refused)
        {
            Console.WriteLine($"    refused: {refused.Reason}");
        }
    }

    private static void Say(string what, TimeSpan time)
    {
        using var me = Process.GetCurrentProcess();
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{what, -32} {time.TotalSeconds, 8:0.0} s   most memory {me.PeakWorkingSet64 / 1048576.0, 7:0} MB"
            )
        );
    }

    /// <summary>Crate-carry over and over as dots without names.</summary>
    private static async Task<int> Store(WebApplication app, int frames)
    {
        var scene = SceneCatalog.Perform("crate-carry", HarbourCast.Ines, 3);
        var dots = SlotMaker.Make(MarkerSimulator.LabelledWithProps(scene, new MarkerSimulator.Settings(MinimumCameras: 3)), 3);
        var take = new MarkerTake(dots.Names, dots.FrameRate, frames);
        for (var f = 0; f < frames; f++)
        {
            // There and back, so that nobody jumps.
            var at = f % (2 * (dots.FrameCount - 1));
            dots.At(at < dots.FrameCount ? at : (2 * (dots.FrameCount - 1)) - at).CopyTo(take.At(f));
        }

        using var scope = app.Services.CreateScope();
        var db = scope.ServiceProvider.GetRequiredService<EidolonDb>();
        int[] who =
        [
            .. db
                .Subjects.Where(s => s.Kind == SubjectKind.Performer && (s.Name == "Ines" || s.Name == "Tobi"))
                .OrderBy(s => s.Name)
                .Select(s => s.Id),
        ];
        var file = new ImportedFile($"HL_092_long-{Environment.ProcessId}.c3d", FileKind.C3d, take, null, "m", "Y");
        var made = await scope.ServiceProvider.GetRequiredService<TakeImport>().Add(file, db.Days.OrderBy(d => d.Id).First().Id, who);
        var crate = db.Subjects.Single(s => s.Name == "Crate");
        db.Parts.Add(
            new TakePart
            {
                TakeId = made.Id,
                SubjectId = crate.Id,
                Position = 2,
                Prefix = "Crate",
            }
        );
        await db.SaveChangesAsync();
        await TakeNodes.Ensure(db, await db.Takes.FindAsync(made.Id) ?? made);
        Console.WriteLine($"{frames} frames, {take.MarkerCount} markers");
        return made.Id;
    }
}
