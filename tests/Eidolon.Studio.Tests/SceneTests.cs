using System.Net;
using System.Text.Json.Nodes;
using Eidolon.Core.Operations;
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
        Assert.Contains("neither mirrored nor reversed", await turned.Content.ReadAsStringAsync(), StringComparison.Ordinal);
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
}
