using System.Text.Json;
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

    /// <summary>Writes down how good a state is; as long as nothing is cleaned it is also what cleaning is measured against.</summary>
    public static void Write(Take take, StateNote note)
    {
        if (note.Quality is not { } q)
        {
            take.Quality = string.Empty;
            return;
        }

        var now = new Numbers(q.OpenGaps, q.LongestGap, double.IsFinite(q.Jitter) ? q.Jitter : null, note.Motion?.WorstSlide?.Millimetres);
        var cleaned = take.Ledger.Any(l => l.On && Core.Operations.OperationRegistry.Find(l.Operation).Step != "Label");
        take.Quality = JsonSerializer.Serialize(new TakeQuality(cleaned ? Of(take)?.Labelled : now, now));
    }
}
