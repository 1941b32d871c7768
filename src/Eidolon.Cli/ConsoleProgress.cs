using System.Diagnostics;

namespace Eidolon.Cli;

/// <summary>A bar on stderr when that is a terminal and the work lasts more than a second.</summary>
internal sealed class ConsoleProgress(string name) : IProgress<double>
{
    private readonly Stopwatch _clock = Stopwatch.StartNew();
    private readonly Lock _lock = new();
    private long _last;

    public void Report(double value)
    {
        lock (_lock)
        {
            if (Console.IsErrorRedirected || _clock.ElapsedMilliseconds < 1000 || _clock.ElapsedMilliseconds - _last < 100)
            {
                return;
            }

            _last = _clock.ElapsedMilliseconds;
            var filled = (int)(value * 30);
            Console.Error.Write($"\r{name} [{new string('=', filled)}{new string(' ', 30 - filled)}] {value * 100, 3:0} %");
            if (value >= 1)
            {
                Console.Error.WriteLine();
            }
        }
    }
}
