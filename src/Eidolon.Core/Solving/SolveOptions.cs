namespace Eidolon.Core.Solving;

/// <summary>How one frame is fitted.</summary>
public sealed record SolveOptions
{
    /// <summary>Expected marker error including soft tissue, metres; sets how much spreads and limits weigh.</summary>
    public double MarkerSigma { get; init; } = 0.004;

    /// <summary>Residual at which a marker counts half (Cauchy loss), metres; infinite for plain least squares.</summary>
    public double RobustScale { get; init; } = 0.03;

    /// <summary>Spread of the change from one frame to the next where no marker says otherwise, radians or metres; infinite for none.</summary>
    public double FrameSpread { get; init; } = 0.35;

    /// <summary>Stop after a step whose relative change of cost is at most this.</summary>
    public double Tolerance { get; init; } = 1e-6;

    /// <summary>Steps a frame may take.</summary>
    public int MaximumSteps { get; init; } = 40;
}
