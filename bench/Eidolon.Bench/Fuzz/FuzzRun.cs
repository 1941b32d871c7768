using System.Diagnostics;
using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using Eidolon.Core;

namespace Eidolon.Bench.Fuzz;

/// <summary>
/// Files made wrong at random, by mutation and with what they answered as guidance: a file that brings a new complaint is made wrong further.
/// Everything but a clear complaint, 10 seconds and 20 × the file + 64 MB is a failure, and its smallest form is kept.
/// </summary>
internal static partial class FuzzRun
{
    private const int Factor = 20;
    private const long Least = 64L << 20;
    private const int MostSeconds = 10;
    private const int MostCorpus = 400;
    private const int LargestInput = 40_000;

    private sealed record Outcome(string Fault, string Signature, double Seconds, long Bytes);

    /// <param name="minutes">All formats together; the time is shared out evenly.</param>
    /// <param name="folder">Where failing inputs are put.</param>
    /// <param name="least">Inputs of each format at least, whatever the minutes.</param>
    public static int Run(double minutes, string? only, string folder, long least)
    {
        var formats = FuzzFormat.All().Where(f => only is null || f.Name.Contains(only, StringComparison.OrdinalIgnoreCase)).ToList();
        Console.WriteLine(
            $"{"format", -16}{"inputs", 12}{"taken", 10}{"refused", 12}{"ways", 7}{"slowest", 10}{"most × file", 13}{"failures", 10}"
        );
        var failures = 0;
        foreach (var format in formats)
        {
            failures += One(format, TimeSpan.FromMinutes(minutes / formats.Count), least, folder);
        }

        return failures;
    }

    private static int One(FuzzFormat format, TimeSpan time, long least, string folder)
    {
        var random = new Random(20261128);
        var mutator = new Mutator(random, format.Words);
        var corpus = format.Seeds.ToList();
        var seen = new HashSet<string>(StringComparer.Ordinal);
        var faults = new Dictionary<string, byte[]>(StringComparer.Ordinal);
        var clock = Stopwatch.StartNew();
        long inputs = 0,
            taken = 0;
        double slowest = 0,
            most = 0;
        foreach (var seed in format.Seeds)
        {
            format.Read(seed);
        }

        using var watch = new Watch(format.Name, folder);
        while (clock.Elapsed < time || inputs < least)
        {
            var input = mutator.Make(corpus, format.Seeds.Count);
            if (input.Length > LargestInput)
            {
                continue;
            }

            inputs++;
            watch.Now = input;
            var outcome = Try(format, input);
            watch.Now = null;
            taken += outcome.Signature.Length == 0 ? 1 : 0;
            slowest = Math.Max(slowest, outcome.Seconds);
            most = Math.Max(most, outcome.Bytes / (double)Math.Max(4096, input.Length));
            if (outcome.Fault.Length > 0 && !faults.ContainsKey(outcome.Fault))
            {
                faults[outcome.Fault] = Smaller(format, input, outcome.Fault);
                Keep(format, faults[outcome.Fault], outcome.Fault, folder, faults.Count);
            }

            // Files that are taken lead further than those that are not.
            var more = outcome.Signature.Length == 0 ? random.Next(50) == 0 : seen.Add(outcome.Signature);
            if (more && input.Length < LargestInput / 2 && corpus.Count < MostCorpus)
            {
                corpus.Add(input);
            }
        }

        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{format.Name, -16}{inputs, 12:N0}{taken, 10:N0}{inputs - taken, 12:N0}{seen.Count, 7}{slowest, 8:0.00} s{most, 13:0.0}{faults.Count, 10}"
            )
        );
        return faults.Count;
    }

    private static Outcome Try(FuzzFormat format, byte[] input)
    {
        var before = GC.GetAllocatedBytesForCurrentThread();
        var clock = Stopwatch.GetTimestamp();
        var (fault, signature) = (string.Empty, string.Empty);
        try
        {
            format.Read(input);
        }
        catch (InvalidInputException e)
        {
            signature = Digits().Replace($"{e.Place}: {e.Reason}", "0");
            signature = signature.Length > 40 ? signature[..40] : signature;
            if (e.Place.Length == 0 || e.Reason.Length < 5)
            {
                fault = "a complaint without a place or a reason";
            }
        }
        catch (Exception e)
        {
            signature = fault = $"{e.GetType().Name} at {e.StackTrace?.Split('\n')[0].Trim()}";
        }

        var seconds = Stopwatch.GetElapsedTime(clock).TotalSeconds;
        var bytes = GC.GetAllocatedBytesForCurrentThread() - before;
        fault =
            fault.Length > 0 ? fault
            : seconds > MostSeconds ? "slow"
            : bytes > ((long)Factor * input.Length) + Least ? "memory"
            : string.Empty;
        return new Outcome(fault, signature, seconds, bytes);
    }

    /// <summary>Pieces are left out as long as the same goes wrong.</summary>
    private static byte[] Smaller(FuzzFormat format, byte[] input, string fault)
    {
        var clock = Stopwatch.StartNew();
        for (var piece = input.Length / 2; piece > 0 && clock.Elapsed.TotalSeconds < 30; piece /= 2)
        {
            for (var at = 0; at + piece <= input.Length && clock.Elapsed.TotalSeconds < 30; )
            {
                byte[] shorter = [.. input[..at], .. input[(at + piece)..]];
                if (Try(format, shorter).Fault == fault)
                {
                    input = shorter;
                }
                else
                {
                    at += piece;
                }
            }
        }

        return input;
    }

    private static void Keep(FuzzFormat format, byte[] input, string fault, string folder, int number)
    {
        Directory.CreateDirectory(folder);
        var name = $"{format.Name.Replace(' ', '-')}-{number}";
        File.WriteAllBytes(Path.Combine(folder, name + ".bin"), input);
        File.WriteAllText(Path.Combine(folder, name + ".txt"), fault, Encoding.UTF8);
        Console.WriteLine($"  {name}: {fault} ({input.Length} bytes)");
    }

    [GeneratedRegex("[0-9.eE+-]+|'[^']*'")]
    private static partial Regex Digits();

    /// <summary>An input that never ends is kept, and the run is ended.</summary>
    private sealed class Watch : IDisposable
    {
        private readonly Timer _timer;
        private byte[]? _last;

        public Watch(string format, string folder) =>
            _timer = new Timer(
                _ =>
                {
                    if (Now is { } now && ReferenceEquals(now, _last))
                    {
                        Directory.CreateDirectory(folder);
                        File.WriteAllBytes(Path.Combine(folder, $"{format.Replace(' ', '-')}-hangs.bin"), now);
                        Console.WriteLine($"  {format}: an input of {now.Length} bytes does not end");
                        Environment.Exit(3);
                    }

                    _last = Now;
                },
                null,
                TimeSpan.FromSeconds(20),
                TimeSpan.FromSeconds(20)
            );

        public byte[]? Now { get; set; }

        public void Dispose() => _timer.Dispose();
    }
}
