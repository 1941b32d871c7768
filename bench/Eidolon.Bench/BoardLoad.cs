using System.Diagnostics;
using System.Globalization;
using System.Numerics;
using Eidolon.Core.Operations;
using Eidolon.Demo;
using Eidolon.Storage;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Studio;
using Eidolon.Studio.Services;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Bench;

/// <summary>A Board of five hundred takes, and the Hold sliders of a cast.</summary>
internal static class BoardLoad
{
    /// <param name="data">A folder with the demo production; five hundred takes are added once.</param>
    public static async Task Run(string data)
    {
        var module = new DemoModule();
        var app = StudioHost.Build(new StudioOptions(data), module);
        await StudioHost.Prepare(app.Services, Console.WriteLine, module);
        await app.StartAsync();
        using var scope = app.Services.CreateScope();
        var db = scope.ServiceProvider.GetRequiredService<EidolonDb>();
        if (!db.Takes.Any(t => t.Name.StartsWith("HL_700")))
        {
            var like = db.Takes.First(t => t.Name == "HL_009_lamp-walk_01");
            var day = new ShootDay
            {
                ProductionId = like.ProductionId,
                Name = "A long day",
                Date = new DateOnly(2026, 5, 6),
            };
            db.Add(day);
            db.SaveChanges();
            int[] who = [.. db.Subjects.Where(s => s.Kind == SubjectKind.Performer).Select(s => s.Id)];
            for (var n = 0; n < 500; n++)
            {
                var take = new Take
                {
                    ShootDayId = day.Id,
                    Name = $"HL_700_long_{n:000}",
                    SetUp = "HL_700_long",
                    Number = n,
                    FrameRate = 120,
                    FrameCount = 1200,
                    State = TakeState.Kept,
                    Postures = like.Postures,
                    Quality = like.Quality,
                };
                await TakeMaker.Add(db, take, who, []);
            }
        }

        using var http = new HttpClient { BaseAddress = new Uri(app.Urls.First()) };
        foreach (var path in new[] { "/", "/", "/", "/?Sort=worst", "/?Find=rope", "/recipes", "/recipes" })
        {
            var clock = Stopwatch.StartNew();
            var page = await http.GetByteArrayAsync(path);
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{path, -14} {clock.Elapsed.TotalMilliseconds, 7:0} ms, {page.Length / 1024} kB"
                )
            );
        }

        Hold(scope.ServiceProvider, db);
        await app.StopAsync();
    }

    private static void Hold(IServiceProvider services, EidolonDb db)
    {
        var sessions = services.GetRequiredService<HoldSessions>();
        var cast = db.Nodes.First(n => n.Kind == NodeKind.Cast && n.Entries.Count > 0);
        var times = new List<double>();
        var clock = Stopwatch.StartNew();
        sessions.Pose("bench", cast.TakeId!.Value, cast.Id, 0, "{}");
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"hold, the first answer {clock.Elapsed.TotalMilliseconds:0} ms"));
        for (var n = 0; n < 400; n++)
        {
            clock.Restart();
            sessions.Pose(
                "bench",
                cast.TakeId!.Value,
                cast.Id,
                n * 3,
                $$"""{"place":{"HandL":{{n % 101}},"HandR":{{100 - (n % 101)}},"FootL":100} }"""
            );
            times.Add(clock.Elapsed.TotalMilliseconds);
        }

        times.Sort();
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"hold answer: half {times[200]:0.00} ms, 99 of 100 {times[396]:0.00} ms, worst {times[^1]:0.0} ms"
            )
        );
    }
}
