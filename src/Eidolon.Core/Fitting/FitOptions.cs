namespace Eidolon.Core.Fitting;

/// <summary>How a fit is damped and when it ends.</summary>
internal readonly record struct FitOptions
{
    public FitOptions() { }

    /// <summary>Steps at most.</summary>
    public int Steps { get; init; } = 50;

    /// <summary>Converged when a step lowers the cost by less than this share of it.</summary>
    public double Tolerance { get; init; } = 1e-7;

    /// <summary>Damping of the first step, as a share of the diagonal.</summary>
    public double Damping { get; init; } = 1e-4;

    /// <summary>After a step that helped the damping is this many times what it was.</summary>
    public double Shrink { get; init; } = 0.2;

    /// <summary>The first time a step does not help the damping grows by this much, the second by twice this, and so on (Nielsen).</summary>
    public double Growth { get; init; } = 8;

    /// <summary>Damping never falls below this.</summary>
    public double Least { get; init; } = 1e-9;

    /// <summary>Damping with which a step is tried again at least, however small the one before was.</summary>
    public double LeastAgain { get; init; } = 1e-9;

    /// <summary>Dampings tried for one step before the fit is given up.</summary>
    public int Attempts { get; init; } = 7;
}
