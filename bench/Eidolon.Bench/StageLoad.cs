using System.Diagnostics;
using System.Globalization;
using System.Text.Json;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Storage.Samples;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Bench;

/// <summary>The live stage under load for minutes, and recordings cut off by real kills.</summary>
internal static class StageLoad
{
    /// <summary>Two performers and a crate for some minutes: how late frames are, how many are left out, how much of a core it takes.</summary>
    public static async Task Live(string data, double minutes)
    {
        await using var studio = await StudioProcess.Start(data);
        await studio.Open(data, "Ines", "Tobi");
        await studio.Play("crate-carry");
        // The first half minute is the runtime compiling and the bodies being found.
        await Task.Delay(TimeSpan.FromSeconds(45));
        var begin = await studio.Status();
        studio.Studio.Refresh();
        var (cpu, clock, pushed) = (studio.Studio.TotalProcessorTime, Stopwatch.StartNew(), studio.Pushed);
        var worst99 = 0.0;
        var (quiet, quietWithin, readings) = (0, 0, 0);
        var machine = MachineLoad.Now();
        while (clock.Elapsed.TotalMinutes < minutes)
        {
            await Task.Delay(TimeSpan.FromSeconds(10));
            var s = await studio.Status();
            var most = s.GetProperty("BehindMost").GetDouble();
            worst99 = Math.Max(worst99, most);
            var next = MachineLoad.Now();
            var taken = next.TakenSince(machine);
            machine = next;
            readings++;
            quiet += taken < 0.02 ? 1 : 0;
            quietWithin += taken < 0.02 && most <= 1000.0 / 120 ? 1 : 0;
            var bodies = s.GetProperty("View")
                .GetProperty("Bodies")
                .EnumerateArray()
                .Select(b => $"{b.GetProperty("Name").GetString()} {b.GetProperty("Seen").GetInt32()}/{b.GetProperty("Of").GetInt32()}");
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{clock.Elapsed.TotalMinutes, 5:0.0} min  half {s.GetProperty("BehindMilliseconds").GetDouble():0.0} ms  99 of 100 {s.GetProperty("BehindMost").GetDouble():0.0} ms  left out {s.GetProperty("LeftOut").GetInt64()}  lost {Ring(s).GetProperty("Lost").GetInt64()}  {string.Join(", ", bodies)}  machine taken away {taken:P0}"
                )
            );
        }

        Console.WriteLine(
            $"{quietWithin} of {quiet} readings within a frame while the machine was ours (less than 2 % taken away by its other guests), {readings} readings in all"
        );

        studio.Studio.Refresh();
        var end = await studio.Status();
        var cores = (studio.Studio.TotalProcessorTime - cpu).TotalSeconds / clock.Elapsed.TotalSeconds;
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"live stage, {minutes:0.#} minutes: worst 99 of 100 in any half minute {worst99:0.0} ms, {end.GetProperty("LeftOut").GetInt64() - begin.GetProperty("LeftOut").GetInt64()} frames left out, {Ring(end).GetProperty("Lost").GetInt64() - Ring(begin).GetProperty("Lost").GetInt64()} packets lost, {(studio.Pushed - pushed) / clock.Elapsed.TotalSeconds:0.0} frames/s pushed, {cores:0.00} cores"
            )
        );
    }

    private static JsonElement Ring(JsonElement status) => status.GetProperty("Devices").EnumerateArray().First();

    /// <summary>Kills the studio at random moments of a recording and looks at what is left.</summary>
    public static async Task Kills(string data, int kills)
    {
        var random = new Random(17);
        var whole = 0;
        var most = 0.0;
        for (var k = 1; k <= kills; k++)
        {
            var shown = 0;
            await using (var studio = await StudioProcess.Start(data))
            {
                await studio.Open(data, "Ines", "Tobi");
                await studio.Play("crate-carry");
                string refused;
                do
                {
                    await Task.Delay(500);
                    refused = await studio.Record($"HL_099_kill-{Environment.ProcessId}", k);
                } while (refused.Length > 0);

                await Task.Delay(TimeSpan.FromSeconds(3.5 + (3 * random.NextDouble())));
                shown = (await studio.Status()).GetProperty("Frames").GetInt32();
                studio.Kill();
            }

            await using var db = StudioProcess.Db(data);
            await RecordingRecovery.Run(db);
            var take = await db
                .Takes.Include(t => t.Streams)
                .SingleOrDefaultAsync(t => t.Name == $"HL_099_kill-{Environment.ProcessId}_{k:00}");
            var missing = (shown - (take?.FrameCount ?? 0)) / 120.0;
            var sound =
                take is { State: TakeState.Kept, Shortened.Length: > 0 }
                && new SampleStore(db).ReadMarkers(take.Streams.Single(x => x.Kind == StreamKind.Markers), take.Name).FrameCount
                    == take.FrameCount
                && new SampleStore(db).ReadCentroids(take.Streams.Single(x => x.Kind == StreamKind.Centroids), 12, take.Name).FrameCount
                    == take.FrameCount;
            whole += sound && missing <= 0.5 ? 1 : 0;
            most = Math.Max(most, missing);
            Console.WriteLine(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"kill {k}: {shown} frames shown, {take?.FrameCount ?? 0} kept, {missing:0.00} s missing, {(sound ? "whole" : "NOT whole")}"
                )
            );
        }

        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{whole} of {kills} takes whole, at most {most:0.00} s missing"));
    }
}
