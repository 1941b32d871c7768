using System.Net;
using System.Numerics;
using Eidolon.Core.Formats.Gltf;
using Eidolon.StandIns.Characters;
using Eidolon.Storage;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Library;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests;

/// <summary>A prop's model is exchanged, goes along with the pivot and is taken off; takes it was found in stay as they are.</summary>
public sealed class PropModelPageTests(DemoStudio studio) : IClassFixture<DemoStudio>, IDisposable
{
    private readonly HttpClient _http = new() { BaseAddress = new Uri(studio.Address) };

    public void Dispose() => _http.Dispose();

    private EidolonDb Db() => studio.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();

    private async Task<string> Post(string handler, HttpContent content)
    {
        var request = new HttpRequestMessage(HttpMethod.Post, $"/record/props?handler={handler}") { Content = content };
        request.Headers.Add("X-Antiforgery", await _http.Antiforgery());
        return WebUtility.HtmlDecode(await (await _http.SendAsync(request)).Content.ReadAsStringAsync());
    }

    private Task<string> Model(int prop, byte[]? file, string unit = "m", string lies = "", bool off = false)
    {
        var form = new MultipartFormDataContent
        {
            { new StringContent($"{prop}"), "id" },
            { new StringContent(unit), "unit" },
            { new StringContent(lies), "lies" },
        };
        if (off)
        {
            form.Add(new StringContent("true"), "off");
        }

        if (file is not null)
        {
            form.Add(new ByteArrayContent(file), "file", "barrel.glb");
        }

        return Post("Model", form);
    }

    [Fact]
    public async Task A_model_is_exchanged_moved_with_the_pivot_and_taken_off()
    {
        await using var db = Db();
        var library = studio.Services.GetRequiredService<SubjectLibrary>();
        var pole = await db.Subjects.SingleAsync(s => s.Name == "Lantern pole" && s.Kind == SubjectKind.Prop);
        var take = await db.Takes.SingleAsync(t => t.Name == "HL_009_lamp-walk_01");
        SubjectVersion Now() => SubjectLibrary.Current(Db(), pole.Id).Version!;
        async Task<(Vector3 Low, Vector3 High)> Box()
        {
            var glb = await _http.GetByteArrayAsync($"/files/subjects/{pole.Id}/{Now().Number}.glb");
            var places = GltfBareModel.Open(glb, "pole.glb").Mesh.Positions;
            return (places.Aggregate(Vector3.Min), places.Aggregate(Vector3.Max));
        }

        OpenTake Open()
        {
            using var scope = studio.Services.CreateScope();
            return scope.ServiceProvider.GetRequiredService<TakeService>().Open(take.Id);
        }

        var (was, first) = (Open().State, Now());
        Assert.Contains("Choose a GLB", await Model(pole.Id, null), StringComparison.Ordinal);
        Assert.Contains("has a rig", await Model(pole.Id, HarbourCharacters.Build("Stevedore")), StringComparison.Ordinal);
        Assert.Contains("barrel.glb", await Model(pole.Id, [1, 2, 3]), StringComparison.Ordinal);
        Assert.Equal(first.Number, Now().Number);

        // Another model: another version with the same markers, and no take is out of date.
        await Model(pole.Id, HarbourPropModels.Build("Crate")!, "", "middle");
        Assert.Equal((first.Number + 1, first.Body, first.Tie), (Now().Number, Now().Body, Now().Tie));
        Assert.Contains("seen as barrel.glb", Now().Why, StringComparison.Ordinal);
        Assert.Equal(was, Open().State);
        Assert.Empty(Open().OutOfDate);
        var (low, high) = await Box();
        var reach = 0f;
        foreach (var axis in new[] { Vector3.UnitX, Vector3.UnitY, Vector3.UnitZ })
        {
            reach = Math.Max(reach, Vector3.Dot(high - low, axis));
        }

        Assert.InRange(reach, 0.5f, 2.5f);

        // The pivot goes 100 mm up: in its frame everything is 100 mm lower.
        await Post(
            "Pivot",
            new FormUrlEncodedContent(
                new Dictionary<string, string>
                {
                    ["id"] = $"{pole.Id}",
                    ["x"] = "0",
                    ["y"] = "100",
                    ["z"] = "0",
                    ["rx"] = "0",
                    ["ry"] = "0",
                    ["rz"] = "0",
                    ["tie"] = "model",
                }
            )
        );
        Assert.Equal("pivot moved", Now().Why);
        Assert.True(Vector3.Distance(low - new Vector3(0, .1f, 0), (await Box()).Low) < 1e-4f);
        // Now the take stands otherwise: the prop's own frame is what its places tell.
        Assert.NotEmpty(Open().OutOfDate);

        // Where places were recorded as they happened, they are told of the frame it has now: the same thing in the same place of the room.
        var crate = await db.Subjects.SingleAsync(s => s.Name == "Crate" && s.Kind == SubjectKind.Prop);
        var ring = await db.Takes.SingleAsync(t => t.Name == "HL_021_crate-carry_01");
        Core.Markers.PropPlaces Recorded()
        {
            using var scope = studio.Services.CreateScope();
            return scope.ServiceProvider.GetRequiredService<TakeService>().Open(ring.Id).Props.Single().Places!;
        }

        var before = Recorded();
        var turn = Quaternion.CreateFromAxisAngle(Vector3.UnitY, .5f);
        await library.Pivot(crate.Id, new Vector3(.1f, .2f, 0), turn, "model");
        var after = Recorded();
        for (var f = 0; f < before.FrameCount; f += 7)
        {
            var moved = before.Positions[f] + Vector3.Transform(new Vector3(.1f, .2f, 0), before.Turns[f]);
            Assert.True(!float.IsFinite(moved.X) || Vector3.Distance(moved, after.Positions[f]) < 1e-4f, $"frame {f}");
            Assert.True(!float.IsFinite(moved.X) || Core.Geometry.Rotations.Angle(before.Turns[f] * turn, after.Turns[f]) < 1e-3f);
        }

        // Put back, it is what it was.
        await library.Pivot(
            crate.Id,
            Vector3.Transform(new Vector3(-.1f, -.2f, 0), Quaternion.Conjugate(turn)),
            Quaternion.Conjugate(turn),
            "model"
        );
        Assert.True(Vector3.Distance(before.Positions[200], Recorded().Positions[200]) < 1e-4f);

        await Model(pole.Id, null, off: true);
        Assert.Null(Now().BlobId);
        Assert.Equal("model taken off", Now().Why);
        Assert.Contains("Give it a model", await _http.GetStringAsync($"/record/props?prop={pole.Id}"), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_mesh_of_a_character_is_left_out_and_taken_in_again()
    {
        await using var db = Db();
        var library = studio.Services.GetRequiredService<SubjectLibrary>();
        var id = (await library.Add(db.Productions.OrderBy(p => p.Id).First().Id, SubjectKind.Character, "Bareheaded")).Id;
        await library.Dress(id, HarbourCharacters.Build("Lamplighter"), "Lamplighter.glb");
        var page = $"/library/characters/{id}";
        async Task<string> Mesh(string mesh, bool on)
        {
            var request = new HttpRequestMessage(HttpMethod.Post, $"{page}?handler=Mesh")
            {
                Content = new FormUrlEncodedContent(new Dictionary<string, string> { ["mesh"] = mesh, ["on"] = on ? "true" : "false" }),
            };
            request.Headers.Add("X-Antiforgery", await _http.Antiforgery());
            var answer = await _http.SendAsync(request);
            var toast = answer.Headers.TryGetValues("HX-Trigger", out var said) ? said.First() : string.Empty;
            return toast + WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync());
        }

        var names = library.Prepare(id)!.File.Meshes;
        Assert.Equal(2, names.Count);
        Assert.Contains("2 of 2", await _http.GetStringAsync(page), StringComparison.Ordinal);
        Assert.Contains("1 of 2", await Mesh(names[1], false), StringComparison.Ordinal);
        var shown = GltfCharacter.Open(await _http.GetByteArrayAsync($"/api/characters/{id}/figure.glb"), "figure.glb");
        Assert.Equal([names[0]], shown.Meshes);
        Assert.Contains("at least must stay", await Mesh(names[0], false), StringComparison.OrdinalIgnoreCase);
        Assert.Contains("no mesh", await Mesh("Wings", false), StringComparison.Ordinal);
        var kept = await library.Accept(id);
        Assert.Contains("1 mesh left out", kept.Why, StringComparison.Ordinal);
        Assert.Equal([names[0]], library.Prepare(id)!.File.Meshes);
    }
}
