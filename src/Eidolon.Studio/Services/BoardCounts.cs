using System.Threading.Channels;

namespace Eidolon.Studio.Services;

/// <summary>Counts the Findings of long takes for the Board behind the person's back, one take after the other.</summary>
public sealed class BoardCounts(IServiceScopeFactory scopes, ILogger<BoardCounts> log) : BackgroundService
{
    private readonly Channel<int> _takes = Channel.CreateUnbounded<int>();

    public void Later(int take) => _takes.Writer.TryWrite(take);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        await foreach (var take in _takes.Reader.ReadAllAsync(stoppingToken))
        {
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
