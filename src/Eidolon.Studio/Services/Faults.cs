using System.Collections.Concurrent;

namespace Eidolon.Studio.Services;

/// <summary>Faults of parts that run by themselves: logged, shown for a while, and the part tries again. None of them ends the studio.</summary>
public sealed class Faults(TimeProvider time, ILogger<Faults> log)
{
    private static readonly TimeSpan Shown = TimeSpan.FromMinutes(10);
    private static readonly TimeSpan LongestPause = TimeSpan.FromSeconds(10);
    private readonly ConcurrentDictionary<string, (DateTimeOffset At, string Words)> _latest = new(StringComparer.Ordinal);

    /// <summary>What went wrong of late, a sentence a part.</summary>
    public IReadOnlyList<string> Recent =>
        [
            .. _latest
                .Where(f => time.GetUtcNow() - f.Value.At < Shown)
                .OrderByDescending(f => f.Value.At)
                .Select(f => $"{f.Key}: {f.Value.Words} ({f.Value.At.ToLocalTime():HH:mm})"),
        ];

    /// <param name="part">Whose, in words for persons, such as "the recorder".</param>
    public void Note(string part, Exception fault)
    {
        log.LogError(fault, "{Part} failed and tries again", part);
        _latest[part] = (time.GetUtcNow(), Security.Answers.WordsOf(fault) ?? "a fault; it was tried again, and the log says more");
    }

    /// <summary>It works again.</summary>
    public void Mended(string part) => _latest.TryRemove(part, out _);

    /// <summary>Does something until it works, with longer pauses each time.</summary>
    public async Task Until(string part, Func<Task> work, CancellationToken cancel)
    {
        for (var pause = TimeSpan.FromMilliseconds(200); ; pause = pause * 2 < LongestPause ? pause * 2 : LongestPause)
        {
            try
            {
                await work();
                return;
            }
            catch (Exception e) when (!cancel.IsCancellationRequested)
            {
                Note(part, e);
                await Task.Delay(pause, time, cancel);
            }
        }
    }

    /// <summary>Does something at every beat; a beat that fails costs itself.</summary>
    public async Task Beat(string part, TimeSpan every, Func<Task> work, CancellationToken cancel)
    {
        using var timer = new PeriodicTimer(every, time);
        try
        {
            while (await timer.WaitForNextTickAsync(cancel))
            {
                try
                {
                    await work();
                }
                catch (Exception e) when (!cancel.IsCancellationRequested)
                {
                    Note(part, e);
                }
            }
        }
        catch (OperationCanceledException)
        {
            log.LogDebug("{Part} ends", part);
        }
    }
}
