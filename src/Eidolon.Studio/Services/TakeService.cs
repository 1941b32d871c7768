using Eidolon.Core;
using Eidolon.Core.Operations;
using Eidolon.Core.Quality;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>Takes as the pages need them: opened, changed, counted.</summary>
public sealed class TakeService(IDbContextFactory<EidolonDb> factory, LedgerBook book, StateNotes notes, BoardCounts counts)
{
    /// <exception cref="RefusedException">There is no such take.</exception>
    public OpenTake Open(int id) => Opened(id, book.Look(LedgerOwner.Take(id)));

    /// <summary>The take with a change that is not kept: a proposal.</summary>
    /// <exception cref="RefusedException">The change does not work; says why.</exception>
    /// <param name="run">Runs what the change needs; without it what takes long and is not at hand is out of date.</param>
    public OpenTake Propose(int id, LedgerChange change, bool run = true, CancellationToken cancel = default) =>
        Opened(id, book.Propose(LedgerOwner.Take(id), change, run, cancel));

    /// <summary>The markers of a take after the first entries of its marker node.</summary>
    public (MarkerValue? Value, UInt128 Content) MarkersAt(OpenTake open, int entries, CancellationToken cancel = default) =>
        (
            open.Look.Runner.ValueAfter(open.MarkerNode.Id, entries, cancel) as MarkerValue,
            open.Look.Runner.ContentAfter(open.MarkerNode.Id, entries) ?? 0
        );

    /// <summary>A state of the markers that is still at hand, by its name.</summary>
    public MarkerValue? Remembered(string state) => book.Known(state) as MarkerValue;

    /// <summary>Does a quick change at once.</summary>
    /// <param name="seen">The revision the person saw.</param>
    /// <exception cref="RefusedException">It cannot be done; nothing was changed.</exception>
    public KeptChange Keep(int id, LedgerChange change, int? seen = null)
    {
        var kept = book.Keep(LedgerOwner.Take(id), change, seen);
        Refresh(id);
        return kept;
    }

    /// <summary>Writes down what the Board shows of a take: at once where that is quick, else soon after.</summary>
    public void Refresh(int id)
    {
        var open = Open(id);
        if (notes.Ready(open) is { } note)
        {
            Write(open, note);
            return;
        }

        counts.Later(id);
    }

    /// <summary>Findings without those a person lets be: of the same kind and subject, with frames in common.</summary>
    public static IReadOnlyList<Finding> Regarded(IReadOnlyList<Finding> findings, IReadOnlyList<IgnoredFinding> ignored) =>
        ignored.Count == 0
            ? findings
            :
            [
                .. findings.Where(f =>
                    !ignored.Any(i => i.Kind == f.Kind && i.Subject == f.Subject && i.Start <= f.End && f.Start <= i.End)
                ),
            ];

    /// <summary>Counts a long take's Findings for the Board.</summary>
    public void Count(int id)
    {
        var open = Open(id);
        Write(open, notes.Of(open));
    }

    private void Write(OpenTake open, StateNote note)
    {
        using var db = factory.CreateDbContext();
        var ignored = db.Ignored.AsNoTracking().Where(i => i.TakeId == open.Take.Id).ToList();
        var findings = Regarded(note.Findings(open.Solved.Any() ? "later" : "label"), ignored);
        var (must, look) = (findings.Count(f => f.Severity == Severity.MustFix), findings.Count(f => f.Severity == Severity.Look));
        var postures = open.Solved.Any()
            ? Postures.Svg(
                [.. open.Solved.Select(p => new Postures.Actor(p.Motion!))],
                [
                    .. open
                        .Props.Where(p => p.Places is not null)
                        .Select(p => new PostureThings.Prop(open.Resources.Prop(p.Subject.Id), p.Places!)),
                ],
                open.Take.SetPieces
            )
            : open.Take.Postures;
        var (quality, trouble) = (TakeQuality.Write(open, note), open.Troubles.FirstOrDefault() ?? open.Damage);
        var through = StepThread.Bits(open, SceneBits(db, open.Take.Id));
        var stale = open.OutOfDate.Count == 0 ? 0 : Math.Max(1, open.SecondsToRun);
        db.Takes.Where(t => t.Id == open.Take.Id)
            .ExecuteUpdate(s =>
                s.SetProperty(t => t.MustFix, must)
                    .SetProperty(t => t.Look, look)
                    .SetProperty(t => t.Postures, postures)
                    .SetProperty(t => t.Quality, quality)
                    .SetProperty(t => t.Through, through)
                    .SetProperty(t => t.StaleSeconds, stale)
                    .SetProperty(t => t.Trouble, trouble)
            );
    }

    private static int SceneBits(EidolonDb db, int take)
    {
        var scenes = db.Scenes.Where(s => s.TakeId == take).Select(s => s.Id);
        var overlaps = db.Entries.Any(e =>
            db.Nodes.Any(n => n.Id == e.NodeId && scenes.Contains(n.SceneId ?? 0)) && e.Operation == "clips" && e.Added > 1
        );
        var layers = db.Entries.Any(e => db.Nodes.Any(n => n.Id == e.NodeId && scenes.Contains(n.SceneId ?? 0)) && e.Operation == "layer");
        var handed = db.HandOffs.Any(h => scenes.Contains(h.SceneId));
        return (overlaps ? 1 << 5 : 0) | (layers ? 1 << 6 : 0) | (handed ? 1 << 7 : 0);
    }

    private OpenTake Opened(int id, LedgerLook look)
    {
        using var db = factory.CreateDbContext();
        var take = db.Takes.AsNoTracking()
            .Include(t => t.Day)
            .Include(t => t.Parts)
                .ThenInclude(p => p.Subject)
            .Include(t => t.SetPieces)
            .AsSplitQuery()
            .FirstOrDefault(t => t.Id == id)
            ?? throw new RefusedException("there is no such take");
        var ids = look.Rows.SelectMany(n => new[] { n.SubjectId, n.TargetId }).ToHashSet();
        var subjects = db.Subjects.AsNoTracking().Where(s => ids.Contains(s.Id)).ToDictionary(s => s.Id);
        return new OpenTake(take, look, subjects);
    }
}
