using System.Text.Json.Nodes;
using Eidolon.Core;
using Eidolon.Core.Operations;
using Eidolon.Storage.Ledger;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage.Tests;

/// <summary>Random changes of a Ledger: what each does is decided by three numbers, so that a failing walk can be shrunk and read.</summary>
public sealed record LedgerWalk(List<LedgerWalk.Step> Steps)
{
    public sealed record Step(int Kind, int A, int B);

    private static readonly string[] Names = ["A", "B", "C", "D", "E", "Dot_001", "Dot_002"];

    /// <returns>False when it was refused, which is an answer too.</returns>
    public static bool Do(Studio studio, LedgerOwner owner, Step step)
    {
        using var db = studio.CreateDbContext();
        var entries = db
            .Nodes.Include(n => n.Entries)
            .Single(n => n.TakeId == owner.TakeId && n.Kind == NodeKind.Markers)
            .Entries.OrderBy(e => e.Position)
            .ToList();
        var one = entries.Count == 0 ? 0 : entries[step.A % entries.Count].Id;
        LedgerChange? change = step.Kind switch
        {
            0 or 1 or 2 or 3 => new AddEntries([New(step, step.B % (entries.Count + 1))]),
            4 => new SwitchEntry(one, step.B % 2 == 0),
            5 => new MoveEntry(one, step.B % Math.Max(1, entries.Count)),
            6 => new RemoveEntry(one),
            7 => step.B % 3 == 0 ? new BringAgain() : new TakeBackEntry(),
            8 => new EditEntry(one, new JsonObject { ["longest"] = 5 + (step.B % 40), ["cutoff"] = 5 + (step.B % 20) }),
            _ => null,
        };
        if (change is null)
        {
            // The marker set changes: fills and labels may come out otherwise.
            db.MarkerSets.ExecuteUpdate(s => s.SetProperty(x => x.Json, Studio.SetJson([.. Names.Take(3 + (step.A % 3))])));
            return true;
        }

        try
        {
            studio.Book.Keep(owner, change);
            return true;
        }
        catch (RefusedException)
        {
            return false;
        }
    }

    private static NewEntry New(Step step, int at)
    {
        var (name, other) = (Names[step.A % Names.Length], Names[step.B % Names.Length]);
        var (operation, parameters) = (step.A % 9) switch
        {
            0 => ("despike", new JsonObject()),
            1 => ("fill", new JsonObject { ["method"] = step.B % 2 == 0 ? "spline" : "rigid", ["longest"] = 1 + step.B }),
            2 => ("smooth", new JsonObject { ["cutoff"] = 4 + (step.B % 12) }),
            3 => (
                "hide",
                new JsonObject
                {
                    ["marker"] = name,
                    ["from"] = step.B,
                    ["to"] = step.B + 12,
                }
            ),
            4 => ("set-label", new JsonObject { ["dot"] = name, ["name"] = other }),
            5 => (
                "exchange",
                new JsonObject
                {
                    ["a"] = name,
                    ["b"] = other,
                    ["from"] = step.B,
                    ["to"] = 100,
                }
            ),
            6 => ("split", new JsonObject { ["name"] = name, ["frame"] = step.B }),
            7 => ("tidy", new JsonObject { ["longest"] = step.B % 20 }),
            _ => ("trim", new JsonObject { ["from"] = step.B % 7, ["to"] = 110 }),
        };
        return new NewEntry(operation, parameters, At: at);
    }
}
