namespace Eidolon.Core.Fitting;

/// <summary>Why a fit ended.</summary>
internal enum FitEnd
{
    /// <summary>The last step changed next to nothing.</summary>
    Converged,

    /// <summary>No damping led to a lower cost.</summary>
    NoBetterStep,

    /// <summary>The steps allowed were used up.</summary>
    StepsUsed,
}
