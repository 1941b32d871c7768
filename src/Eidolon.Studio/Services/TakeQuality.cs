using System.Text.Json;
using Eidolon.Core.Operations;
using Eidolon.Storage.Model;

namespace Eidolon.Studio.Services;

/// <summary>What the day's table shows of a take: some measures as they were after its labels, and as they are now.</summary>
/// <param name="Labelled">Null when the take was first looked at after it was cleaned.</param>
public sealed record TakeQuality(TakeQuality.Numbers? Labelled, TakeQuality.Numbers Now)
{
    /// <param name="LongestGap">Seconds.</param>
    /// <param name="Jitter">m/s² above 15 Hz; null when the rate is too low to tell.</param>
    /// <param name="Slide">The contact that slides farthest, millimetres; null before the solve.</param>
    public sealed record Numbers(int OpenGaps, double LongestGap, double? Jitter, double? Slide);

    /// <summary>The stored measures; null before the first look.</summary>
    public static TakeQuality? Of(Take take) => take.Quality.Length == 0 ? null : JsonSerializer.Deserialize<TakeQuality>(take.Quality);

    /// <summary>How good a state is, to be stored; as long as nothing is cleaned it is also what cleaning is measured against.</summary>
    public static string Write(OpenTake open, StateNote note)
    {
        if (note.Quality is not { } q)
        {
            return string.Empty;
        }

        var now = new Numbers(q.OpenGaps, q.LongestGap, double.IsFinite(q.Jitter) ? q.Jitter : null, note.Motion?.WorstSlide?.Millimetres);
        var cleaned = open.Markers.Node.Entries.Any(e => e.On && OperationRegistry.TryFind(e.Operation, out var o) && o.Step != "Label");
        return JsonSerializer.Serialize(new TakeQuality(cleaned ? Of(open.Take)?.Labelled : now, now));
    }
}
