using System.IO.Compression;
using System.Net;
using System.Text;
using System.Text.Json.Nodes;
using System.Text.RegularExpressions;
using Eidolon.Core.Assembly;
using Eidolon.Core.Characters;
using Eidolon.Core.Formats;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests;

/// <summary>What a scene's page asks for while clips are joined: good moments, and words to find clips by.</summary>
public sealed class SceneTests(DemoStudio studio) : IClassFixture<DemoStudio>, IDisposable
{
    private readonly HttpClient _http = new() { BaseAddress = new Uri(studio.Address) };

    public void Dispose() => _http.Dispose();

    private OpenScene.Track Stevedore()
    {
        using var scope = studio.Services.CreateScope();
        return scope.ServiceProvider.GetRequiredService<SceneService>().Open(1).Tracks.Single(t => t.Subject.Name == "Stevedore");
    }

    [Fact]
    public async Task Moments_lie_in_the_end_of_one_clip_and_the_beginning_of_the_next_and_what_cannot_be_asked_is_said()
    {
        var track = Stevedore();
        Assert.Equal(3, track.Clips.Count);
        var told = JsonNode.Parse(await _http.GetStringAsync($"/api/scenes/1/moments/{track.Node.Id}?clip=1"))!;
        var moments = told["moments"]!.AsArray();
        Assert.NotEmpty(moments);
        var (first, second) = (track.Clips[0], track.Clips[1]);
        foreach (var m in moments)
        {
            // More than half of either clip stays.
            Assert.InRange((int)m!["a"]!, (first.Start + first.End!.Value) / 2, first.End.Value - (int)m["frames"]!);
            Assert.InRange((int)m["b"]!, second.Start, (second.Start + second.End!.Value) / 2);
        }

        Assert.Equal(moments.Select(m => (double)m!["millimetres"]!).Order(), moments.Select(m => (double)m!["millimetres"]!));
        var none = await _http.GetAsync($"/api/scenes/1/moments/{track.Node.Id}?clip=0");
        Assert.Equal(HttpStatusCode.NotFound, none.StatusCode);
        Assert.Contains("no clip before", await none.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        var set = (JsonObject)track.SetUp!.DeepClone();
        set["clips"]![1]!["reverse"] = true;
        studio
            .Services.GetRequiredService<LedgerBook>()
            .Keep(LedgerOwner.Scene(1), new AddEntries(SceneOperations.Clips.Name, set, track.Node.Id));
        var turned = await _http.GetAsync($"/api/scenes/1/moments/{track.Node.Id}?clip=1");
        Assert.Contains("played once and forwards", await turned.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        // Left for right it has moments too, and other ones: the feet have changed.
        set["clips"]![1]!["reverse"] = false;
        set["clips"]![1]!["mirror"] = true;
        studio
            .Services.GetRequiredService<LedgerBook>()
            .Keep(LedgerOwner.Scene(1), new AddEntries(SceneOperations.Clips.Name, set, track.Node.Id));
        var mirrored = JsonNode.Parse(await _http.GetStringAsync($"/api/scenes/1/moments/{track.Node.Id}?clip=1"))!["moments"]!.AsArray();
        Assert.NotEmpty(mirrored);
        Assert.NotEqual((double)moments[0]!["millimetres"]!, (double)mirrored[0]!["millimetres"]!);
        studio.Services.GetRequiredService<LedgerBook>().Keep(LedgerOwner.Scene(1), new TakeBackEntry());
        // Taken back, the track is what it was.
        studio.Services.GetRequiredService<LedgerBook>().Keep(LedgerOwner.Scene(1), new TakeBackEntry());
        Assert.True(JsonNode.DeepEquals(track.SetUp, Stevedore().SetUp));
    }

    [Fact]
    public async Task Clips_are_found_by_what_they_do()
    {
        var nodes = Stevedore().Clips.Select(c => c.Node).ToList();
        var words = JsonNode.Parse(await _http.GetStringAsync($"/api/scenes/1/words?nodes={string.Join(',', nodes)},x"))!.AsObject();
        Assert.StartsWith("run", (string)words[$"{nodes[0]}"]!, StringComparison.Ordinal);
        Assert.Contains("turns right", (string)words[$"{nodes[1]}"]!, StringComparison.Ordinal);
        Assert.Contains("goes down", (string)words[$"{nodes[2]}"]!, StringComparison.Ordinal);
        Assert.DoesNotContain("x", words.Select(w => w.Key));
        var unknown = await _http.GetAsync("/api/scenes/1/words?nodes=99999");
        Assert.Equal(HttpStatusCode.NotFound, unknown.StatusCode);
    }

    [Fact]
    public async Task A_track_goes_out_as_a_plan_that_bakes_to_it_and_comes_in_again()
    {
        var track = Stevedore();
        using var archive = new ZipArchive(new MemoryStream(await _http.GetByteArrayAsync($"/api/scenes/1/plan/{track.Node.Id}")));
        byte[] Of(string name)
        {
            using var from = archive.GetEntry(name)!.Open();
            using var memory = new MemoryStream();
            from.CopyTo(memory);
            return memory.ToArray();
        }

        static Motion Known(Motion motion) => motion.On(motion.Skeleton.WithRoles(RoleFinder.Find(motion.Skeleton).Roles));
        var text = Of("plan.json");
        var plan = AssemblyPlanJson.Read(text, "plan.json");
        Assert.Equal(track.Clips.Count, plan.Clips.Count);
        Assert.Equal("HL_051_quay-run_01.glb", plan.Clips[0].File);
        // Baked from the files alone it is the track, but for what a file of floats loses.
        var baked = ClipJoiner.Join([
            .. plan.Clips.Select(c => new PlannedClip(
                new ClipMotion(Known(MotionFiles.ReadMotion(Of(c.File), c.File))).Range(c.Start, c.End ?? int.MaxValue),
                c.Play
            )),
        ]);
        Assert.Equal(track.Motion!.FrameCount, baked.Motion.FrameCount);
        var (here, there) = (ForwardKinematics.WorldPositions(track.Motion), ForwardKinematics.WorldPositions(baked.Motion));
        Assert.InRange(here.Zip(there, (a, b) => (a - b).Length()).Max(), 0, .002f);

        // It comes in again: nothing changed, nothing is added. With another length it is the track.
        async Task<string> Read(string json)
        {
            var page = await _http.GetStringAsync("/scenes/1/assemble");
            var token = Regex.Match(page, "name=\"antiforgery\" content=\"([^\"]+)\"").Groups[1].Value;
            var form = new MultipartFormDataContent
            {
                { new StringContent($"{track.Node.Id}"), "node" },
                { new ByteArrayContent(Encoding.UTF8.GetBytes(json)), "file", "plan.json" },
            };
            var request = new HttpRequestMessage(HttpMethod.Post, "/scenes/1/assemble?handler=Plan") { Content = form };
            request.Headers.Add("X-Antiforgery", token);
            return WebUtility.HtmlDecode(await (await _http.SendAsync(request)).Content.ReadAsStringAsync());
        }

        var said = (JsonObject)JsonNode.Parse(text)!;
        string With(Action<JsonObject> change)
        {
            var other = (JsonObject)said.DeepClone();
            change(other);
            return other.ToJsonString();
        }

        foreach (
            var (wrong, words) in new[]
            {
                (With(p => p["clips"]![1]!["file"] = "nobody.glb"), "clips[1].file"),
                (With(p => p["frameRate"] = 24), "not 24"),
                (With(p => p["layers"] = new JsonArray(new JsonObject { ["joint"] = "HandR", ["mode"] = "over" })), "layers[0].mode"),
                (With(p => p["inPlace"] = 3), "inPlace"),
                (With(p => p["clips"]![1]!["speed"] = 0), "no speed"),
                ("{", "line 1"),
            }
        )
        {
            var told = await Read(wrong);
            Assert.True(told.Contains(words, StringComparison.Ordinal), $"'{words}' is not said: {told}");
        }

        Assert.True(JsonNode.DeepEquals(track.SetUp, Stevedore().SetUp));
        await Read(With(p => p["clips"]![2]!["end"] = 400));
        await Asking.Until(() => Stevedore().Clips[2].End == 400);
        studio.Services.GetRequiredService<LedgerBook>().Keep(LedgerOwner.Scene(1), new TakeBackEntry());
        Assert.True(JsonNode.DeepEquals(track.SetUp, Stevedore().SetUp));

        // In place, with a loop and a layer: all of it is on the track, goes out again and is one change.
        await Read(
            With(p =>
            {
                p["inPlace"] = true;
                p["loop"] = new JsonObject { ["cycles"] = 2 };
                p["layers"] = new JsonArray(
                    new JsonObject { ["joint"] = "HandR", ["keys"] = new JsonArray(new JsonObject { ["frame"] = 5, ["z"] = 30 }) }
                );
            })
        );
        await Asking.Until(() => Stevedore().Layers!.Node.Entries.Count == 1);
        var rich = Stevedore();
        var pelvis = ForwardKinematics
            .WorldPositions(rich.Motion!)
            .Where((_, i) => i % rich.Motion!.Skeleton.Count == rich.Motion.Skeleton.IndexOf(BodyRole.Pelvis))
            .ToList();
        Assert.InRange(pelvis.Max(p => p.X) - pelvis.Min(p => p.X) + pelvis.Max(p => p.Z) - pelvis.Min(p => p.Z), 0, .4f);
        using var again = new ZipArchive(new MemoryStream(await _http.GetByteArrayAsync($"/api/scenes/1/plan/{track.Node.Id}")));
        using (var from = new StreamReader(again.GetEntry("plan.json")!.Open()))
        {
            var whole = (JsonObject)JsonNode.Parse(await from.ReadToEndAsync())!;
            Assert.True((bool)whole["inPlace"]!);
            Assert.Equal(2, (int)whole["loop"]!["cycles"]!);
            Assert.Equal("HandR", (string?)whole["layers"]![0]!["joint"]);
        }

        for (var k = 0; k < 3; k++)
        {
            studio.Services.GetRequiredService<LedgerBook>().Keep(LedgerOwner.Scene(1), new TakeBackEntry());
        }

        Assert.True(JsonNode.DeepEquals(track.SetUp, Stevedore().SetUp));
        var none = await _http.GetAsync("/api/scenes/1/plan/99999");
        Assert.Equal(HttpStatusCode.NotFound, none.StatusCode);
    }
}
