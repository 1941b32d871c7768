using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>An elbow or knee that what is held bends too much, or that cannot be where it is held as well.</summary>
/// <param name="Role">Forearm or shin: the joint that bends.</param>
/// <param name="Start">First frame.</param>
/// <param name="End">Last frame.</param>
/// <param name="Degrees">Most bent, degrees away from straight.</param>
/// <param name="Millimetres">Most off its own held place; 0 when it is not held.</param>
public sealed record BendRange(BodyRole Role, int Start, int End, double Degrees, double Millimetres);
