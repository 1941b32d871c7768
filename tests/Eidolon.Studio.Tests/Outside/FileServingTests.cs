using System.Net;
using System.Net.Http.Headers;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests.Outside;

/// <summary>Films and licence texts as they are served. Alone, because what the whole process takes of memory is counted.</summary>
[Collection(nameof(OnTheClock)), Trait(LongRun.Run, LongRun.Whole)]
public sealed class FileServingTests(DemoStudio studio) : IClassFixture<DemoStudio>
{
    private const long FilmBytes = 400L << 20;
    private readonly HttpClient _http = new() { BaseAddress = new Uri(studio.Address) };

    [Fact]
    public async Task A_range_of_a_film_is_read_as_a_range()
    {
        int film;
        await using (var db = studio.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext())
        {
            // A film of 400 MB, nearly all of it a hole.
            var hash = new string('f', 64);
            var folder = Path.Combine(studio.Folder, "blobs", hash[..2]);
            Directory.CreateDirectory(folder);
            await using (var file = File.Create(Path.Combine(folder, hash)))
            {
                file.SetLength(FilmBytes);
                file.Position = 123_456_789;
                file.WriteByte(42);
            }

            var blob = new Blob { Hash = hash, Length = FilmBytes };
            db.Blobs.Add(blob);
            await db.SaveChangesAsync();
            var video = new WitnessVideo
            {
                TakeId = await db.Takes.Select(t => t.Id).FirstAsync(),
                BlobId = blob.Id,
                FileName = "quay.mp4",
                ContentType = "video/mp4",
            };
            db.Videos.Add(video);
            await db.SaveChangesAsync();
            film = video.Id;
        }

        await Range(film, 0, 1);
        var before = GC.GetTotalAllocatedBytes(precise: true);
        for (var i = 0; i < 12; i++)
        {
            var bytes = await Range(film, 123_456_780 - (i * 1_000_000), 64 * 1024);
            Assert.Equal(i == 0 ? 42 : 0, bytes[9]);
        }

        var allocated = GC.GetTotalAllocatedBytes(precise: true) - before;
        Assert.True(allocated < 32 << 20, $"{allocated >> 20} MB for twelve ranges of 64 kB");
    }

    private async Task<byte[]> Range(int film, long from, int count)
    {
        using var request = new HttpRequestMessage(HttpMethod.Get, $"/api/videos/{film}");
        request.Headers.Range = new RangeHeaderValue(from, from + count - 1);
        using var answer = await _http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead);
        Assert.Equal(HttpStatusCode.PartialContent, answer.StatusCode);
        var bytes = await answer.Content.ReadAsByteArrayAsync();
        Assert.Equal(count, bytes.Length);
        return bytes;
    }

    [Fact]
    public async Task The_licences_of_everything_that_ships_are_one_click_from_the_help()
    {
        Assert.Contains("/lib/NOTICE.txt", await _http.GetStringAsync("/keys"), StringComparison.Ordinal);
        var notice = await _http.GetStringAsync("/lib/NOTICE.txt");
        foreach (var line in (await File.ReadAllLinesAsync(Versions())).Where(l => l.StartsWith("- ", StringComparison.Ordinal)))
        {
            Assert.Contains(line[2..line.LastIndexOf(' ')], notice, StringComparison.Ordinal);
        }

        Assert.Contains("SIL OPEN FONT LICENSE", notice, StringComparison.OrdinalIgnoreCase);
    }

    [Theory]
    [InlineData("5", "between 24 and 1000")]
    [InlineData("NaN", "Rate")]
    [InlineData("fast", "fast")]
    public async Task A_page_that_judges_its_own_form_says_what_is_wrong_beside_it(string rate, string said)
    {
        var token = await _http.Antiforgery();
        using var request = new HttpRequestMessage(HttpMethod.Post, "/library/stage")
        {
            Content = new FormUrlEncodedContent([
                KeyValuePair.Create("Asked.Name", "Harbour Lights"),
                KeyValuePair.Create("Asked.Rate", rate),
            ]),
        };
        request.Headers.Add("X-Antiforgery", token);
        using var answer = await _http.SendAsync(request);
        var page = await answer.Content.ReadAsStringAsync();
        Assert.Equal(HttpStatusCode.OK, answer.StatusCode);
        Assert.Contains("<title>Stage", page, StringComparison.Ordinal);
        Assert.Contains(said, page, StringComparison.Ordinal);
    }

    /// <summary>The list that tools/refresh-libs writes.</summary>
    private static string Versions()
    {
        for (var folder = new DirectoryInfo(AppContext.BaseDirectory); folder is not null; folder = folder.Parent)
        {
            var file = Path.Combine(folder.FullName, "src", "Eidolon.Studio", "wwwroot", "lib", "VERSIONS.md");
            if (File.Exists(file))
            {
                return file;
            }
        }

        throw new FileNotFoundException("VERSIONS.md");
    }
}
