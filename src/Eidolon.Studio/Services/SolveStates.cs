using Eidolon.Core;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Storage;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>Solves of one performance that can be compared: as it is now, without what was put right by hand, named versions, other takes.</summary>
public sealed class SolveStates(IDbContextFactory<EidolonDb> factory, LedgerBook book, TakeService takes)
{
    /// <summary>The present state.</summary>
    public const string Now = "now";

    private const string Own = "This take";
    private const string Without = "without:";
    private const string From = "from:";
    private const string Version = "version:";
    private const string Other = "take:";
    private const int MostTakes = 40;

    /// <summary>A state that can be chosen.</summary>
    /// <param name="Group">Of what it is a state: this take, or another one.</param>
    /// <param name="Near">Most likely of the same performance.</param>
    public sealed record Choice(string Key, string Name, string Group, bool Near)
    {
        /// <summary>It is solved from another recording of the performance.</summary>
        public bool OtherWay => IsFrom(Key);
    }

    /// <summary>A state that was found.</summary>
    /// <param name="Content">Of the motion.</param>
    public sealed record Found(Choice Choice, OpenTake Open, OpenTake.Role Role, Motion Motion, UInt128 Content);

    /// <summary>What a solve is made from, in a word.</summary>
    public static string WayOf(string solver) =>
        solver == SuitOperation.Solve.Name ? "suit"
        : solver == FilmOperation.Solve.Name ? "films"
        : "markers";

    /// <summary>What can be compared with the solve of a performer.</summary>
    public IReadOnlyList<Choice> Choices(OpenTake open, OpenTake.Role role)
    {
        using var db = factory.CreateDbContext();
        var added = role
            .State.Node.Entries.Where(e => e.On && OperationRegistry.TryFind(e.Operation, out var o) && !o.SetUp)
            .Select(e => e.Operation)
            .Distinct()
            .Select(o => new Choice(Without + o, $"without: {OperationRegistry.TitleOf(o).ToLowerInvariant()}", Own, true));
        var ways = role.Solvers.Where(s => s != role.Solver).Select(s => new Choice(From + s, $"from the {WayOf(s)}", Own, true));
        var versions = db.Versions.AsNoTracking().Where(v => v.TakeId == open.Take.Id).OrderByDescending(v => v.Id).ToList();
        var solved = db
            .Takes.AsNoTracking()
            .Where(t =>
                t.Id != open.Take.Id
                && t.ProductionId == open.Take.ProductionId
                && t.Parts.Any(p => p.SubjectId == role.Subject.Id)
                && t.Nodes.Any(n => n.Kind == NodeKind.Solve && n.SubjectId == role.Subject.Id && n.Entries.Any(e => e.On))
            )
            .OrderByDescending(t => t.SetUp == open.Take.SetUp)
            .ThenByDescending(t => t.Id)
            .Take(MostTakes)
            .Select(t => new
            {
                t.Id,
                t.Name,
                Near = t.SetUp == open.Take.SetUp,
            })
            .ToList();
        return
        [
            new Choice(Now, "as it is now", Own, true),
            .. added,
            .. ways,
            .. versions.Select(v => new Choice(Version + v.Id, $"version {v.Name}", Own, true)),
            .. solved.Select(t => new Choice(Other + t.Id, t.Name, "Other takes", t.Near)),
        ];
    }

    /// <summary>The motion of a state.</summary>
    /// <exception cref="RefusedException">It is gone, or would have to be run first; says which.</exception>
    public Found Find(OpenTake open, OpenTake.Role role, string key, CancellationToken cancel)
    {
        var choice = Choices(open, role).FirstOrDefault(c => c.Key == key) ?? throw new RefusedException("that state is gone");
        var seen = key.StartsWith(Other, StringComparison.Ordinal) ? takes.Open(Id(key, Other)) : State(open, role, key, cancel);
        var there = seen.Performers.FirstOrDefault(p => p.Node.SubjectId == role.Node.SubjectId);
        // What would have to be run first shows what was there before: that is not the state that was asked for.
        var ran = key == Now || there is { State.OutOfDate: false };
        return ran && there?.Motion is { } motion && there.State.Shown is { } content
            ? new Found(choice, seen, there, motion, content)
            : throw new RefusedException(
                IsFrom(key)
                    ? $"it is not solved {choice.Name} yet: do it once at Solve, then both are at hand"
                    : $"'{choice.Name}' has no motion at hand: bring it back once, so that it is run"
            );
    }

    /// <summary>The change that makes a state of this take the present one; null where it is that already, or another take's.</summary>
    public LedgerChange? Use(OpenTake open, OpenTake.Role role, string key)
    {
        if (IsFrom(key))
        {
            return Solved(role, key);
        }

        if (key.StartsWith(Version, StringComparison.Ordinal) || key.StartsWith(Without, StringComparison.Ordinal))
        {
            return new RestoreVersion(Entries(open, role, key));
        }

        return null;
    }

    private OpenTake State(OpenTake open, OpenTake.Role role, string key, CancellationToken cancel) =>
        key == Now ? open
        : IsFrom(key) ? takes.Propose(open.Take.Id, Solved(role, key), run: false, cancel)
        : takes.Propose(open.Take.Id, new RestoreVersion(Entries(open, role, key)), cancel: cancel);

    private static bool IsFrom(string key) => key.StartsWith(From, StringComparison.Ordinal);

    /// <summary>The solve from another recording of the performance, as it was made last.</summary>
    private static AddEntries Solved(OpenTake.Role role, string key) => new(key[From.Length..], [], role.Node.Id);

    private string Entries(OpenTake open, OpenTake.Role role, string key)
    {
        if (key.StartsWith(Version, StringComparison.Ordinal))
        {
            using var db = factory.CreateDbContext();
            var id = Id(key, Version);
            return db.Versions.AsNoTracking().Where(v => v.Id == id && v.TakeId == open.Take.Id).Select(v => v.Entries).FirstOrDefault()
                ?? throw new RefusedException("that version is gone");
        }

        var draft = book.Read(LedgerOwner.Take(open.Take.Id));
        var node = draft.Find(role.Node.Id) ?? throw new RefusedException("that part of the Ledger is gone");
        return LedgerSnapshot.Write(draft.With(node, [.. node.Entries.Where(e => Without + e.Entry.Operation != key)]));
    }

    private static int Id(string key, string prefix) =>
        int.TryParse(key[prefix.Length..], out var id) ? id : throw new RefusedException("that state is gone");
}
