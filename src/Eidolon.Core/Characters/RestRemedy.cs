namespace Eidolon.Core.Characters;

/// <summary>One thing that puts a rest pose right by itself; see <see cref="RestReason"/> for what it is offered against.</summary>
public enum RestRemedy
{
    /// <summary>The whole figure turns until it faces +Z.</summary>
    TurnToFace,

    /// <summary>The left arm is stretched level to its side.</summary>
    ArmL,

    /// <summary>The right arm is stretched level to its side.</summary>
    ArmR,

    /// <summary>Legs stand under the hips.</summary>
    Legs,

    /// <summary>Both collarbones rise or fall to the mean of the two.</summary>
    Collarbones,

    /// <summary>Limbs of both sides get the mean of their lengths.</summary>
    Alike,

    /// <summary>The lowest point stands on the floor.</summary>
    Floor,
}
