using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Studio.Live;
using Eidolon.Testing;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests;

/// <summary>Who drives whom while it happens.</summary>
[Trait(LongRun.Run, LongRun.Whole)]
public sealed class LiveCharacterTests(DemoStudio studio) : IClassFixture<DemoStudio>
{
    [Fact]
    public async Task A_performer_drives_a_character_until_they_drive_another_or_nobody()
    {
        var stage = studio.Services.GetRequiredService<LiveStage>();
        var ids = studio.Ids("Ines", "Tobi", "Lamplighter", "Stevedore");
        stage.Track([ids[0], ids[1]], BodyPart.Whole);
        Assert.Empty(stage.Played);
        stage.Play(ids[0], ids[2]);
        stage.Play(ids[1], ids[3]);
        Assert.Equal([(ids[0], ids[2]), (ids[1], ids[3])], stage.Played.Select(p => (p.Performer, p.Character)));
        using var client = new HttpClient { BaseAddress = new Uri(studio.Address) };
        var scene = JsonNode.Parse(await client.GetStringAsync("/api/live/scene"))!;
        var characters = (JsonArray)scene["characters"]!;
        Assert.Equal(["Lamplighter by Ines", "Stevedore by Tobi"], characters.Select(c => $"{c!["name"]} by {c["by"]}"));
        Assert.All(characters, c => Assert.EndsWith(".glb", (string)c!["mesh"]!));
        // Whoever is not followed any more drives nobody, and goes on when they are followed again.
        stage.Track([ids[1]], BodyPart.Whole);
        Assert.Equal([(ids[1], ids[3])], stage.Played.Select(p => (p.Performer, p.Character)));
        stage.Track([ids[0], ids[1]], BodyPart.Whole);
        stage.Play(ids[0], 0);
        Assert.Equal([(ids[1], ids[3])], stage.Played.Select(p => (p.Performer, p.Character)));
        var gone = Assert.Throws<RefusedException>(() => stage.Play(ids[0], 99999));
        Assert.Contains("gone from the library", gone.Message);
        Assert.Contains("plays", await client.GetStringAsync("/record"));
    }
}
