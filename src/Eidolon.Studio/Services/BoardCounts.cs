using System.Collections.Concurrent;

namespace Eidolon.Studio.Services;

/// <summary>Counts the Findings of long takes for the Board behind the person's back, each once its take has rested for a while.</summary>
public sealed class BoardCounts(IServiceScopeFactory scopes, TimeProvider time, Faults faults, ILogger<BoardCounts> log) : BackgroundService
{
    private static readonly TimeSpan Rest = TimeSpan.FromSeconds(5);
    private static readonly TimeSpan Beat = TimeSpan.FromMilliseconds(500);

    private readonly ConcurrentDictionary<int, DateTimeOffset> _due = new();

    /// <summary>Takes that wait to be counted.</summary>
    public int Waiting => _due.Count;

    /// <summary>Counts a take later; every change puts it off again, and of several changes one count comes.</summary>
    public void Later(int take) => _due[take] = time.GetUtcNow() + Rest;

    /// <summary>Counts a take as soon as there is time: something it stands on has changed.</summary>
    public void Soon(int take) => _due.TryAdd(take, time.GetUtcNow());

    /// <summary>Counts those that are due. Taking them is one step: two that wait never put each other off.</summary>
    /// <returns>How many were counted.</returns>
    public int Turn(CancellationToken cancel = default)
    {
        var counted = 0;
        foreach (var (take, due) in _due.OrderBy(d => d.Value).ToArray())
        {
            if (due > time.GetUtcNow() || cancel.IsCancellationRequested || !_due.TryRemove(KeyValuePair.Create(take, due)))
            {
                continue;
            }

            counted++;
            try
            {
                using var scope = scopes.CreateScope();
                scope.ServiceProvider.GetRequiredService<TakeService>().Count(take);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                // The Board keeps its last numbers; the take itself is untouched.
                log.LogWarning(e, "The Findings of take {Take} could not be counted", take);
            }
        }

        return counted;
    }

    protected override Task ExecuteAsync(CancellationToken stoppingToken) =>
        faults.Beat("the Board's counts", Beat, () => Task.Run(() => Turn(stoppingToken), stoppingToken), stoppingToken);
}
