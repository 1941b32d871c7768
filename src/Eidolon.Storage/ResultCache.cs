using System.Collections.Concurrent;
using System.Text.Json.Nodes;
using Eidolon.Core.Operations;
using Eidolon.Storage.Model;
using Microsoft.EntityFrameworkCore;

namespace Eidolon.Storage;

/// <summary>Ledger results in the database, the latest also in memory.</summary>
public sealed class ResultCache(IDbContextFactory<EidolonDb> factory) : Ledger.ICache
{
    private const int InMemory = 48;
    private readonly ConcurrentDictionary<UInt128, OperationResult> _recent = new();
    private readonly ConcurrentQueue<UInt128> _order = new();

    public OperationResult? Find(UInt128 hash)
    {
        if (_recent.TryGetValue(hash, out var known))
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
        Remember(hash, result);
        return result;
    }

    public void Keep(UInt128 hash, OperationResult result)
    {
        Remember(hash, result);
        using var db = factory.CreateDbContext();
        var key = hash.ToString("x32");
        if (!db.Results.Any(r => r.Hash == key))
        {
            db.Results.Add(new CachedResult { Hash = key, Summary = result.Summary, Report = result.Report.ToJsonString(), Data = ResultCodec.Write(result.Data) });
            db.SaveChanges();
        }
    }

    private void Remember(UInt128 hash, OperationResult result)
    {
        if (_recent.TryAdd(hash, result))
        {
            _order.Enqueue(hash);
            while (_order.Count > InMemory && _order.TryDequeue(out var oldest))
            {
                _recent.TryRemove(oldest, out _);
            }
        }
    }
}
