using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>Frames in which a hand holds a prop, both inside.</summary>
/// <param name="Hand">HandL or HandR.</param>
/// <param name="Prop">Which of the props that were asked about.</param>
public sealed record Grip(BodyRole Hand, int Prop, int Start, int End);
