using System.Text.Json.Nodes;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Operations;

/// <summary>Where a recording with a clock of its own lies on the take's.</summary>
/// <param name="OwnRate">Of the recording, frames a second.</param>
/// <param name="Late">How long after the take's first frame the recording's first one is, seconds; below 0 when it began before.</param>
/// <param name="FrameRate">Of the take, frames a second.</param>
/// <param name="Frames">Of the take.</param>
public sealed record TakeClock(double OwnRate, double Late, double FrameRate, int Frames)
{
    /// <summary>No recording begins farther from its take, seconds.</summary>
    private const double Farthest = 3600;

    /// <summary>Places a recording by the parameter <c>late</c> (seconds, 0 when left out).</summary>
    /// <exception cref="RefusedException">It is no number of seconds.</exception>
    public static TakeClock Of(RecordedValue recorded, double ownRate, JsonObject parameters)
    {
        var late = parameters.Number("late", 0);
        return Math.Abs(late) <= Farthest
            ? new TakeClock(ownRate, late, recorded.FrameRate, recorded.Frames)
            : throw new RefusedException($"a recording begins at most {Farthest:0} seconds before or after its take");
    }

    /// <summary>The recording's frame at a frame of the take, not whole.</summary>
    public double Own(double frame) => ((frame / FrameRate) - Late) * OwnRate;

    /// <summary>The take's frame at a frame of the recording, the nearest whole one within the take.</summary>
    public int Take(double own) => (int)Math.Clamp(Math.Round(((own / OwnRate) + Late) * FrameRate), 0, Math.Max(0, Frames - 1));

    /// <summary>What was decided in frames of the take, in frames of the recording.</summary>
    public IReadOnlyList<ContactEdit> Own(IReadOnlyList<ContactEdit> edits) =>
        [
            .. edits
                .Select(e => e with { Start = (int)Math.Round(Own(e.Start)), End = (int)Math.Round(Own(e.End)) })
                .Where(e => e.End >= 0)
                .Select(e => e with { Start = Math.Max(0, e.Start) }),
        ];

    /// <summary>A motion of the recording at every frame of the take; before the recording began and after it ended it holds still.</summary>
    public Motion Take(Motion motion) => MotionEdits.At(motion, f => Own(f), FrameRate, Frames);

    /// <summary>Ranges of a report, <c>start</c> and <c>end</c> of each, from frames of the recording to frames of the take.</summary>
    public void Take(JsonArray ranges)
    {
        foreach (var range in ranges.OfType<JsonObject>())
        {
            (range["start"], range["end"]) = (Take((int)range["start"]!), Take((int)range["end"]!));
        }
    }

    /// <summary>Says how much of the take the recording does not cover.</summary>
    /// <param name="ownFrames">Of the recording.</param>
    public void Warn(JsonArray warnings, int ownFrames, string what)
    {
        var still = Enumerable.Range(0, Frames).Count(f => Own(f) < -0.5 || Own(f) > ownFrames - 0.5);
        if (still > FrameRate)
        {
            warnings.Add((JsonNode)$"{what} says nothing of {still / FrameRate:0.0} s of the take: the figure holds still there");
        }
    }
}
