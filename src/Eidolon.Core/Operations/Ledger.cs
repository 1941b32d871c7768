namespace Eidolon.Core.Operations;

/// <summary>Runs an ordered list of entries over raw data, asking a cache for the furthest state already known.</summary>
public static class Ledger
{
    /// <summary>Results by hash; a store, or nothing.</summary>
    public interface ICache
    {
        OperationResult? Find(UInt128 hash);

        /// <summary>What an entry said, without its data.</summary>
        EntryReport? Report(UInt128 hash);

        /// <param name="light">It is quicker to run again than to store.</param>
        void Keep(UInt128 hash, OperationResult result, bool light);
    }

    /// <summary>The hash of the state after each entry.</summary>
    public static UInt128[] Hashes(UInt128 rawHash, IReadOnlyList<Entry> entries)
    {
        var hashes = new UInt128[entries.Count];
        for (var i = 0; i < hashes.Length; i++)
        {
            rawHash = entries[i].Hash(rawHash);
            hashes[i] = rawHash;
        }

        return hashes;
    }

    /// <summary>The data after all entries that are on, what each said (null where off), and the hash of that state.</summary>
    /// <param name="raw">Asked only when no state is known.</param>
    public static (TakeData Data, IReadOnlyList<EntryReport?> Results, UInt128 Hash) Run(
        Func<TakeData> raw,
        UInt128 rawHash,
        IReadOnlyList<Entry> entries,
        OperationContext context,
        ICache? cache = null
    )
    {
        var hashes = Hashes(rawHash, entries);
        var results = new EntryReport?[entries.Count];
        var (data, next) = Furthest(entries, hashes, results, cache);
        data ??= raw();
        for (var i = next; i < entries.Count; i++)
        {
            context.Cancel.ThrowIfCancellationRequested();
            if (!entries[i].On)
            {
                continue;
            }

            var result = cache?.Find(hashes[i]);
            if (result is null)
            {
                var operation = OperationRegistry.Find(entries[i].Operation);
                result = operation.Run(
                    data,
                    entries[i].Parameters,
                    context with
                    {
                        Progress = new Progress(context.Progress, i - next, entries.Count - next),
                    }
                );
                cache?.Keep(hashes[i], result, operation.Light);
            }

            data = result.Data;
            results[i] = result;
        }

        return (data, results, hashes.Length == 0 ? rawHash : hashes[^1]);
    }

    /// <summary>The furthest known state whose earlier entries' reports are known too, and the entry that comes after it.</summary>
    private static (TakeData? Data, int Next) Furthest(
        IReadOnlyList<Entry> entries,
        UInt128[] hashes,
        EntryReport?[] results,
        ICache? cache
    )
    {
        var reports = 0;
        while (
            cache is not null
            && reports < entries.Count
            && (!entries[reports].On || (results[reports] = cache.Report(hashes[reports])) is not null)
        )
        {
            reports++;
        }

        for (var i = reports - 1; i >= 0; i--)
        {
            if (entries[i].On && cache!.Find(hashes[i]) is { } known)
            {
                return (known.Data, i + 1);
            }
        }

        return (null, 0);
    }

    private sealed class Progress(IProgress<double>? outer, int index, int count) : IProgress<double>
    {
        public void Report(double value) => outer?.Report((index + value) / count);
    }
}
