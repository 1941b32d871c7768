using System.Net;
using Eidolon.Storage.Model;
using Eidolon.Storage.Samples;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Bench.Kills;

/// <summary>What a kill was in the middle of.</summary>
/// <param name="Unique">Entries with this text in their parameters may be there once each.</param>
/// <param name="Take">Name of the take that was recorded or brought in.</param>
/// <param name="Frames">Frames that had been shown as recorded.</param>
internal sealed record KillExpected(string Unique = "", string Take = "", int Frames = 0);

/// <summary>Looks at a studio after a kill.</summary>
internal static class KillCheck
{
    /// <param name="Closed">Takes whose page does not open, or whose samples cannot be read.</param>
    /// <param name="Twice">Entries that are there more than once.</param>
    /// <param name="Lost">Recordings that miss more than half a second.</param>
    public sealed record Found(int Closed, int Twice, int Lost, bool Sound, string Words);

    public static async Task<Found> Look(string folder, KillExpected expected, bool isDemo)
    {
        var words = new List<string>();
        var sound = Sound(Path.Combine(folder, "studio.db"), words) & Sound(Path.Combine(folder, "jobs.db"), words);
        if (isDemo && !File.ReadLines(Path.Combine(folder, "demo-steps")).Contains("whole"))
        {
            // The first demo is not done yet: the next kill of its kind goes on with it.
            return new Found(0, 0, 0, sound, string.Join("; ", words));
        }

        await using var studio = await StudioProcess.Start(folder, isDemo);
        using var http = new HttpClient { BaseAddress = new Uri(studio.Address), Timeout = TimeSpan.FromMinutes(2) };
        await AtRest(folder);
        await using var db = StudioProcess.Db(folder);
        var closed = 0;
        foreach (var take in await db.Takes.Include(t => t.Streams).AsNoTracking().ToListAsync())
        {
            var page = await http.GetAsync($"/takes/{take.Id}/label");
            var markers = take.Streams.Find(s => s.Kind == StreamKind.Markers);
            var whole =
                take.State == TakeState.Kept
                && (markers is null || new SampleStore(db).ReadMarkers(markers, take.Name).FrameCount == markers.FrameCount);
            if (page.StatusCode != HttpStatusCode.OK || !whole)
            {
                closed++;
                words.Add($"{take.Name} answers {page.StatusCode}, {take.State}");
            }
        }

        foreach (var scene in await db.Scenes.Select(s => s.Id).ToListAsync())
        {
            if ((await http.GetAsync($"/scenes/{scene}/assemble")).StatusCode != HttpStatusCode.OK)
            {
                closed++;
                words.Add($"scene {scene} does not open");
            }
        }

        foreach (var handOff in await db.HandOffs.Select(h => h.Id).ToListAsync())
        {
            if ((await http.GetAsync($"/files/handoffs/{handOff}")).StatusCode != HttpStatusCode.OK)
            {
                closed++;
                words.Add($"hand-off {handOff} has no file");
            }
        }

        var twice =
            expected.Unique.Length == 0 ? 0 : Math.Max(0, await db.Entries.CountAsync(e => e.Parameters.Contains(expected.Unique)) - 1);
        var lost = 0;
        if (expected.Frames > 0)
        {
            var kept = await db.Takes.Where(t => t.Name == expected.Take).Select(t => t.FrameCount).SingleOrDefaultAsync();
            lost = (expected.Frames - kept) / 120.0 > 0.5 ? 1 : 0;
            if (lost > 0)
            {
                words.Add($"{expected.Take}: {kept} of {expected.Frames} frames");
            }
        }

        return new Found(closed, twice, lost, sound, string.Join("; ", words));
    }

    /// <summary>Waits until jobs that the kill cut off have been gone on with.</summary>
    private static async Task AtRest(string folder)
    {
        for (var end = DateTime.UtcNow.AddMinutes(3); DateTime.UtcNow < end; await Task.Delay(200))
        {
            await using var db = StudioProcess.Db(folder);
            if (!await db.Jobs.AnyAsync(j => j.State == JobState.Waiting || j.State == JobState.Running))
            {
                return;
            }
        }

        throw new InvalidOperationException("jobs do not end");
    }

    private static bool Sound(string path, List<string> words)
    {
        if (!File.Exists(path) || new FileInfo(path).Length == 0)
        {
            return true;
        }

        using var connection = new SqliteConnection($"Data Source={path};Pooling=False");
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = "PRAGMA integrity_check";
        var said = command.ExecuteScalar() as string;
        if (said != "ok")
        {
            words.Add($"{Path.GetFileName(path)}: {said}");
        }

        return said == "ok";
    }
}
