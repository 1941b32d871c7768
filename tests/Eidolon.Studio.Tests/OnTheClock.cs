using System.Diagnostics;

namespace Eidolon.Studio.Tests;

/// <summary>Tests of devices that send by the clock: they run alone, as a stage does not share its machine with other work.</summary>
[CollectionDefinition(nameof(OnTheClock), DisableParallelization = true)]
public sealed class OnTheClock
{
    /// <summary>A thread that wants to sleep a few milliseconds and wakes so late was kept from the processor.</summary>
    private static readonly TimeSpan Away = TimeSpan.FromMilliseconds(80);

    /// <summary>Tries again what failed while other machines had the processor, three times at the most; what fails on a free one has failed.</summary>
    /// <param name="once">Records and looks; the number of the try, from 1.</param>
    public static async Task Again(Func<int, Task> once)
    {
        for (var k = 1; ; k++)
        {
            using var watch = new Watch();
            try
            {
                await once(k);
                return;
            }
            catch (Xunit.Sdk.XunitException) when (k < 3 && watch.Longest > Away) { }
        }
    }

    /// <summary>Watches how late a thread of its own wakes.</summary>
    private sealed class Watch : IDisposable
    {
        private readonly Thread _thread;
        private volatile bool _over;
        private long _longest;

        public Watch()
        {
            _thread = new Thread(Look) { IsBackground = true, Priority = ThreadPriority.Highest };
            _thread.Start();
        }

        public TimeSpan Longest => TimeSpan.FromTicks(Interlocked.Read(ref _longest));

        public void Dispose()
        {
            _over = true;
            _thread.Join();
        }

        private void Look()
        {
            while (!_over)
            {
                var slept = Stopwatch.StartNew();
                Thread.Sleep(5);
                Interlocked.Exchange(ref _longest, Math.Max(Interlocked.Read(ref _longest), slept.Elapsed.Ticks));
            }
        }
    }
}
