using Eidolon.Core.Markers;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Labelling;

/// <summary>A performer whose shape a reference take taught: the body and poses it has been seen in.</summary>
/// <param name="Prefix">Put before marker names, or null with one performer.</param>
public sealed record LabelSubject(string? Prefix, Performer Performer, IReadOnlyList<ModelPose> Poses)
{
    /// <summary>Learns a performer from a labelled take.</summary>
    public static LabelSubject Learn(
        string? prefix,
        MarkerTake reference,
        MarkerSet set,
        CancellationToken cancel = default,
        IProgress<double>? progress = null
    )
    {
        var (performer, _) = PerformerCalibration.Calibrate(prefix ?? "performer", reference, set, cancel, progress);
        return From(prefix, performer, reference, cancel);
    }

    /// <summary>A calibrated performer with poses from a labelled take of theirs.</summary>
    public static LabelSubject From(string? prefix, Performer performer, MarkerTake reference, CancellationToken cancel = default)
    {
        // A dozen poses a take are enough to begin from; the solve does the rest.
        var step = Math.Max(1, reference.FrameCount / 480);
        var thin = new MarkerTake(reference.Names, reference.FrameRate / step, (reference.FrameCount + step - 1) / step);
        for (var f = 0; f < thin.FrameCount; f++)
        {
            reference.At(f * step).CopyTo(thin.At(f));
        }

        return new LabelSubject(prefix, performer, TakeSolver.Poses(performer, thin, Math.Max(1, thin.FrameCount / 48), cancel));
    }
}
