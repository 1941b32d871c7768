using System.Net;
using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Storage;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests;

/// <summary>The edges of the studio: jobs that are fair and are not begun for ever, names, parameters and methods that are none.</summary>
public sealed class StudioEdgeTests(DemoStudio studio) : IClassFixture<DemoStudio>
{
    private EidolonDb Db() => studio.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();

    private int Take(string name)
    {
        using var db = Db();
        return db.Takes.Single(t => t.Name == name).Id;
    }

    [Fact]
    public async Task A_hundred_jobs_of_one_take_do_not_hold_up_another_takes()
    {
        using var scope = studio.Services.CreateScope();
        var queue = scope.ServiceProvider.GetRequiredService<JobQueue>();
        var (many, one) = (Take("HL_030_gangplank-hop_01"), Take("HL_051_quay-run_01"));
        for (var k = 0; k < 100; k++)
        {
            await queue.Operation(LedgerOwner.Take(many), "many", "hide", Hidden(k), null);
        }

        await using var db = Db();
        // One of the line is with the engine, ninety-nine wait in their rows.
        Assert.InRange(await db.Jobs.CountAsync(j => j.TakeId == many && j.Starts > 0 && j.State != JobState.Done), 0, 1);
        var job = await queue.Operation(LedgerOwner.Take(one), "one", "hide", Hidden(3), null);
        await Asking.Until(() => db.Jobs.AsNoTracking().Any(j => j.Id == job.Id && j.State == JobState.Done));
        var row = await db.Jobs.AsNoTracking().SingleAsync(j => j.Id == job.Id);
        var begunBefore = await db.Jobs.CountAsync(j => j.TakeId == many && j.StartedUtc > row.CreatedUtc && j.StartedUtc < row.StartedUtc);
        Assert.InRange(begunBefore, 0, 1);
        // A job that waits is stopped at once, and the line goes on without it.
        var last = await db.Jobs.AsNoTracking().Where(j => j.TakeId == many).OrderByDescending(j => j.Id).FirstAsync();
        scope.ServiceProvider.GetRequiredService<JobBook>().Stop(last.Id);
        Assert.Equal(JobState.Stopped, (await db.Jobs.AsNoTracking().SingleAsync(j => j.Id == last.Id)).State);
        await Asking.Until(() => db.Jobs.AsNoTracking().Count(j => j.TakeId == many && j.State == JobState.Done) == 99);
    }

    private static JsonObject Hidden(int frame) =>
        new()
        {
            ["marker"] = "Crown",
            ["from"] = frame,
            ["to"] = frame,
        };

    [Fact]
    public async Task A_job_that_took_the_studio_down_twice_is_shown_as_failed()
    {
        await using var db = Db();
        var job = new JobRow
        {
            Title = "falls",
            Kind = JobKinds.BringUp,
            TakeId = Take("HL_052_corner-run_01"),
            State = JobState.Running,
            Starts = 2,
        };
        db.Jobs.Add(job);
        await db.SaveChangesAsync();
        using var scope = studio.Services.CreateScope();
        await scope.ServiceProvider.GetRequiredService<JobQueue>().Recover(default);
        await Asking.Until(() => db.Jobs.AsNoTracking().Any(j => j.Id == job.Id && j.State == JobState.Failed));
        Assert.Contains("begun twice", (await db.Jobs.AsNoTracking().SingleAsync(j => j.Id == job.Id)).Message, StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_was_to_follow_a_change_follows_at_the_next_start()
    {
        var take = Take("HL_053_steps-down_01");
        var owner = LedgerOwner.Take(take);
        studio.Services.GetRequiredService<LedgerBook>().Keep(owner, new AddEntries("hide", Hidden(5)));
        await using var db = Db();
        Assert.True(await db.Outbox.AnyAsync(o => o.Key == owner.Key));
        await db.Takes.Where(t => t.Id == take).ExecuteUpdateAsync(s => s.SetProperty(t => t.StaleSeconds, 0));
        // As after a stop between the change and what follows it.
        using var scope = studio.Services.CreateScope();
        await scope.ServiceProvider.GetRequiredService<FollowUps>().CatchUp(default);
        Assert.False(await db.Outbox.AnyAsync(o => o.Key == owner.Key));
        Assert.True(await db.Takes.Where(t => t.Id == take).Select(t => t.StaleSeconds).SingleAsync() > 0);
    }

    [Theory]
    [InlineData("HL_033 wave (final).c3d", "HL_033-wave-final")]
    [InlineData("../../etc/passwd", "passwd")]
    [InlineData("", "imported")]
    [InlineData("§§.bvh", "imported")]
    [InlineData("ok_1.glb", "ok_1")]
    public void A_file_gets_a_name_that_the_slate_would_take(string file, string name)
    {
        Assert.Equal(name, SlateName.Of(file));
        SlateName.Check(name);
        SlateName.Check(SlateName.Of(new string('x', 500)));
        Assert.Throws<RefusedException>(() => SlateName.Check(file));
    }

    [Theory]
    [InlineData("{\"marker\":\"\\ud800\"}")]
    [InlineData("{\"a\":1,\"a\":2}")]
    [InlineData("{\"a\":[{\"b\":\"\\udfff\"}]}")]
    [InlineData("[]")]
    public async Task Parameters_that_cannot_be_read_are_refused(string json)
    {
        Assert.Throws<RefusedException>(() => ParameterJson.Parse(json));
        using var http = new HttpClient { BaseAddress = new Uri(studio.Address) };
        var answer = await http.GetAsync(
            $"/api/takes/{Take("HL_051_quay-run_01")}/preview?operation=fill&parameters={Uri.EscapeDataString(json)}"
        );
        Assert.Equal(HttpStatusCode.BadRequest, answer.StatusCode);
    }

    [Fact]
    public async Task A_method_that_is_none_of_a_page_is_refused()
    {
        using var http = new HttpClient { BaseAddress = new Uri(studio.Address) };
        using var trace = new HttpRequestMessage(HttpMethod.Trace, "/");
        Assert.Equal(HttpStatusCode.MethodNotAllowed, (await http.SendAsync(trace)).StatusCode);
    }
}
