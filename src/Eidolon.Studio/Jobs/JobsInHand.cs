namespace Eidolon.Studio.Jobs;

/// <summary>
/// The jobs that run at this moment. When the studio stops they are told so, and the studio waits for them to let go of the production's
/// files; a job that was cut short stands in its row as running and is taken up again at the next start.
/// </summary>
/// <remarks>Registered before the scheduler: hosted services stop in the reverse order, so no job begins any more.</remarks>
public sealed class JobsInHand(IHostApplicationLifetime life) : IHostedService
{
    private readonly TaskCompletionSource _empty = new(TaskCreationOptions.RunContinuationsAsynchronously);
    private readonly Lock _gate = new();
    private int _running;
    private bool _stopping;

    /// <summary>Cancelled when the studio stops.</summary>
    public CancellationToken Stopping => life.ApplicationStopping;

    /// <summary>How many run now.</summary>
    public int Running
    {
        get
        {
            lock (_gate)
            {
                return _running;
            }
        }
    }

    /// <summary>A job begins; disposed when it let go of everything.</summary>
    public IDisposable Begin()
    {
        lock (_gate)
        {
            _running++;
        }

        return new Hand(this);
    }

    public Task StartAsync(CancellationToken cancellationToken) => Task.CompletedTask;

    /// <summary>Waits for the running jobs, as long as the host gives.</summary>
    public async Task StopAsync(CancellationToken cancellationToken)
    {
        lock (_gate)
        {
            _stopping = true;
            Settle();
        }

        try
        {
            await _empty.Task.WaitAsync(cancellationToken);
        }
        catch (OperationCanceledException)
        {
            // The host's patience is over: a kill could do no less, and the next start takes the job up.
        }
    }

    private void End()
    {
        lock (_gate)
        {
            _running--;
            Settle();
        }
    }

    private void Settle()
    {
        if (_stopping && _running == 0)
        {
            _empty.TrySetResult();
        }
    }

    private sealed class Hand(JobsInHand jobs) : IDisposable
    {
        private int _ended;

        public void Dispose()
        {
            if (Interlocked.Exchange(ref _ended, 1) == 0)
            {
                jobs.End();
            }
        }
    }
}
