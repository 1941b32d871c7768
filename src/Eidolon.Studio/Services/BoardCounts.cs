using System.Threading.Channels;

namespace Eidolon.Studio.Services;

/// <summary>Counts the Findings of long takes for the Board behind the person's back, one take after the other.</summary>
public sealed class BoardCounts(IServiceScopeFactory scopes, ILogger<BoardCounts> log) : BackgroundService
{
    private static readonly TimeSpan Rest = TimeSpan.FromSeconds(10);

    private readonly Channel<int> _takes = Channel.CreateUnbounded<int>();

    public void Later(int take) => _takes.Writer.TryWrite(take);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        await foreach (var take in _takes.Reader.ReadAllAsync(stoppingToken))
        {
            // Somebody is at work: the numbers can wait until the hand rests, and of several changes the last one counts.
            await Task.Delay(Rest, stoppingToken);
            if (_takes.Reader.Count > 0)
            {
                _takes.Writer.TryWrite(take);
                while (_takes.Reader.TryPeek(out var next) && next == take && _takes.Reader.Count > 1)
                {
                    _takes.Reader.TryRead(out _);
                }

                continue;
            }

            try
            {
                using var scope = scopes.CreateScope();
                await scope.ServiceProvider.GetRequiredService<TakeService>().Count(take, stoppingToken);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                // The Board keeps its last numbers; the take itself is untouched.
                log.LogWarning(e, "The Findings of take {Take} could not be counted", take);
            }
        }
    }
}
