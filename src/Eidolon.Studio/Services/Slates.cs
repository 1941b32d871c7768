using System.ComponentModel.DataAnnotations;
using Eidolon.Core;
using Eidolon.Core.Quality;
using Eidolon.Storage;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>What a person writes on a take: circle, note, rating, who is on it, the clocks of its devices, and Findings that may stay.</summary>
public sealed class Slates(EidolonDb db, TakeService takes, TimeProvider time)
{
    /// <summary>A device's clock is never wrong by more than this once it was measured, milliseconds.</summary>
    public const double MostCorrection = 2000;

    /// <summary>What a person says of a take.</summary>
    public sealed record Words
    {
        /// <summary>Stars; 0 for none.</summary>
        [Range(0, 5, ErrorMessage = "The rating is 1 to 5, or none.")]
        public int Rating { get; init; }

        [StringLength(4000)]
        public string? Note { get; init; }

        public int? MarkerSet { get; init; }

        /// <summary>Who is on it.</summary>
        public int[] Parts { get; init; } = [];

        /// <summary>Correction of each device's clock by its stream, milliseconds as they were typed.</summary>
        public Dictionary<string, string> Correction { get; init; } = [];
    }

    /// <summary>A Finding that may stay.</summary>
    public sealed record MayStay
    {
        [Required]
        public string Kind { get; init; } = string.Empty;

        public string? Subject { get; init; }

        /// <summary>First frame.</summary>
        public int Start { get; init; }

        /// <summary>Last frame.</summary>
        public int End { get; init; }

        [Required(ErrorMessage = "Say why it may stay: the next person will wonder.")]
        public string? Reason { get; init; }
    }

    /// <summary>Name of a take; null when there is none.</summary>
    public Task<string?> NameOf(int take, CancellationToken cancel) =>
        db.Takes.Where(t => t.Id == take).Select(t => t.Name).FirstOrDefaultAsync(cancel);

    /// <summary>The take with its day and who is on it; null when there is none.</summary>
    public Task<Take?> Find(int take, CancellationToken cancel) =>
        db.Takes.Include(t => t.Day).Include(t => t.Parts).ThenInclude(p => p.Subject).FirstOrDefaultAsync(t => t.Id == take, cancel);

    /// <summary>Performers and props that can be on a take of the production.</summary>
    public async Task<IReadOnlyList<Subject>> Subjects(int production, CancellationToken cancel) =>
        await db
            .Shelf.AsNoTracking()
            .Where(s => s.ProductionId == production && s.Kind != SubjectKind.Character)
            .OrderBy(s => s.Kind)
            .ThenBy(s => s.Name)
            .ToListAsync(cancel);

    /// <summary>Circles a take, or takes the circle away.</summary>
    /// <returns>Its day and whether it is circled now; null when there is no such take.</returns>
    public async Task<(int Day, bool Circled)?> Circle(int take, CancellationToken cancel)
    {
        if (await db.Takes.FirstOrDefaultAsync(t => t.Id == take, cancel) is not { } row)
        {
            return null;
        }

        row.Circled = !row.Circled;
        await db.SaveChangesAsync(cancel);
        return (row.ShootDayId, row.Circled);
    }

    /// <summary>Writes the slate down. Who joins has a part and a node from now on; nobody with work in the Ledger is taken off.</summary>
    /// <param name="take">As <see cref="Find"/> gave it.</param>
    /// <exception cref="RefusedException">A correction is no number, or the set or somebody on the slate is gone; nothing was written.</exception>
    public async Task Write(Take take, Words words, CancellationToken cancel)
    {
        var devices = TakeDevice.Of(take).Select(d => d with { CorrectionMilliseconds = Correction(d, words) }).ToList();
        var subjects = await Subjects(take.ProductionId, cancel);
        if (
            (words.MarkerSet is { } set && !await db.MarkerSets.AnyAsync(s => s.Id == set && s.ProductionId == take.ProductionId, cancel))
            || words.Parts.Any(p => subjects.All(s => s.Id != p))
        )
        {
            throw new RefusedException("The marker set or somebody on the slate is gone.");
        }

        (take.Rating, take.Note, take.MarkerSetId, take.Devices) = (
            words.Rating,
            (words.Note ?? string.Empty).Trim(),
            words.MarkerSet,
            TakeDevice.Write(devices)
        );
        foreach (var id in words.Parts.Where(id => take.Parts.All(p => p.SubjectId != id)))
        {
            var subject = subjects.First(s => s.Id == id);
            var alone = !take.Performers.Any();
            take.Parts.Add(
                new TakePart
                {
                    SubjectId = id,
                    Position = take.Parts.Count,
                    Prefix = subject.Kind == SubjectKind.Performer && !alone ? subject.Name : string.Empty,
                }
            );
        }

        await db.SaveChangesAsync(cancel);
        await TakeNodes.Ensure(db, take, cancel);
        await db.SaveChangesAsync(cancel);
        takes.Refresh(take.Id);
    }

    /// <summary>Findings of a take that may stay, by frame.</summary>
    public async Task<IReadOnlyList<IgnoredFinding>> Ignored(int take, CancellationToken cancel) =>
        await db.Ignored.AsNoTracking().Where(i => i.TakeId == take).OrderBy(i => i.Start).ToListAsync(cancel);

    /// <summary>A Finding may stay.</summary>
    public async Task Ignore(int take, MayStay finding, CancellationToken cancel)
    {
        db.Ignored.Add(
            new IgnoredFinding
            {
                TakeId = take,
                Kind = finding.Kind,
                Subject = finding.Subject ?? string.Empty,
                Start = finding.Start,
                End = finding.End,
                Reason = finding.Reason!.Trim(),
                CreatedUtc = time.GetUtcNow().UtcDateTime,
            }
        );
        await db.SaveChangesAsync(cancel);
        takes.Refresh(take);
    }

    /// <summary>It is in the list again.</summary>
    public async Task Regard(int take, int finding, CancellationToken cancel)
    {
        await db.Ignored.Where(i => i.Id == finding && i.TakeId == take).ExecuteDeleteAsync(cancel);
        takes.Refresh(take);
    }

    /// <summary>Named versions of the take's Ledger, the latest first.</summary>
    public async Task<IReadOnlyList<LedgerVersion>> Versions(int take, CancellationToken cancel) =>
        await db.Versions.AsNoTracking().Where(v => v.TakeId == take).OrderByDescending(v => v.CreatedUtc).ToListAsync(cancel);

    /// <summary>Current versions of subjects, by their ids.</summary>
    public async Task<IReadOnlyDictionary<int, SubjectVersion>> Current(IReadOnlyCollection<int> subjects, CancellationToken cancel) =>
        await db
            .SubjectVersions.AsNoTracking()
            .Where(v => subjects.Contains(v.SubjectId) && db.Subjects.Any(s => s.Id == v.SubjectId && s.Version == v.Number))
            .ToDictionaryAsync(v => v.SubjectId, cancel);

    /// <summary>Streams of a take that the cameras' pictures are in, or that lost frames.</summary>
    public async Task<IReadOnlyList<SampleStream>> Telling(int take, CancellationToken cancel) =>
        await db
            .Streams.AsNoTracking()
            .Where(s =>
                s.TakeId == take
                && (s.LeftOut != string.Empty || s.Kind == StreamKind.Centroids || s.Kind == StreamKind.Gloves || s.Kind == StreamKind.Face)
            )
            .ToListAsync(cancel);

    private static double Correction(TakeDevice device, Words words)
    {
        var text = words.Correction.GetValueOrDefault(device.Stream, "0");
        return
            double.TryParse(text, System.Globalization.NumberStyles.Float, System.Globalization.CultureInfo.InvariantCulture, out var ms)
            && Math.Abs(ms) <= MostCorrection
            ? ms
            : throw new RefusedException(
                $"{device.Name}: '{text}' is not a correction; a number of milliseconds from −{MostCorrection:0} to {MostCorrection:0} is."
            );
    }
}
