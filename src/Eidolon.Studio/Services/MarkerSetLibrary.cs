using System.Text;
using Eidolon.Core;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Markers;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>The marker sets of the production: found, made, changed. Takes that wear a set follow its changes.</summary>
public sealed class MarkerSetLibrary(EidolonDb db, Productions productions, FollowUps followUps)
{
    private const int LongestName = 60;

    /// <summary>All of them by name.</summary>
    public async Task<IReadOnlyList<MarkerSetRow>> All(CancellationToken cancel) =>
        await db.MarkerSets.AsNoTracking().OrderBy(s => s.Name).ToListAsync(cancel);

    public Task<MarkerSetRow?> Find(int id, CancellationToken cancel) =>
        db.MarkerSets.AsNoTracking().FirstOrDefaultAsync(s => s.Id == id, cancel);

    /// <summary>Changes a set.</summary>
    /// <returns>False when there is no such set.</returns>
    /// <exception cref="ArgumentException">The edit is refused; says why.</exception>
    public async Task<bool> Change(int id, Func<MarkerSet, MarkerSet> edit, CancellationToken cancel)
    {
        if (await db.MarkerSets.FirstOrDefaultAsync(s => s.Id == id, cancel) is not { } row)
        {
            return false;
        }

        row.Json = MarkerSetJson.Write(edit(Read(row)));
        await db.SaveChangesAsync(cancel);
        followUps.MarkerSetChanged(id);
        return true;
    }

    /// <summary>Keeps a new set; the first one is what is worn when a slate names none.</summary>
    /// <exception cref="RefusedException">The name is empty, too long or taken.</exception>
    public async Task<MarkerSetRow> Add(MarkerSet set, CancellationToken cancel)
    {
        if (set.Name.Length is 0 or > LongestName)
        {
            throw new RefusedException($"A set wants a name of 1 to {LongestName} letters.");
        }

        if (await db.MarkerSets.AnyAsync(s => s.Name == set.Name, cancel))
        {
            throw new RefusedException($"There is a set '{set.Name}' already.");
        }

        var production = await productions.Own(cancel);
        var row = new MarkerSetRow
        {
            ProductionId = production.Id,
            Name = set.Name,
            Json = MarkerSetJson.Write(set),
        };
        db.MarkerSets.Add(row);
        await db.SaveChangesAsync(cancel);
        if (production.MarkerSetId is null)
        {
            production.MarkerSetId = row.Id;
            await db.SaveChangesAsync(cancel);
            followUps.MarkerSetChanged(row.Id);
        }

        return row;
    }

    /// <summary>The set of a row. One that is being made may be empty, which a file may not.</summary>
    public static MarkerSet Read(MarkerSetRow row) =>
        row.Json.Contains("\"segment\"", StringComparison.Ordinal)
            ? MarkerSetJson.Read(Encoding.UTF8.GetBytes(row.Json), row.Name) with
            {
                Name = row.Name,
            }
            : new MarkerSet(row.Name, [], []);
}
