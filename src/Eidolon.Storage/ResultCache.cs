using System.Text.Json.Nodes;
using Eidolon.Core.Operations;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage;

/// <summary>Ledger results in the database, the latest also in memory.</summary>
public sealed class ResultCache(IDbContextFactory<EidolonDb> factory) : Ledger.ICache
{
    /// <summary>Bytes of samples that stay in memory: a dozen states of a ten-minute take.</summary>
    private const long InMemory = 1_200_000_000;

    private readonly ResultMemory _recent = new(InMemory);

    public OperationResult? Find(UInt128 hash)
    {
        if (_recent.Find(hash) is { } known)
        {
            return known;
        }

        using var db = factory.CreateDbContext();
        var key = hash.ToString("x32");
        var row = db.Results.AsNoTracking().FirstOrDefault(r => r.Hash == key);
        if (row is null || ResultCodec.Read(row.Data) is not { } data)
        {
            return null;
        }

        var result = new OperationResult(data, row.Summary, JsonNode.Parse(row.Report) as JsonObject ?? []);
        _recent.Keep(hash, result);
        return result;
    }

    public EntryReport? Report(UInt128 hash)
    {
        if (_recent.Find(hash) is { } known)
        {
            return known;
        }

        using var db = factory.CreateDbContext();
        var key = hash.ToString("x32");
        return db.Results.AsNoTracking().Where(r => r.Hash == key).Select(r => new { r.Summary, r.Report }).FirstOrDefault() is { } row
            ? new EntryReport(row.Summary, JsonNode.Parse(row.Report) as JsonObject ?? [])
            : null;
    }

    public void Keep(UInt128 hash, OperationResult result, bool light = false)
    {
        _recent.Keep(hash, result);
        if (light)
        {
            return;
        }

        using var db = factory.CreateDbContext();
        var key = hash.ToString("x32");
        if (!db.Results.Any(r => r.Hash == key))
        {
            db.Results.Add(
                new CachedResult
                {
                    Hash = key,
                    Summary = result.Summary,
                    Report = result.Report.ToJsonString(),
                    Data = ResultCodec.Write(result.Data),
                }
            );
            db.SaveChanges();
        }
    }

    /// <summary>A state that is not kept beyond memory, such as the raw samples.</summary>
    public TakeData? Remembered(UInt128 hash) => _recent.Find(hash)?.Data;

    public void Remember(UInt128 hash, TakeData data) => _recent.Keep(hash, new OperationResult(data, string.Empty, []));
}
