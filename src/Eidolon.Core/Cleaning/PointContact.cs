namespace Eidolon.Core.Cleaning;

/// <summary>Parts of the body that can stand on something.</summary>
public enum ContactPoint
{
    Heel,
    Toe,
    Knee,
    Hand,
}

/// <summary>A part of the body planted, frames inclusive.</summary>
/// <param name="Side">L or R.</param>
public readonly record struct PointContact(ContactPoint Point, char Side, int Start, int End);
