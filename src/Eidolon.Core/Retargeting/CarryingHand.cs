using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>A character's hand that carries a prop for a while, as its performer's hand did.</summary>
/// <param name="Performer">As recorded: it says how the prop lies in the hand.</param>
/// <param name="Character">The same frames on the character.</param>
/// <param name="Hand">HandL or HandR.</param>
/// <param name="Start">First frame.</param>
/// <param name="End">Last frame, inside.</param>
/// <param name="Stays">Let go, the prop stays where it is until another hand has it; else it goes on as it was recorded.</param>
public sealed record CarryingHand(Motion Performer, Motion Character, BodyRole Hand, int Start, int End, bool Stays = false);

/// <summary>How one hand kept to the prop.</summary>
/// <param name="Hand">Which of the hands that were given.</param>
/// <param name="Millimetres">How far it is at most from where the performer's hand is on the prop.</param>
/// <param name="Frame">Where that is.</param>
public sealed record CarryDrift(int Hand, double Millimetres, int Frame);

/// <summary>What going by the hands did to a prop.</summary>
/// <param name="Drift">A line a hand, in the order they were given.</param>
/// <param name="MovedMetres">How far the prop is at most from where it was recorded.</param>
public sealed record CarryReport(IReadOnlyList<CarryDrift> Drift, double MovedMetres);
