namespace Eidolon.Core.Cleaning;

/// <summary>Parts of the body that can stand on something.</summary>
public enum ContactPoint
{
    /// <summary>The back of a sole.</summary>
    Heel,

    /// <summary>The front of a sole.</summary>
    Toe,

    /// <summary>A knee that kneels.</summary>
    Knee,

    /// <summary>A hand that leans.</summary>
    Hand,

    /// <summary>The pelvis, sitting.</summary>
    Seat,
}

/// <summary>A part of the body planted, frames inclusive.</summary>
/// <param name="Side">L or R; C for the seat.</param>
public readonly record struct PointContact(ContactPoint Point, char Side, int Start, int End);
