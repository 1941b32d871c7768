namespace Eidolon.Core.Operations;

/// <summary>Runs an ordered list of entries over raw data, asking a cache for every state already known.</summary>
public static class Ledger
{
    /// <summary>Results by hash; a store, or nothing.</summary>
    public interface ICache
    {
        OperationResult? Find(UInt128 hash);

        void Keep(UInt128 hash, OperationResult result);
    }

    /// <summary>The data after all entries that are on, and the result of each (null where off).</summary>
    public static (TakeData Data, IReadOnlyList<OperationResult?> Results) Run(TakeData raw, UInt128 rawHash, IReadOnlyList<Entry> entries, OperationContext context, ICache? cache = null)
    {
        var data = raw;
        var hash = rawHash;
        var results = new List<OperationResult?>();
        for (var i = 0; i < entries.Count; i++)
        {
            context.Cancel.ThrowIfCancellationRequested();
            var entry = entries[i];
            if (!entry.On)
            {
                results.Add(null);
                continue;
            }

            hash = entry.Hash(hash);
            var result = cache?.Find(hash);
            if (result is null)
            {
                var part = new Progress(context.Progress, i, entries.Count);
                result = OperationRegistry.Find(entry.Operation).Run(data, entry.Parameters, context with { Progress = part });
                cache?.Keep(hash, result);
            }

            data = result.Data;
            results.Add(result);
        }

        return (data, results);
    }

    private sealed class Progress(IProgress<double>? outer, int index, int count) : IProgress<double>
    {
        public void Report(double value) => outer?.Report((index + value) / count);
    }
}
