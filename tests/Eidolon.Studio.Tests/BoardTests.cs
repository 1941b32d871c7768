using System.Data.Common;
using Eidolon.Core.Quality;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Services;
using Eidolon.Testing;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging.Abstractions;

namespace Eidolon.Studio.Tests;

/// <summary>The Board lists by the screenful without opening takes, and counts each take once.</summary>
public sealed class BoardTests(DemoStudio studio) : IClassFixture<DemoStudio>
{
    private EidolonDb Db() => studio.Services.GetRequiredService<IDbContextFactory<EidolonDb>>().CreateDbContext();

    private sealed class Hand : TimeProvider
    {
        public DateTimeOffset Now { get; set; } = DateTimeOffset.UtcNow;

        public override DateTimeOffset GetUtcNow() => Now;
    }

    [Fact]
    public void Two_takes_that_wait_are_counted_once_each_and_do_not_put_each_other_off()
    {
        using var db = Db();
        var takes = db.Takes.OrderBy(t => t.Id).Select(t => t.Id).Take(2).ToArray();
        var hand = new Hand();
        var counts = new BoardCounts(
            studio.Services.GetRequiredService<IServiceScopeFactory>(),
            hand,
            studio.Services.GetRequiredService<Faults>(),
            NullLogger<BoardCounts>.Instance
        );
        counts.Later(takes[0]);
        hand.Now += TimeSpan.FromSeconds(3);
        counts.Later(takes[1]);
        // A change puts a count off: nothing is due yet.
        counts.Later(takes[0]);
        Assert.Equal(0, counts.Turn());
        hand.Now += TimeSpan.FromSeconds(6);
        Assert.Equal(2, counts.Turn());
        for (var n = 0; n < 20; n++)
        {
            hand.Now += TimeSpan.FromSeconds(1);
            Assert.Equal(0, counts.Turn());
        }

        Assert.Equal(0, counts.Waiting);
    }

    [Fact]
    public void A_finding_that_is_let_be_is_not_counted_and_counts_again_when_it_is_regarded()
    {
        using var scope = studio.Services.CreateScope();
        var takes = scope.ServiceProvider.GetRequiredService<TakeService>();
        var notes = scope.ServiceProvider.GetRequiredService<StateNotes>();
        using var db = Db();
        var take = db.Takes.Single(t => t.Name == "HL_014_haul-rope_03").Id;
        int Look()
        {
            takes.Count(take);
            return db.Takes.Where(t => t.Id == take).Select(t => t.MustFix + t.Look).Single();
        }

        var before = Look();
        var finding = notes.Of(takes.Open(take)).Findings("label").First(f => f.Severity != Severity.Note);
        var alike = TakeService.Regarded(
            notes.Of(takes.Open(take)).Findings("label"),
            [
                new IgnoredFinding
                {
                    TakeId = take,
                    Kind = finding.Kind,
                    Subject = finding.Subject,
                    Start = finding.Start,
                    End = finding.End,
                    Reason = "so",
                },
            ]
        );
        Assert.DoesNotContain(alike, f => f.Kind == finding.Kind && f.Subject == finding.Subject && f.Start == finding.Start);
        var row = new IgnoredFinding
        {
            TakeId = take,
            Kind = finding.Kind,
            Subject = finding.Subject,
            Start = finding.Start,
            End = finding.End,
            Reason = "hidden behind the bollard",
        };
        db.Ignored.Add(row);
        db.SaveChanges();
        Assert.True(Look() < before);
        db.Ignored.Remove(row);
        db.SaveChanges();
        Assert.Equal(before, Look());
    }

    [Fact]
    public async Task Five_hundred_takes_are_listed_by_the_screenful_and_no_list_reads_a_file_or_a_sample()
    {
        await using (var db = Db())
        {
            var like = await db.Takes.AsNoTracking().FirstAsync();
            var day = new ShootDay
            {
                ProductionId = like.ProductionId,
                Name = "A long day",
                Date = new DateOnly(2026, 5, 6),
            };
            db.Add(day);
            await db.SaveChangesAsync();
            for (var n = 0; n < 500; n++)
            {
                db.Takes.Add(
                    new Take
                    {
                        ProductionId = like.ProductionId,
                        ShootDayId = day.Id,
                        Name = $"HL_700_long_{n:000}",
                        SetUp = "HL_700_long",
                        Number = n,
                        FrameRate = 120,
                        FrameCount = 1200,
                        State = TakeState.Kept,
                        Postures = like.Postures,
                    }
                );
            }

            await db.SaveChangesAsync();
        }

        using var http = new HttpClient { BaseAddress = new Uri(studio.Address) };
        var heard = new Heard(studio.Folder);
        using (System.Diagnostics.DiagnosticListener.AllListeners.Subscribe(heard))
        {
            var page = await http.GetStringAsync("/");
            Assert.Contains("HL_700_long_000", page, StringComparison.Ordinal);
            Assert.Equal(
                BoardService.Screenful,
                page.Split("/takes/").Count(p => p.Contains("HL_700_long_", StringComparison.Ordinal)),
                8.0
            );
            Assert.True(page.Length < 600_000, $"{page.Length} letters");
        }

        Assert.NotEmpty(heard.Commands);
        Assert.DoesNotContain(heard.Commands, c =>
            c.Contains("\"Chunks\"", StringComparison.Ordinal) || c.Contains("\"Data\"", StringComparison.Ordinal)
        );
        // However many takes there are, the Board asks the same few questions.
        Assert.InRange(heard.Commands.Count, 1, 40);
    }

    /// <summary>Hears every command that goes to the database.</summary>
    private sealed class Heard(string folder) : IObserver<System.Diagnostics.DiagnosticListener>, IObserver<KeyValuePair<string, object?>>
    {
        public List<string> Commands { get; } = [];

        public void OnNext(System.Diagnostics.DiagnosticListener value)
        {
            if (value.Name == DbLoggerCategory.Name)
            {
                value.Subscribe(this);
            }
        }

        public void OnNext(KeyValuePair<string, object?> value)
        {
            if (
                value.Value is Microsoft.EntityFrameworkCore.Diagnostics.CommandExecutedEventData { Command: DbCommand command }
                && command.Connection?.DataSource.StartsWith(folder, StringComparison.Ordinal) == true
            )
            {
                lock (Commands)
                {
                    Commands.Add(command.CommandText);
                }
            }
        }

        public void OnCompleted() { }

        public void OnError(Exception error) { }
    }
}
