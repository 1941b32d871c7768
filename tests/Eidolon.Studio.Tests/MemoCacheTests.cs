using Eidolon.Studio.Services;

namespace Eidolon.Studio.Tests;

/// <summary>What is worked out once is forgotten right: by bytes, least recently used first, and never a failure.</summary>
public sealed class MemoCacheTests
{
    [Fact]
    public void A_failure_is_not_kept()
    {
        var cache = new MemoCache<int, int>(10_000);
        Assert.Throws<InvalidOperationException>(() => cache.Of(1, () => throw new InvalidOperationException("no room")));
        Assert.False(cache.Has(1));
        Assert.Equal(7, cache.Of(1, () => 7));
        Assert.Equal(7, cache.Of(1, () => throw new InvalidOperationException("asked twice")));
    }

    [Fact]
    public void Over_its_bytes_the_one_that_was_used_least_lately_goes()
    {
        var cache = new MemoCache<int, byte[]>(30_000, b => b.Length);
        byte[] Large() => new byte[9_000];
        foreach (var key in new[] { 1, 2, 3 })
        {
            cache.Of(key, Large);
        }

        cache.Of(1, () => throw new InvalidOperationException("it is there"));
        cache.Of(4, Large);
        Assert.Equal([true, false, true, true], new[] { 1, 2, 3, 4 }.Select(cache.Has));
        Assert.InRange(cache.Bytes, 27_000, 30_000);
        // One that is larger than all there may be stays until another one comes.
        cache.Of(5, () => new byte[90_000]);
        Assert.Equal([false, false, false, false, true], new[] { 1, 2, 3, 4, 5 }.Select(cache.Has));
        cache.Of(6, Large);
        Assert.False(cache.Has(5));
    }

    [Fact]
    public async Task Who_ask_at_the_same_time_get_one_result()
    {
        var cache = new MemoCache<int, object>(10_000);
        var made = 0;
        var all = await Task.WhenAll(
            Enumerable
                .Range(0, 8)
                .Select(_ => Task.Run(() => cache.Of(3, () =>
                        {
                            Thread.Sleep(30);
                            Interlocked.Increment(ref made);
                            return new object();
                        })))
        );
        Assert.Equal(1, made);
        Assert.All(all, o => Assert.Same(all[0], o));
    }
}
