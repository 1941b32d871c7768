using System.Globalization;
using System.Net.Http.Headers;
using System.Text.RegularExpressions;
using Eidolon.Core.Formats.C3d;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Bench.Kills;

/// <summary>Something the studio is killed in.</summary>
/// <param name="Kill">Begins it and kills the studio at a random moment; returns the folder and what must hold there.</param>
internal sealed record KillKind(string Name, Func<int, Task<(string Folder, KillExpected Expected)>> Kill);

/// <summary>Everything a studio does that a kill can cut off.</summary>
internal static class KillKinds
{
    public static IReadOnlyList<KillKind> All(string data, string first, Random random)
    {
        using var c3d = new MemoryStream();
        C3dWriter.Write(c3d, new C3dDocument(MarkerSimulator.Labelled(SceneCatalog.Perform("lamp-walk", HarbourCast.Ines, 1))));
        var file = c3d.ToArray();
        return
        [
            new("start", async _ => await Begun(data, false, random, 3)),
            new("first demo", async _ => await FirstDemo(first, random)),
            new("recording", k => Recording(data, k, random)),
            new("job", k => Posting(data, random, 4, k, Job)),
            new("import", k => Posting(data, random, 4, k, (http, token, id, _) => Import(http, token, id, file))),
            new("export", k => Posting(data, random, 3, k, Export)),
            new("edit", k => Posting(data, random, 1.5, k, Edits, NameOf)),
        ];
    }

    private static async Task<(string, KillExpected)> Begun(string folder, bool demo, Random random, double longest)
    {
        using var process = StudioProcess.Launch(folder, demo);
        await Task.Delay(TimeSpan.FromSeconds(longest * random.NextDouble()));
        process.Kill(entireProcessTree: true);
        await process.WaitForExitAsync();
        return (folder, new KillExpected());
    }

    /// <summary>A demo that is whole is thrown away and begun anew.</summary>
    private static async Task<(string, KillExpected)> FirstDemo(string folder, Random random)
    {
        var steps = Path.Combine(folder, "demo-steps");
        if (File.Exists(steps) && File.ReadLines(steps).Contains("whole"))
        {
            Directory.Delete(folder, recursive: true);
        }

        var before = File.Exists(steps) ? File.ReadLines(steps).Count() : 0;
        await Begun(folder, true, random, 25);
        if (!File.Exists(steps) || File.ReadLines(steps).Count() <= before + 1)
        {
            // Too early to have done a step: the demo shall get somewhere as well.
            await Begun(folder, true, random, 40);
        }

        if (!File.Exists(steps))
        {
            await (await StudioProcess.Start(folder, demo: true)).DisposeAsync();
        }

        return (folder, new KillExpected());
    }

    private static async Task<(string, KillExpected)> Recording(string data, int k, Random random)
    {
        await using var studio = await StudioProcess.Start(data);
        await studio.Open(data, "Ines", "Tobi");
        await studio.Play("crate-carry");
        var name = $"HL_099_kill-{Environment.ProcessId}";
        string refused;
        do
        {
            await Task.Delay(500);
            refused = await studio.Record(name, k + 1);
        } while (refused.Length > 0);

        await Task.Delay(TimeSpan.FromSeconds(3.5 + (3 * random.NextDouble())));
        var shown = (await studio.Status()).GetProperty("Frames").GetInt32();
        studio.Kill();
        return (data, new KillExpected(Take: $"{name}_{k + 1:00}", Frames: shown));
    }

    /// <summary>Something that pages ask for; the studio is killed while it is at it.</summary>
    private static async Task<(string, KillExpected)> Posting(
        string data,
        Random random,
        double longest,
        int k,
        Func<HttpClient, string, int, string, Task> work,
        Func<string, string>? mark = null
    )
    {
        await using var studio = await StudioProcess.Start(data);
        int take;
        await using (var db = StudioProcess.Db(data))
        {
            take = await db.Takes.Where(t => t.Name == "HL_009_lamp-walk_02").Select(t => t.Id).SingleAsync();
        }

        using var http = new HttpClient { BaseAddress = new Uri(studio.Address) };
        var token = Regex.Match(await http.GetStringAsync("/keys"), "name=\"antiforgery\" content=\"([^\"]+)\"").Groups[1].Value;
        http.DefaultRequestHeaders.Add("X-Antiforgery", token);
        var unique = string.Create(CultureInfo.InvariantCulture, $"{4 + (k * 0.001):0.000}01");
        var busy = Ended(work(http, token, take, unique));
        await Task.Delay(TimeSpan.FromSeconds(longest * random.NextDouble()));
        studio.Kill();
        await busy;
        return (data, new KillExpected(mark?.Invoke(unique) ?? unique));
    }

    /// <summary>Whatever the kill did to the request is no matter.</summary>
    private static async Task Ended(Task work)
    {
        try
        {
            await work;
        }
        catch (Exception e) when (e is HttpRequestException or TaskCanceledException or IOException)
        {
            // The studio is gone.
        }
    }

    private static Task<HttpResponseMessage> Post(HttpClient http, string address, params (string, string)[] fields) =>
        http.PostAsync(address, new FormUrlEncodedContent(fields.Select(f => KeyValuePair.Create(f.Item1, f.Item2))));

    private static async Task Job(HttpClient http, string token, int take, string unique) =>
        (
            await Post(
                http,
                $"/takes/{take}/clean?handler=Run",
                ("operation", "smooth"),
                ("parameters", $"{{\"method\":\"butterworth\",\"cutoff\":{unique}}}")
            )
        ).EnsureSuccessStatusCode();

    private static async Task Import(HttpClient http, string token, int take, byte[] file)
    {
        for (var n = 0; n < 50; n++)
        {
            using var form = new MultipartFormDataContent { { new StringContent("1"), "day" } };
            var bytes = new ByteArrayContent(file);
            bytes.Headers.ContentType = new MediaTypeHeaderValue("application/octet-stream");
            form.Add(bytes, "files", $"HL_077_import-{n}.c3d");
            await http.PostAsync("/?handler=Bring", form);
        }
    }

    private static async Task Export(HttpClient http, string token, int take, string unique)
    {
        var page = await http.GetAsync("/");
        var scene = Regex.Match(await page.Content.ReadAsStringAsync(), "/scenes/(\\d+)/assemble").Groups[1].Value;
        for (var n = 0; n < 50; n++)
        {
            await Post(http, $"/scenes/{scene}/export?handler=HandOff", ("Format", n % 2 == 0 ? "glb" : "bvh"), ("Rate", "30"));
        }
    }

    private static string NameOf(string unique) => "Z" + unique.Replace(".", string.Empty, StringComparison.Ordinal);

    private static async Task Edits(HttpClient http, string token, int take, string unique)
    {
        var name = NameOf(unique);
        for (var n = 0; n < 200; n++)
        {
            await Post(http, $"/takes/{take}/label?handler=Name", ("dot", "Dot_001"), ("name", $"{name}n{n}"));
            await Post(http, $"/takes/{take}/label?handler=TakeBack");
            await Post(http, $"/takes/{take}/label?handler=Again");
        }
    }
}
