using System.Globalization;
using System.Net;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Formats;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.Storage;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests;

/// <summary>
/// A random walk over a take of two: adds, edits, switches, orders, take-backs, versions and jobs that nobody waits for; after every step
/// every page and everything the Stage asks for answers. The long run walks a thousand steps.
/// </summary>
[Trait(LongRun.Run, LongRun.Whole)]
public sealed class PageWalkTests(DemoStudio studio) : IClassFixture<DemoStudio>
{
    private static readonly string[] Operations =
    [
        "despike",
        "fill",
        "smooth",
        "label",
        "solve",
        "find-prop",
        "retarget",
        "hide",
        "trim",
        "tidy",
    ];

    [Fact]
    public async Task Every_page_opens_after_every_step()
    {
        var steps = LongRun.Or(1000, 25);
        using var http = new HttpClient(new HttpClientHandler { AllowAutoRedirect = true }) { BaseAddress = new Uri(studio.Address) };
        var take = await Make();
        var owner = LedgerOwner.Take(take);
        var random = new Random(29);
        var (kept, refused, jobs) = (0, 0, 0);
        for (var n = 0; n < steps; n++)
        {
            using var scope = studio.Services.CreateScope();
            try
            {
                if (random.Next(4) == 0)
                {
                    jobs++;
                    await Job(scope.ServiceProvider, owner, random);
                }
                else if (Change(scope.ServiceProvider.GetRequiredService<LedgerBook>(), owner, random) is { } change)
                {
                    scope.ServiceProvider.GetRequiredService<TakeService>().Keep(take, change);
                    kept++;
                }
            }
            catch (RefusedException e)
            {
                Assert.True(e.Message.Length > 5);
                refused++;
            }

            await Look(http, take, n);
        }

        Assert.True(kept > steps / 10 && refused > 0 && jobs > steps / 10, $"{kept} kept, {refused} refused, {jobs} jobs");
    }

    private static async Task Look(HttpClient http, int take, int step)
    {
        foreach (var page in StepThread.Names.Skip(1).Select(s => s.ToLowerInvariant()))
        {
            var answer = await http.GetAsync($"/takes/{take}/{page}");
            Assert.True(answer.StatusCode == HttpStatusCode.OK, $"step {step}, {page}: {answer.StatusCode}");
        }

        foreach (var part in new[] { "scene?step=clean", "scene?step=retarget" })
        {
            var answer = await http.GetAsync($"/api/takes/{take}/{part}");
            Assert.True(answer.StatusCode == HttpStatusCode.OK, $"step {step}, {part}: {answer.StatusCode}");
            foreach (var figure in JsonNode.Parse(await answer.Content.ReadAsStringAsync())!["figures"]!.AsArray())
            {
                var motion = await http.GetAsync((string)figure!["samples"]!);
                // A figure may have gone between the two questions, by a job; it never fails.
                Assert.True(motion.StatusCode is HttpStatusCode.OK or HttpStatusCode.NotFound, $"step {step}: {motion.StatusCode}");
            }
        }

        foreach (var page in new[] { "/", "/recipes", $"/takes/{take}/slate", $"/takes/{take}/video" })
        {
            Assert.Equal(HttpStatusCode.OK, (await http.GetAsync(page)).StatusCode);
        }
    }

    private static LedgerChange? Change(LedgerBook book, LedgerOwner owner, Random random)
    {
        var draft = book.Read(owner);
        var entries = draft.Nodes.SelectMany(n => n.Entries).ToArray();
        var one = entries.Length == 0 ? null : entries[random.Next(entries.Length)];
        return random.Next(9) switch
        {
            0 or 1 when one is not null => new SwitchEntry(one.Id, !one.Entry.On),
            2 when one is not null => new MoveEntry(one.Id, random.Next(4)),
            3 when one is not null && random.Next(3) == 0 => new RemoveEntry(one.Id),
            4 => new TakeBackEntry(),
            5 => new BringAgain(),
            6 when random.Next(8) == 0 => new BackToOriginal(),
            7 when one is not null => new EditEntry(one.Id, new JsonObject { ["longest"] = 3 + random.Next(40) }),
            _ => new AddEntries(
                "hide",
                new JsonObject
                {
                    ["marker"] = "Ines:Crown",
                    ["from"] = random.Next(60),
                    ["to"] = 60 + random.Next(20),
                }
            ),
        };
    }

    /// <summary>Asks for work and goes on: what is looked at next may be before, while or after it is done.</summary>
    private static async Task Job(IServiceProvider services, LedgerOwner owner, Random random)
    {
        var queue = services.GetRequiredService<JobQueue>();
        var operation = Operations[random.Next(Operations.Length)];
        var parameters = operation switch
        {
            "hide" => new JsonObject
            {
                ["marker"] = "Tobi:Crown",
                ["from"] = 5,
                ["to"] = 9,
            },
            "trim" => new JsonObject { ["from"] = random.Next(3), ["to"] = 110 + random.Next(9) },
            _ => [],
        };
        if (random.Next(5) == 0)
        {
            await queue.BringUp(owner, "walk");
        }
        else
        {
            var job = await queue.Operation(owner, "walk", operation, parameters, null);
            if (random.Next(6) == 0)
            {
                services.GetRequiredService<JobCancels>().Stop(job.Id);
            }
        }
    }

    private async Task<int> Make()
    {
        using var scope = studio.Services.CreateScope();
        var db = scope.ServiceProvider.GetRequiredService<EidolonDb>();
        var seen = MarkerSimulator.LabelledWithProps(
            SceneCatalog.Perform("crate-carry", HarbourCast.Ines, 5),
            new MarkerSimulator.Settings(MinimumCameras: 3)
        );
        var file = new ImportedFile("HL_091_walk.c3d", FileKind.C3d, seen.Range(300, 420), null, "m", "Y");
        var take = await scope
            .ServiceProvider.GetRequiredService<TakeImport>()
            .Add(file, db.Days.OrderBy(d => d.Id).First().Id, studio.Ids("Ines", "Tobi"));
        var ids = studio.Ids("Ines", "Tobi", "Lamplighter", "Stevedore");
        var casts = scope.ServiceProvider.GetRequiredService<CastService>();
        await casts.Play(take.Id, ids[0], ids[2], CancellationToken.None);
        await casts.Play(take.Id, ids[1], ids[3], CancellationToken.None);
        return take.Id;
    }
}
