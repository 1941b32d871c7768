namespace Eidolon.Core.Cleaning;

/// <summary>A range that a person has decided about, frames inclusive: planted there, or not.</summary>
/// <param name="Side">L or R; C for the seat.</param>
public readonly record struct ContactEdit(ContactPoint Point, char Side, int Start, int End, bool Planted);
