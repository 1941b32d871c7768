using System.Text.Json.Nodes;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Eidolon.Storage;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Eidolon.Studio.Tests;

/// <summary>Jobs of the real studio: stopped ones keep nothing, a Recipe is kept as a whole or not at all.</summary>
[Trait(LongRun.Run, LongRun.Whole)]
public sealed class JobTests(DemoStudio studio) : IClassFixture<DemoStudio>
{
    private EidolonDb Db() => studio.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();

    private LedgerBook Book => studio.Services.GetRequiredService<LedgerBook>();

    private int Take(string name)
    {
        using var db = Db();
        return db.Takes.Single(t => t.Name == name).Id;
    }

    private async Task<JobRow> Ended(int job, Func<JobRow, bool>? when = null)
    {
        for (var end = DateTime.UtcNow.AddSeconds(Asking.PatienceSeconds); DateTime.UtcNow < end; await Task.Delay(50))
        {
            await using var db = Db();
            var row = await db.Jobs.AsNoTracking().SingleAsync(j => j.Id == job);
            if (when?.Invoke(row) ?? row.State is JobState.Done or JobState.Failed or JobState.Stopped)
            {
                return row;
            }
        }

        throw new TimeoutException("the job did not come so far");
    }

    [Fact]
    public async Task A_running_job_that_is_stopped_stops_and_keeps_nothing()
    {
        using var scope = studio.Services.CreateScope();
        var take = Take("HL_027_deck-crouch_01");
        var owner = LedgerOwner.Take(take);
        // The two who creep are the longest work the demo has.
        var job = await scope.ServiceProvider.GetRequiredService<JobQueue>().Operation(owner, "deck-crouch", "label", [], null);
        await Ended(job.Id, j => j.State == JobState.Running);
        studio.Services.GetRequiredService<JobCancels>().Stop(job.Id);
        var row = await Ended(job.Id);
        Assert.Equal(JobState.Stopped, row.State);
        Assert.DoesNotContain(Book.Read(owner).Nodes, n => n.Entries.Count > 0);
    }

    [Fact]
    public async Task The_stop_waits_until_the_last_job_let_go_and_no_longer_than_it_is_given()
    {
        var life = new Microsoft.Extensions.Hosting.Internal.ApplicationLifetime(
            Microsoft.Extensions.Logging.Abstractions.NullLogger<Microsoft.Extensions.Hosting.Internal.ApplicationLifetime>.Instance
        );
        var hand = new JobsInHand(life);
        var (one, two) = (hand.Begin(), hand.Begin());
        var stop = hand.StopAsync(CancellationToken.None);
        one.Dispose();
        one.Dispose();
        Assert.False(stop.IsCompleted);
        two.Dispose();
        await stop.WaitAsync(TimeSpan.FromSeconds(Asking.PatienceSeconds));

        var stuck = new JobsInHand(life);
        stuck.Begin();
        await stuck.StopAsync(new CancellationToken(canceled: true));
        Assert.Equal(1, stuck.Running);
    }

    [Fact]
    public async Task A_studio_that_stops_waits_for_its_jobs_and_takes_them_up_again()
    {
        var own = new DemoStudio();
        await own.InitializeAsync();
        try
        {
            // A job that is done before anybody has looked tells nothing: then the next one.
            var (job, state) = (0, JobState.Done);
            foreach (var name in new[] { "HL_021_crate-carry_01", "HL_027_deck-crouch_01", "HL_014_haul-rope_01", "HL_009_lamp-walk_03" })
            {
                int take;
                await using (var db = await Open())
                {
                    take = db.Takes.Single(t => t.Name == name).Id;
                }

                using (var scope = own.Services.CreateScope())
                {
                    var queue = scope.ServiceProvider.GetRequiredService<JobQueue>();
                    job = (await queue.Operation(LedgerOwner.Take(take), name, "label", [], null)).Id;
                }

                state = await Until(r => r.State is JobState.Running or JobState.Done);
                if (state == JobState.Running)
                {
                    break;
                }
            }

            Assert.Equal(JobState.Running, state);
            var hand = own.Services.GetRequiredService<JobsInHand>();
            Assert.True(hand.Running > 0);
            await own.App.StopAsync();
            Assert.Equal(0, hand.Running);
            await own.App.DisposeAsync();
            await own.Start();
            await Until(r => r.State == JobState.Done);

            async Task<EidolonDb> Open() => await own.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContextAsync();

            async Task<JobState> Until(Func<JobRow, bool> when)
            {
                var stands = string.Empty;
                for (var end = DateTime.UtcNow.AddSeconds(Asking.PatienceSeconds); DateTime.UtcNow < end; await Task.Delay(10))
                {
                    await using var db = await Open();
                    var row = await db.Jobs.AsNoTracking().SingleAsync(j => j.Id == job);
                    if (when(row))
                    {
                        return row.State;
                    }

                    stands = $"{row.State} {row.Message}";
                }

                throw new TimeoutException($"the job did not come so far: {stands}");
            }
        }
        finally
        {
            await own.DisposeAsync();
        }
    }

    [Fact]
    public async Task A_recipe_that_fails_in_the_middle_keeps_none_of_its_entries()
    {
        using var scope = studio.Services.CreateScope();
        await using var db = Db();
        var take = await db.Takes.SingleAsync(t => t.Name == "HL_009_lamp-walk_03");
        var recipe = new RecipeRow
        {
            ProductionId = take.ProductionId,
            Name = "Fill, then a solve that cannot be",
            Entries = Recipe.Write([
                new Entry("fill", OperationRegistry.Find("fill").Version, new JsonObject { ["longest"] = 20 }, true),
                new Entry("solve", OperationRegistry.Find("solve").Version, [], true),
            ]),
        };
        db.Recipes.Add(recipe);
        await db.SaveChangesAsync();
        var owner = LedgerOwner.Take(take.Id);
        var job = await scope.ServiceProvider.GetRequiredService<RecipeService>().Start(take, recipe, CancellationToken.None);
        var row = await Ended(job.Id);
        Assert.Equal(JobState.Failed, row.State);
        Assert.True(row.Message.Length > 20, row.Message);
        Assert.DoesNotContain(Book.Read(owner).Nodes, n => n.Entries.Count > 0);
    }

    [Fact]
    public async Task Two_jobs_on_one_take_land_one_after_the_other()
    {
        using var scope = studio.Services.CreateScope();
        var owner = LedgerOwner.Take(Take("HL_014_haul-rope_01"));
        var jobs = scope.ServiceProvider.GetRequiredService<JobQueue>();
        var all = new List<JobRow>();
        foreach (var longest in new[] { 11, 12, 13 })
        {
            all.Add(await jobs.Operation(owner, "haul-rope", "smooth", new JsonObject { ["cutoff"] = longest }, null));
        }

        foreach (var job in all)
        {
            Assert.Equal(JobState.Done, (await Ended(job.Id)).State);
        }

        var cutoffs = Book.Read(owner).Nodes.SelectMany(n => n.Entries).Select(e => (int?)e.Entry.Parameters["cutoff"]);
        Assert.Equal([11, 12, 13], cutoffs.Order());
        await using var db = Db();
        var positions = await db
            .Entries.Where(e => db.Nodes.Any(n => n.Id == e.NodeId && n.TakeId == owner.TakeId))
            .Select(e => e.Position)
            .ToListAsync();
        Assert.Equal([0, 1, 2], positions.Order());
    }

    [Fact]
    public async Task The_same_wish_sent_twice_is_one_job()
    {
        using var scope = studio.Services.CreateScope();
        var owner = LedgerOwner.Take(Take("HL_009_lamp-walk_02"));
        var jobs = scope.ServiceProvider.GetRequiredService<JobQueue>();
        var revision = Book.Read(owner).Revision;
        var first = await jobs.Operation(owner, "lamp-walk", "smooth", new JsonObject { ["cutoff"] = 9 }, null, revision);
        var second = await jobs.Operation(owner, "lamp-walk", "smooth", new JsonObject { ["cutoff"] = 9 }, null, revision);
        await Ended(first.Id);
        await Ended(second.Id);
        Assert.Single(Book.Read(owner).Nodes.SelectMany(n => n.Entries), e => e.Entry.Operation == "smooth");
    }
}
