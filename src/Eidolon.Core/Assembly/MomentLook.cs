namespace Eidolon.Core.Assembly;

/// <summary>What was found where two motions are laid over one another.</summary>
/// <param name="Moments">Good moments, best first.</param>
/// <param name="Step">Frames between two values of <paramref name="Apart"/>.</param>
/// <param name="Apart">How far the joints are apart in the best overlap that begins at each frame of the earlier motion, millimetres.</param>
public sealed record MomentLook(IReadOnlyList<OverlapMoment> Moments, int Step, IReadOnlyList<double> Apart);
