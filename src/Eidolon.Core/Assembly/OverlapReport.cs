namespace Eidolon.Core.Assembly;

/// <summary>One overlap of a baked motion.</summary>
/// <param name="Clip">The later clip, counted from 0.</param>
/// <param name="Start">First frame.</param>
/// <param name="End">Last frame, inside the overlap.</param>
/// <param name="MovedMetres">How far the later clip was moved.</param>
/// <param name="TurnedDegrees">How far it was turned.</param>
/// <param name="SlideMillimetres">Farthest way of a planted heel or toe over the floor in one frame; not a number without feet.</param>
/// <param name="AccelerationPeakRatio">Greatest acceleration of a joint in the overlap against the greatest in both clips.</param>
/// <param name="TiltDegrees">How far a full turn tilted the clip out of the upright.</param>
/// <param name="Steps">Sides whose foot stood in both clips at places apart and was set anew.</param>
public sealed record OverlapReport(
    int Clip,
    int Start,
    int End,
    double MovedMetres,
    double TurnedDegrees,
    double SlideMillimetres,
    double AccelerationPeakRatio,
    double TiltDegrees,
    string Steps
)
{
    /// <summary>The same before a jolt was smoothed; not a number where nothing was.</summary>
    public double AccelerationPeakRatioBefore { get; init; } = double.NaN;

    /// <summary>Frames around the overlap that smoothing changed, both inside; null where none.</summary>
    public (int Start, int End)? Smoothed { get; init; }

    /// <summary>A planted foot that moves farther in a frame is seen to slide, millimetres.</summary>
    public const double MostSlide = 2;

    /// <summary>A jolt beyond this is felt.</summary>
    public const double JoltRatio = 1.5;

    /// <summary>What a person should know of it, in words.</summary>
    public IEnumerable<string> Warnings()
    {
        if (TiltDegrees > 1)
        {
            yield return $"clip {Clip + 1}: its full turn tilts it by {TiltDegrees:0}°";
        }

        if (AccelerationPeakRatio > JoltRatio)
        {
            yield return $"clip {Clip + 1}: it comes in with a jolt, {AccelerationPeakRatio:0.0} times the clips' own: overlap it longer, at another moment, or smooth it";
        }

        foreach (var side in Steps)
        {
            yield return $"clip {Clip + 1}: the {(side == 'L' ? "left" : "right")} foot stands in both clips at places apart, and takes a small step";
        }
    }
}
