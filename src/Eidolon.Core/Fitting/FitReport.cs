namespace Eidolon.Core.Fitting;

/// <summary>How a fit went.</summary>
/// <param name="Before">Cost at the start.</param>
/// <param name="Cost">Cost at the end; never above <paramref name="Before"/>.</param>
/// <param name="Steps">Steps that were taken.</param>
/// <param name="Solves">Linear systems that were solved, refused steps with them.</param>
internal readonly record struct FitReport(double Before, double Cost, int Steps, int Solves, FitEnd End);
