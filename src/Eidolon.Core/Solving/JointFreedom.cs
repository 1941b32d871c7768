namespace Eidolon.Core.Solving;

/// <summary>How one joint of a model may move. Angles in radians, axes are the joint's own.</summary>
/// <param name="Translates">Three translations in the parent's frame.</param>
/// <param name="Ball">Three turns at once (a ball joint); otherwise <paramref name="Axes"/> one after another.</param>
/// <param name="Axes">Axis indices (0 X, 1 Y, 2 Z) in the order they are applied, for joints that are no ball.</param>
public sealed record JointFreedom(bool Translates, bool Ball, IReadOnlyList<int> Axes)
{
    /// <summary>Spread of each turn around rest; infinite where anything is as likely. Ball joints: X, Y, Z of the rotation vector.</summary>
    public IReadOnlyList<double> Spread { get; init; } = [];

    /// <summary>Lowest and highest of each turn; empty where there is none.</summary>
    public IReadOnlyList<(double Low, double High)> Limits { get; init; } = [];

    /// <summary>Turns it has: 3 for a ball.</summary>
    public int Turns => Ball ? 3 : Axes.Count;

    /// <summary>Degrees of freedom.</summary>
    public int Count => (Translates ? 3 : 0) + Turns;
}
