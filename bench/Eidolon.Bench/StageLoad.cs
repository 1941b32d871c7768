using System.Diagnostics;
using System.Globalization;
using System.Text.Json;
using Eidolon.Storage;

namespace Eidolon.Bench;

/// <summary>The live stage under load for minutes.</summary>
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
}
