using Eidolon.Core;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Eidolon.Studio.Jobs;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>What a person asks of the Board.</summary>
/// <param name="Day">The shoot day; null for the last one with takes.</param>
/// <param name="Find">Words that name, note or who must contain.</param>
/// <param name="Chips">"circled", "stale", "stopped", or "s7" for a subject.</param>
/// <param name="Sort">null as shot, "far" furthest first, "worst" worst first.</param>
/// <param name="From">First row that is shown.</param>
public sealed record BoardQuery(int? Day, string? Find, IReadOnlyList<string> Chips, string? Sort, int From = 0);

/// <summary>Reads the Board: rows by the screenful, never samples, films or Ledgers.</summary>
public sealed class BoardService(EidolonDb db, JobCancels cancels)
{
    /// <summary>Rows of a screenful.</summary>
    public const int Screenful = 40;

    /// <summary>The rows of one screenful, and how many there are.</summary>
    public sealed record Rows(IReadOnlyList<Take> Takes, int Count, int From)
    {
        public bool More => From + Takes.Count < Count;
    }

    /// <summary>A subject on the shelf.</summary>
    public sealed record Shelf(Subject Subject, SubjectVersion? Version);

    /// <summary>A job at work, for people.</summary>
    public sealed record Work(JobRow Job, string Name, double Progress);

    /// <summary>Shoot days with the number of their takes.</summary>
    public async Task<IReadOnlyList<(ShootDay Day, int Takes)>> Days(CancellationToken cancel)
    {
        var counts = await db
            .Takes.GroupBy(t => t.ShootDayId)
            .Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count, cancel);
        var days = await db.Days.AsNoTracking().OrderBy(d => d.Date).ThenBy(d => d.Id).ToListAsync(cancel);
        return [.. days.Select(d => (d, counts.GetValueOrDefault(d.Id)))];
    }

    public async Task<Rows> Takes(int day, BoardQuery query, CancellationToken cancel)
    {
        var takes = db.Takes.AsNoTracking().Where(t => t.ShootDayId == day);
        foreach (var word in (query.Find ?? string.Empty).Split(' ', StringSplitOptions.RemoveEmptyEntries))
        {
            var like = $"%{word.Replace("%", "", StringComparison.Ordinal)}%";
            takes = takes.Where(t =>
                EF.Functions.Like(t.Name, like)
                || EF.Functions.Like(t.Note, like)
                || t.Parts.Any(p => EF.Functions.Like(p.Subject!.Name, like))
            );
        }

        foreach (var chip in query.Chips)
        {
            takes = chip switch
            {
                "circled" => takes.Where(t => t.Circled),
                "stale" => takes.Where(t => t.StaleSeconds > 0),
                "stopped" => takes.Where(t => t.MustFix > 0 || t.Trouble != string.Empty),
                ['s', .. var id] when int.TryParse(id, out var subject) => takes.Where(t => t.Parts.Any(p => p.SubjectId == subject)),
                _ => takes,
            };
        }

        var count = await takes.CountAsync(cancel);
        takes = query.Sort switch
        {
            "far" => takes.OrderByDescending(t => t.Through).ThenBy(t => t.Name),
            "worst" => takes.OrderByDescending(t => t.MustFix).ThenByDescending(t => t.Look).ThenBy(t => t.Name),
            _ => takes.OrderBy(t => t.Name),
        };
        var from = Math.Max(0, query.From);
        var rows = await takes.Skip(from).Take(Screenful).Include(t => t.Parts).ThenInclude(p => p.Subject).ToListAsync(cancel);
        return new Rows(rows, count, from);
    }

    /// <summary>Numbers of a day: takes, frames as seconds, circled, through Retarget, with something to fix, out of date.</summary>
    public async Task<(int Takes, double Seconds, int Circled, int Retargeted, int MustFix, int Stale)> Sums(
        int day,
        CancellationToken cancel
    )
    {
        var all = await db
            .Takes.Where(t => t.ShootDayId == day)
            .Select(t => new
            {
                Seconds = t.FrameCount / t.FrameRate,
                t.Circled,
                t.Through,
                Fix = t.MustFix > 0,
                Stale = t.StaleSeconds > 0,
            })
            .ToListAsync(cancel);
        return (
            all.Count,
            all.Sum(t => t.Seconds),
            all.Count(t => t.Circled),
            all.Count(t => (t.Through >> 4 & 1) == 1),
            all.Count(t => t.Fix),
            all.Count(t => t.Stale)
        );
    }

    public async Task<IReadOnlyList<Shelf>> Library(int production, SubjectKind kind, CancellationToken cancel)
    {
        var subjects = await db
            .Shelf.AsNoTracking()
            .Where(s => s.ProductionId == production && s.Kind == kind)
            .OrderBy(s => s.Name)
            .ToListAsync(cancel);
        var versions = await db
            .SubjectVersions.AsNoTracking()
            .Where(v =>
                db.Subjects.Any(s => s.Id == v.SubjectId && s.ProductionId == production && s.Kind == kind && s.Version == v.Number)
            )
            .Select(v => new SubjectVersion
            {
                SubjectId = v.SubjectId,
                Number = v.Number,
                Content = v.Content,
                Body = v.Body.Length > 0 ? "yes" : string.Empty,
                Height = v.Height,
                FitMillimetres = v.FitMillimetres,
                Verdict = v.Verdict,
                Reasons = v.Reasons,
                Why = v.Why,
                CreatedUtc = v.CreatedUtc,
            })
            .ToDictionaryAsync(v => v.SubjectId, cancel);
        return [.. subjects.Select(s => new Shelf(s, versions.GetValueOrDefault(s.Id)))];
    }

    public async Task<IReadOnlyList<Scene>> Scenes(int production, int? day, CancellationToken cancel) =>
        await db
            .Scenes.AsNoTracking()
            .Where(s => s.ProductionId == production && s.TakeId == null && (s.ShootDayId == day || s.ShootDayId == null))
            .Include(s => s.Nodes)
            .OrderBy(s => s.Name)
            .Take(6)
            .ToListAsync(cancel);

    /// <summary>Takes that something elsewhere put out of date, with the seconds to bring them up.</summary>
    public async Task<IReadOnlyList<Take>> OutOfDate(int production, CancellationToken cancel) =>
        await db
            .Takes.AsNoTracking()
            .Where(t => t.ProductionId == production && t.StaleSeconds > 0)
            .OrderBy(t => t.Name)
            .Take(50)
            .ToListAsync(cancel);

    /// <summary>Takes with Findings or entries that cannot run, worst first.</summary>
    public async Task<IReadOnlyList<Take>> NeedsALook(int production, CancellationToken cancel) =>
        await db
            .Takes.AsNoTracking()
            .Where(t => t.ProductionId == production && (t.MustFix + t.Look > 0 || t.Trouble != string.Empty))
            .OrderByDescending(t => t.Trouble != string.Empty)
            .ThenByDescending(t => t.MustFix)
            .ThenByDescending(t => t.Look)
            .Include(t => t.Parts)
                .ThenInclude(p => p.Subject)
            .Take(6)
            .ToListAsync(cancel);

    public async Task<IReadOnlyList<Work>> AtWork(CancellationToken cancel)
    {
        var jobs = await db
            .Jobs.AsNoTracking()
            .Where(OpenJobs.AreOpen)
            .OrderByDescending(j => j.State)
            .ThenBy(j => j.Id)
            .Take(8)
            .ToListAsync(cancel);
        return [.. jobs.Select(j => new Work(j, j.Title, cancels.ProgressOf(j.Id)))];
    }

    /// <summary>Takes a job is at work on, each with how far it is.</summary>
    public async Task<IReadOnlyDictionary<int, Work>> Working(CancellationToken cancel) =>
        (await AtWork(cancel))
            .Where(w => w.Job.TakeId is not null)
            .GroupBy(w => w.Job.TakeId!.Value)
            .ToDictionary(g => g.Key, g => g.First());
}
