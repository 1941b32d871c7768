using System.Net;
using System.Net.Http.Headers;
using Eidolon.Core.Formats.C3d;
using Eidolon.StandIns.Characters;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests.Outside;

/// <summary>A new studio, begun in any order: whatever needs a production or a day has one made.</summary>
public sealed class EmptyStudioTests
{
    private sealed class Person : IAsyncDisposable
    {
        private readonly EmptyStudio _studio;
        private readonly HttpClient _http;

        private Person(EmptyStudio studio, HttpClient http) => (_studio, _http) = (studio, http);

        public static async Task<Person> Begin()
        {
            var studio = await EmptyStudio.Start();
            return new Person(studio, new HttpClient { BaseAddress = new Uri(studio.Address) });
        }

        public EidolonDb Db() => _studio.App.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();

        public async Task Post(string path, HttpContent content)
        {
            var token = await _http.Antiforgery();
            using var request = new HttpRequestMessage(HttpMethod.Post, path) { Content = content };
            request.Headers.Add("X-Antiforgery", token);
            var answer = await _http.SendAsync(request);
            Assert.True(answer.StatusCode == HttpStatusCode.OK, $"{answer.StatusCode}: {await answer.Content.ReadAsStringAsync()}");
            foreach (
                var page in new[]
                {
                    "/",
                    "/record/performers",
                    "/record/props",
                    "/record/sets",
                    "/library/characters",
                    "/library/stage",
                    "/recipes",
                }
            )
            {
                Assert.Equal(HttpStatusCode.OK, (await _http.GetAsync(page)).StatusCode);
            }
        }

        public async ValueTask DisposeAsync()
        {
            _http.Dispose();
            await _studio.DisposeAsync();
        }
    }

    private static FormUrlEncodedContent Form(params (string, string)[] fields) =>
        new(fields.Select(f => KeyValuePair.Create(f.Item1, f.Item2)));

    private static MultipartFormDataContent File(string field, string name, byte[] bytes)
    {
        var content = new ByteArrayContent(bytes);
        content.Headers.ContentType = new MediaTypeHeaderValue("application/octet-stream");
        return new MultipartFormDataContent { { content, field, name } };
    }

    private static byte[] Markers()
    {
        using var stream = new MemoryStream();
        C3dWriter.Write(stream, new C3dDocument(MarkerSimulator.Labelled(SceneCatalog.Perform("gangplank-hop", HarbourCast.Tobi, 1))));
        return stream.ToArray();
    }

    /// <summary>What may be done first, and how it is seen to be done.</summary>
    public static TheoryData<string> First => new("performer", "character", "prop", "set", "take", "scene", "day");

    [Theory]
    [MemberData(nameof(First))]
    public async Task Anything_may_come_first(string what)
    {
        await using var person = await Person.Begin();
        await (
            what switch
            {
                "performer" => person.Post("/record/performers?handler=Add", Form(("name", "Ines"), ("height", "1.7"), ("arms", "1"))),
                "character" => person.Post("/library/characters", File("file", "Stevedore.glb", HarbourCharacters.Build("Stevedore"))),
                "prop" => person.Post(
                    "/record/props?handler=Make",
                    new StringContent(
                        "{\"name\":\"Lantern\",\"places\":[[0,0,0],[0.1,0,0],[0,0.2,0],[0,0,0.3]]}",
                        System.Text.Encoding.UTF8,
                        "application/json"
                    )
                ),
                "set" => person.Post("/record/sets?handler=New", Form(("name", "Few"))),
                "take" => person.Post("/?handler=Bring", File("files", "HL_030.c3d", Markers())),
                "scene" => person.Post("/?handler=Scene", Form(("name", "Quay"))),
                _ => person.Post("/?handler=Day", Form(("name", "Day 1, quay"))),
            }
        );
        await using var db = person.Db();
        Assert.Equal(Productions.Unnamed, (await db.Productions.SingleAsync()).Name);
        var made = what switch
        {
            "performer" => await db.Shelf.CountAsync(s => s.Kind == SubjectKind.Performer),
            "character" => await db.Shelf.CountAsync(s => s.Kind == SubjectKind.Character && s.Version == 1),
            "prop" => await db.Shelf.CountAsync(s => s.Kind == SubjectKind.Prop),
            "set" => await db.MarkerSets.CountAsync(),
            "take" => await db.Takes.CountAsync(t => t.Name == "HL_030" && t.FrameCount > 100),
            "scene" => await db.Scenes.CountAsync(),
            _ => await db.Days.CountAsync(),
        };
        Assert.Equal(1, made);
    }
}
