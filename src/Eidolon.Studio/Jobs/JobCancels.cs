using System.Collections.Concurrent;

namespace Eidolon.Studio.Jobs;

/// <summary>Stop buttons and progress of running jobs.</summary>
public sealed class JobCancels
{
    private readonly ConcurrentDictionary<int, CancellationTokenSource> _sources = new();
    private readonly ConcurrentDictionary<int, double> _progress = new();

    public CancellationToken For(int id) => _sources.GetOrAdd(id, _ => new CancellationTokenSource()).Token;

    public void Stop(int id) => _sources.GetOrAdd(id, _ => new CancellationTokenSource()).Cancel();

    public double ProgressOf(int id) => _progress.GetValueOrDefault(id);

    public IProgress<double> Progress(int id) => new Sink(v => _progress[id] = v);

    public void Forget(int id)
    {
        _progress.TryRemove(id, out _);
        if (_sources.TryRemove(id, out var s))
        {
            s.Dispose();
        }
    }

    private sealed class Sink(Action<double> set) : IProgress<double>
    {
        public void Report(double value) => set(value);
    }
}
