using System.Net;
using Eidolon.Storage;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests.Outside;

/// <summary>A take with damaged samples on its pages, and putting aside through them.</summary>
public sealed class DamagedTakeTests(DemoStudio studio) : IClassFixture<DemoStudio>
{
    private readonly HttpClient _http = new() { BaseAddress = new Uri(studio.Address) };

    private EidolonDb Db() => studio.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();

    private async Task<string> Post(string path, params (string, string)[] fields)
    {
        var token = await _http.Antiforgery();
        var form = fields.Append(("__RequestVerificationToken", token)).Select(f => KeyValuePair.Create(f.Item1, f.Item2));
        var response = await _http.PostAsync(path, new FormUrlEncodedContent(form));
        Assert.Equal(HttpStatusCode.OK, response.StatusCode);
        return await response.Content.ReadAsStringAsync();
    }

    [Fact]
    public async Task Every_page_opens_names_the_frames_and_offers_what_can_be_done()
    {
        int take;
        await using (var db = Db())
        {
            take = await db.Takes.Where(t => t.Name == "HL_014_haul-rope_01").Select(t => t.Id).SingleAsync();
            await db.Database.ExecuteSqlAsync(
                $"""
                UPDATE Chunks SET Data = zeroblob(length(Data)) WHERE FirstFrame = 0
                AND StreamId IN (SELECT Id FROM Streams WHERE TakeId = {take} AND Name = 'markers')
                """
            );
        }

        foreach (var step in new[] { "label", "clean", "solve", "retarget" })
        {
            var page = await _http.GetStringAsync($"/takes/{take}/{step}");
            Assert.Matches("frames 0 to \\d+ of &#x27;markers&#x27; are damaged", page);
            Assert.Contains("Go on without these frames", page, StringComparison.Ordinal);
        }

        Assert.Equal(HttpStatusCode.OK, (await _http.GetAsync($"/api/takes/{take}/scene?step=label")).StatusCode);
        var after = await Post($"/takes/{take}/label?handler=LeaveOut");
        Assert.DoesNotContain("Go on without", after, StringComparison.Ordinal);
        Assert.Contains("Damaged frames are left out: 0 to", after, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_take_is_put_aside_and_brought_back_with_one_action_each()
    {
        int take;
        await using (var db = Db())
        {
            take = await db.Takes.Where(t => t.Name == "HL_009_lamp-walk_02").Select(t => t.Id).SingleAsync();
        }

        var board = await Post("/aside?handler=Put", ("kind", "Take"), ("id", $"{take}"), ("back", "/"));
        Assert.Contains("The take HL_009_lamp-walk_02 is put aside", board, StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.NotFound, (await _http.GetAsync($"/takes/{take}/label")).StatusCode);
        Assert.Contains("HL_009_lamp-walk_02", await _http.GetStringAsync("/aside"), StringComparison.Ordinal);
        var back = await Post("/aside?handler=Bring", ("kind", "Take"), ("id", $"{take}"));
        Assert.Contains("HL_009_lamp-walk_02", back, StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.OK, (await _http.GetAsync($"/takes/{take}/label")).StatusCode);
    }

    [Fact]
    public async Task A_page_of_somebody_else_is_never_gone_to()
    {
        int recipe;
        await using (var db = Db())
        {
            var row = new Storage.Model.RecipeRow
            {
                ProductionId = 1,
                Name = "Tidy up",
                Entries = "[]",
            };
            db.Recipes.Add(row);
            await db.SaveChangesAsync();
            recipe = row.Id;
        }

        Assert.Contains(
            "<title>Board",
            await Post("/aside?handler=Put", ("kind", "Recipe"), ("id", $"{recipe}"), ("back", "http://attacker.example/")),
            StringComparison.Ordinal
        );
    }
}
