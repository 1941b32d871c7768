using System.Net;
using System.Net.Http.Headers;
using System.Net.Sockets;
using System.Text;
using System.Text.RegularExpressions;
using Eidolon.Storage;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Storage.Samples;
using Eidolon.Studio.Live;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests;

public sealed class PageTests(DemoStudio studio) : IClassFixture<DemoStudio>
{
    private readonly HttpClient _http = new(new HttpClientHandler { AllowAutoRedirect = false }) { BaseAddress = new Uri(studio.Address) };

    private EidolonDb Db() => studio.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();

    private int Take(string name)
    {
        using var db = Db();
        return db.Takes.Single(t => t.Name == name).Id;
    }

    private async Task<string> Token(string page) =>
        Regex.Match(await _http.GetStringAsync(page), "name=\"antiforgery\" content=\"([^\"]+)\"").Groups[1].Value;

    [Theory]
    [InlineData("/")]
    [InlineData("/?Sort=worst")]
    [InlineData("/?Find=rope")]
    [InlineData("/keys")]
    [InlineData("/record")]
    [InlineData("/healthz")]
    public async Task Pages_answer_under_a_strict_policy(string path)
    {
        var response = await _http.GetAsync(path);
        Assert.Equal(HttpStatusCode.OK, response.StatusCode);
        var policy = string.Join(';', response.Headers.GetValues("Content-Security-Policy"));
        Assert.Contains("default-src 'none'", policy, StringComparison.Ordinal);
        Assert.DoesNotContain("unsafe", policy, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("HL_009_lamp-walk_01")]
    [InlineData("HL_009_lamp-walk_03")]
    [InlineData("HL_014_haul-rope_03")]
    [InlineData("HL_030_gangplank-hop_02")]
    [InlineData("HL_001_rom_01")]
    public async Task Every_step_of_takes_at_every_stage_has_a_page(string take)
    {
        foreach (var step in Services.StepThread.Names.Skip(1))
        {
            var address = $"/takes/{Take(take)}/{step.ToLowerInvariant()}";
            var response = await _http.GetAsync(address);
            if (response.StatusCode == HttpStatusCode.Redirect)
            {
                // The last three Steps belong to the scene of the take; opened twice it is the same one.
                address = response.Headers.Location!.OriginalString;
                Assert.Equal(
                    address,
                    (await _http.GetAsync($"/takes/{Take(take)}/{step.ToLowerInvariant()}")).Headers.Location!.OriginalString
                );
                response = await _http.GetAsync(address);
            }

            Assert.Equal(HttpStatusCode.OK, response.StatusCode);
            var html = await response.Content.ReadAsStringAsync();
            Assert.Contains(take, html, StringComparison.Ordinal);
            // What the policy would block must not be there in the first place.
            Assert.DoesNotMatch("<[^>]+\\sstyle=", html);
            Assert.DoesNotMatch("<[^>]+\\son(click|load|input)=", html);
            var owner = address[..address.LastIndexOf('/')];
            Assert.Equal(HttpStatusCode.OK, (await _http.GetAsync($"/api{owner}/scene?step={step.ToLowerInvariant()}")).StatusCode);
        }
    }

    [Theory]
    [InlineData("/takes/9999/label")]
    [InlineData("/takes/1/dance")]
    [InlineData("/files/subjects/999/1.glb")]
    [InlineData("/scenes/999/assemble")]
    [InlineData("/scenes/1/label")]
    [InlineData("/api/takes/9999/scene")]
    public async Task What_is_not_there_is_said(string path) =>
        Assert.Equal(HttpStatusCode.NotFound, (await _http.GetAsync(path)).StatusCode);

    [Fact]
    public async Task A_change_without_the_antiforgery_token_is_refused()
    {
        var response = await _http.PostAsync($"/takes/{Take("HL_009_lamp-walk_01")}/label?handler=TakeBack", new FormUrlEncodedContent([]));
        Assert.Equal(HttpStatusCode.BadRequest, response.StatusCode);
    }

    [Theory]
    [InlineData("tall", "Height: “tall” cannot be used.")]
    [InlineData("NaN", "Height is no number.")]
    [InlineData("7", "The height must be 0.9 to 2.4 m.")]
    public async Task A_field_that_cannot_be_used_is_named_in_the_studios_own_words(string height, string said)
    {
        var request = new HttpRequestMessage(HttpMethod.Post, "/record/performers?handler=Add")
        {
            Content = new FormUrlEncodedContent([new("Name", "Marit"), new("Height", height)]),
        };
        request.Headers.Add("X-Antiforgery", await Token("/record/performers"));
        var html = WebUtility.HtmlDecode(await (await _http.SendAsync(request)).Content.ReadAsStringAsync());
        Assert.Contains(said, html, StringComparison.Ordinal);
        // What was typed stays to be put right.
        Assert.Contains("value=\"Marit\"", html, StringComparison.Ordinal);
        Assert.Contains($"value=\"{height}\"", html, StringComparison.Ordinal);
        await using var db = Db();
        Assert.False(await db.Subjects.AnyAsync(s => s.Name == "Marit"));
    }

    [Theory]
    [InlineData("cut.c3d", 900)]
    [InlineData("noise.csv", 0)]
    public async Task A_broken_file_gives_a_message_and_changes_nothing(string name, int length)
    {
        await using var db = Db();
        var before = await db.Takes.CountAsync();
        var chunks = await db.Chunks.CountAsync();
        using var form = new MultipartFormDataContent
        {
            { new StringContent("1"), "day" },
            { new StringContent(studio.Ids("Ines")[0].ToString()), "performers" },
        };
        var bytes = length > 0 ? new byte[length] : Encoding.UTF8.GetBytes("frame,time,A.x,A.y,A.z\n0,0,1,2,oops\n");
        var file = new ByteArrayContent(bytes);
        file.Headers.ContentType = new MediaTypeHeaderValue("application/octet-stream");
        form.Add(file, "files", name);
        var request = new HttpRequestMessage(HttpMethod.Post, "/?handler=Bring") { Content = form };
        request.Headers.Add("X-Antiforgery", await Token("/"));
        var response = await _http.SendAsync(request);
        var html = await response.Content.ReadAsStringAsync();
        Assert.Equal(HttpStatusCode.OK, response.StatusCode);
        Assert.Contains("Nothing was brought in", html, StringComparison.Ordinal);
        Assert.Contains(name, html, StringComparison.Ordinal);
        Assert.Equal((before, chunks), (await db.Takes.CountAsync(), await db.Chunks.CountAsync()));
    }

    [Fact]
    public async Task A_good_file_becomes_a_take()
    {
        using var form = new MultipartFormDataContent
        {
            { new StringContent("1"), "day" },
            { new StringContent(studio.Ids("Ines")[0].ToString()), "performers" },
        };
        form.Add(
            new ByteArrayContent(
                Encoding.UTF8.GetBytes("# points, frameRate=120, units=mm, upAxis=Y\nframe,time,A.x,A.y,A.z\n0,0,1,2,3\n1,0.0083,1,2,3\n")
            ),
            "files",
            "quay points.csv"
        );
        var request = new HttpRequestMessage(HttpMethod.Post, "/?handler=Bring") { Content = form };
        request.Headers.Add("X-Antiforgery", await Token("/"));
        Assert.Equal(HttpStatusCode.Redirect, (await _http.SendAsync(request)).StatusCode);
        await using var db = Db();
        var take = await db.Takes.SingleAsync(t => t.Name == "quay-points");
        var stream = await db.Streams.SingleAsync(x => x.TakeId == take.Id);
        Assert.Equal(0.002f, new SampleStore(db).ReadMarkers(stream, take.Name)[0, 0].Y, 6);
    }

    [Fact]
    public async Task A_job_runs_to_its_end_and_lands_in_the_ledger()
    {
        var id = Take("HL_009_lamp-walk_03");
        var request = new HttpRequestMessage(HttpMethod.Post, $"/takes/{id}/clean?handler=Run")
        {
            Content = new FormUrlEncodedContent([new("operation", "despike")]),
        };
        request.Headers.Add("X-Antiforgery", await Token($"/takes/{id}/clean"));
        var response = await _http.SendAsync(request);
        Assert.Equal(HttpStatusCode.OK, response.StatusCode);
        await Until(async db =>
            await db.Nodes.AnyAsync(n => n.TakeId == id && n.Entries.Any(e => e.Operation == "despike"))
            && await db.Jobs.AnyAsync(j => j.TakeId == id && j.State == JobState.Done)
        );
    }

    [Fact]
    public async Task A_job_that_cannot_work_says_why_and_keeps_nothing()
    {
        var id = Take("HL_014_haul-rope_01");
        var request = new HttpRequestMessage(HttpMethod.Post, $"/takes/{id}/solve?handler=Run")
        {
            Content = new FormUrlEncodedContent([new("operation", "solve")]),
        };
        request.Headers.Add("X-Antiforgery", await Token($"/takes/{id}/solve"));
        await _http.SendAsync(request);
        await Until(async db => await db.Jobs.AnyAsync(j => j.TakeId == id && j.State == JobState.Failed && j.Message.Length > 20));
        await using var after = Db();
        Assert.False(await after.Nodes.AnyAsync(n => n.TakeId == id && n.Entries.Any()));
    }

    [Fact]
    public async Task A_shoot_day_is_added_and_a_nameless_one_refused()
    {
        async Task<HttpResponseMessage> Add(string name)
        {
            var request = new HttpRequestMessage(HttpMethod.Post, "/?handler=Day")
            {
                Content = new FormUrlEncodedContent([new("name", name)]),
            };
            request.Headers.Add("X-Antiforgery", await Token("/"));
            return await _http.SendAsync(request);
        }

        var page = await (await Add(" ")).Content.ReadAsStringAsync();
        Assert.Contains("wants a name", page, StringComparison.Ordinal);
        await Add("Day 3, shed");
        await using var db = Db();
        Assert.Equal(1, await db.Days.CountAsync(d => d.Name == "Day 3, shed"));
        db.Days.Remove(await db.Days.SingleAsync(d => d.Name == "Day 3, shed"));
        await db.SaveChangesAsync();
    }

    [Theory]
    [InlineData("/record/ring", "Wave the wand")]
    [InlineData("/record/suit", "Hold the T-pose")]
    [InlineData("/record/performers", "New performer")]
    [InlineData("/record/props", "Lantern pole")]
    [InlineData("/record/sets", "Harbour 53")]
    [InlineData("/record/import", "Nothing waits")]
    public async Task Every_page_of_preparation_answers(string path, string expected) =>
        Assert.Contains(expected, await _http.GetStringAsync(path), StringComparison.Ordinal);

    [Fact]
    public async Task The_live_scene_names_cameras_coverage_and_props()
    {
        var scene = System.Text.Json.Nodes.JsonNode.Parse(await _http.GetStringAsync("/api/live/scene"))!;
        Assert.Equal(12, scene["cameras"]!.AsArray().Count);
        Assert.Equal(16 * 12, scene["cells"]!.AsArray().Count);
        Assert.Equal(3, scene["props"]!.AsArray().Count);
        var cameras = Core.Formats.Json.CameraRingJson.Read(await _http.GetByteArrayAsync("/files/cameras.json"), "cameras.json");
        Assert.Equal(12, cameras.Count);
    }

    [Fact]
    public void A_ring_take_is_reconstructed_again_as_an_entry_and_one_without_pictures_says_so()
    {
        var takes = studio.Services.CreateScope().ServiceProvider.GetRequiredService<Services.TakeService>();
        var made = takes.Propose(
            Take("HL_021_crate-carry_01"),
            new AddEntries("reconstruct", new System.Text.Json.Nodes.JsonObject { ["rays"] = 4 })
        );
        Assert.InRange((int)made.Last("reconstruct")!.Report["trajectories"]!, 105, 220);
        Assert.True(made.Marked.At(300).ToArray().Count(Core.Markers.MarkerTake.Seen) > 95);
        var e = Assert.Throws<Core.RefusedException>(() => takes.Propose(Take("HL_014_haul-rope_01"), new AddEntries("reconstruct", [])));
        Assert.Contains("no pictures", e.Message, StringComparison.Ordinal);
    }

    private async Task Until(Func<EidolonDb, Task<bool>> condition)
    {
        var end = DateTime.UtcNow.AddSeconds(Asking.PatienceSeconds);
        while (DateTime.UtcNow < end)
        {
            await using var db = Db();
            if (await condition(db))
            {
                return;
            }

            await Task.Delay(100);
        }

        Assert.Fail("the condition was not met");
    }

    [Fact]
    public async Task A_slate_is_rated_and_a_mistake_leaves_it_as_it_was()
    {
        var id = Take("HL_014_haul-rope_03");
        await using (var db = Db())
        {
            var take = await db.Takes.SingleAsync(t => t.Id == id);
            take.Devices = TakeDevice.Write([new TakeDevice("suit", "Suit", 900, 45, 11.0)]);
            await db.SaveChangesAsync();
        }

        var page = await _http.GetStringAsync($"/takes/{id}/slate");
        Assert.Contains("(4.8 %)", page, StringComparison.Ordinal);
        async Task<string> Post(string rating, string correction)
        {
            using var form = new FormUrlEncodedContent(
                new Dictionary<string, string>
                {
                    ["rating"] = rating,
                    ["note"] = "Second pull is best",
                    ["markerSet"] = string.Empty,
                    ["correction[suit]"] = correction,
                    ["__RequestVerificationToken"] = await Token($"/takes/{id}/slate"),
                }
            );
            return await (await _http.PostAsync($"/takes/{id}/slate", form)).Content.ReadAsStringAsync();
        }

        Assert.Contains("not a correction", WebUtility.HtmlDecode(await Post("4", "soon")), StringComparison.Ordinal);
        await using (var db = Db())
        {
            Assert.Equal(0, (await db.Takes.SingleAsync(t => t.Id == id)).Rating);
        }

        await Post("4", "-12.5");
        await using (var db = Db())
        {
            var take = await db.Takes.SingleAsync(t => t.Id == id);
            Assert.Equal((4, "Second pull is best", -12.5), (take.Rating, take.Note, TakeDevice.Of(take)[0].CorrectionMilliseconds));
        }
    }

    [Fact]
    public async Task A_film_camera_is_found_from_clicked_joints()
    {
        var id = Take("HL_009_lamp-walk_01");
        Core.Skeletons.Motion motion;
        await using (var db = Db())
        {
            db.Videos.Add(
                new WitnessVideo
                {
                    TakeId = id,
                    FileName = "quay.webm",
                    ContentType = "video/webm",
                    BlobId = 0,
                }
            );
            await db.SaveChangesAsync();
        }

        using (var scope = studio.Services.CreateScope())
        {
            motion = scope.ServiceProvider.GetRequiredService<Services.TakeService>().Open(id).Performers[0].Motion!;
        }

        var truth = Core
            .Optical.CameraModel.Nominal("film", 1280, 720, 1150)
            .LookingAt(new Core.Geometry.Vector3d(3, 1.4, 5), new Core.Geometry.Vector3d(0, 1, 0));
        var joints = Core.Formats.MotionFiles.JointPoints(motion);
        var clicks = new[] { 40, 200, 330 }
            .SelectMany(f => new[] { 0, 4, 8, 12, 16, 20 }.Select(j => (f, j)))
            .Select(x =>
            {
                truth.TryProject(joints[x.f, x.j], out var u, out var v);
                return new
                {
                    Name = joints.Names[x.j],
                    Frame = x.f,
                    U = u,
                    V = v,
                };
            })
            .Where(c => !double.IsNaN(c.U))
            .ToArray();
        using var request = new HttpRequestMessage(HttpMethod.Post, $"/takes/{id}/video?handler=Camera")
        {
            Content = new StringContent(
                System.Text.Json.JsonSerializer.Serialize(
                    new
                    {
                        Width = 1280,
                        Height = 720,
                        Points = clicks,
                    }
                ),
                Encoding.UTF8,
                "application/json"
            ),
        };
        request.Headers.Add("X-Antiforgery", await Token($"/takes/{id}/video"));
        var answer = System.Text.Json.Nodes.JsonNode.Parse(await (await _http.SendAsync(request)).Content.ReadAsStringAsync())!;
        Assert.True((double?)answer["camera"]?["rms"] < 0.1, answer.ToJsonString());
        Assert.Equal(1150, (double)answer["camera"]!["focal"]!, 3.0);
        Assert.Contains("\"rms\"", await _http.GetStringAsync($"/takes/{id}/video"), StringComparison.Ordinal);
    }
}
