namespace Eidolon.Core.Fitting;

/// <summary>A non-linear least-squares problem that stands somewhere and can be moved by damped steps.</summary>
/// <remarks>What the unknowns are, how their equations are built and which structure is used to solve them is the problem's own affair.</remarks>
internal interface ILeastSquares
{
    /// <summary>Half the weighted sum of squares where the problem stands (or any fixed multiple of it).</summary>
    double Cost();

    /// <summary>Builds the normal equations where the problem stands.</summary>
    void Linearise();

    /// <summary>Solves them with a damping and looks at the place the step leads to, without going there.</summary>
    /// <returns>The cost there, or null when the damped equations cannot be solved.</returns>
    double? Try(double damping);

    /// <summary>Goes to the place last tried.</summary>
    void Accept();

    /// <summary>Stays; undoes whatever <see cref="Try"/> had to move.</summary>
    void Reject();
}
