namespace Eidolon.Core.Cleaning;

/// <summary>Parts of the body that can stand on something.</summary>
public enum ContactPoint
{
    Heel,
    Toe,
    Knee,
    Hand,
    Seat,
}

/// <summary>A part of the body planted, frames inclusive.</summary>
/// <param name="Side">L or R; C for the seat.</param>
public readonly record struct PointContact(ContactPoint Point, char Side, int Start, int End);
