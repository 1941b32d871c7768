using Eidolon.Core;
using Eidolon.Storage;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Studio.Services;

/// <summary>The production of a studio, and its days. A new studio can be begun anywhere: whatever needs a production or a day has one made.</summary>
public sealed class Productions(EidolonDb db, TimeProvider time)
{
    /// <summary>What a production is called until a person names it.</summary>
    public const string Unnamed = "New production";

    private const int LongestName = 80;

    public Task<Production?> First(CancellationToken cancel) =>
        db.Productions.AsNoTracking().OrderBy(p => p.Id).FirstOrDefaultAsync(cancel);

    /// <summary>The production; made where there is none yet.</summary>
    public async Task<Production> Own(CancellationToken cancel)
    {
        if (await db.Productions.OrderBy(p => p.Id).FirstOrDefaultAsync(cancel) is { } known)
        {
            return known;
        }

        var made = new Production { Name = Unnamed };
        db.Productions.Add(made);
        await db.SaveChangesAsync(cancel);
        return made;
    }

    /// <summary>A shoot day by its id; in a studio without any the first one is made.</summary>
    /// <exception cref="RefusedException">There are days, and this is none of them.</exception>
    public async Task<ShootDay> Day(int id, CancellationToken cancel)
    {
        if (await db.Days.FirstOrDefaultAsync(d => d.Id == id, cancel) is { } day)
        {
            return day;
        }

        return await db.Days.AnyAsync(cancel)
            ? throw new RefusedException("choose the shoot day that the take belongs to")
            : await Add(await Own(cancel), "Day 1", cancel);
    }

    /// <summary>A new shoot day; the first one may name its production.</summary>
    /// <exception cref="RefusedException">A name is missing or too long.</exception>
    public async Task<ShootDay> AddDay(string? production, string? name, CancellationToken cancel)
    {
        name = name?.Trim() ?? string.Empty;
        if (name.Length is 0 or > LongestName)
        {
            throw new RefusedException($"A shoot day wants a name of 1 to {LongestName} letters.");
        }

        var own = await Own(cancel);
        if (!string.IsNullOrWhiteSpace(production))
        {
            await Name(production, cancel);
        }

        return await Add(own, name, cancel);
    }

    /// <summary>Names the production.</summary>
    /// <exception cref="RefusedException">The name is empty or too long.</exception>
    public async Task Name(string? name, CancellationToken cancel)
    {
        name = name?.Trim() ?? string.Empty;
        if (name.Length is 0 or > LongestName)
        {
            throw new RefusedException($"A production wants a name of 1 to {LongestName} letters.");
        }

        await Change(p => p.Name = name, cancel);
    }

    /// <summary>Changes the production; made where there is none yet.</summary>
    public async Task Change(Action<Production> edit, CancellationToken cancel)
    {
        edit(await Own(cancel));
        await db.SaveChangesAsync(cancel);
    }

    private async Task<ShootDay> Add(Production production, string name, CancellationToken cancel)
    {
        if (await db.Days.AnyAsync(d => d.ProductionId == production.Id && d.Name == name, cancel))
        {
            throw new RefusedException($"There is a shoot day '{name}' already.");
        }

        var day = new ShootDay
        {
            ProductionId = production.Id,
            Name = name,
            Date = DateOnly.FromDateTime(time.GetLocalNow().DateTime),
        };
        db.Days.Add(day);
        await db.SaveChangesAsync(cancel);
        return day;
    }
}
