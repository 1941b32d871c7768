using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>A limb of a character, how it is held, and what hangs from it.</summary>
internal sealed class Limb
{
    public Limb(Skeleton s, (BodyRole Upper, BodyRole Lower, BodyRole End) roles, RetargetSetup setup)
    {
        (_, Lower, End) = roles;
        Reach = new LimbReach(s, roles.Upper, roles.Lower, roles.End);
        (Hold, Middle) = (setup.Hold(End), setup.Hold(Lower));
        var (upper, lower, end) = Reach.Joints;
        // Toes keep their turn in the world; fingers go with the hand.
        int[] world = End is BodyRole.FootL or BodyRole.FootR ? s.Branch(end) : [end];
        Hanging = [.. s.Branch(upper).Where(j => j != upper && j != lower).Select(j => (j, !world.Contains(j)))];
    }

    /// <summary>Where it bends: a forearm's or shin's joint.</summary>
    public BodyRole Lower { get; }

    /// <summary>A hand or foot.</summary>
    public BodyRole End { get; }

    /// <summary>How its bones are turned.</summary>
    public LimbReach Reach { get; }

    /// <summary>How its end is held.</summary>
    public Holding Hold { get; }

    /// <summary>How its elbow or knee is held.</summary>
    public Holding Middle { get; }

    /// <summary>Joints below it besides its own bones, parents first, and whether a moved bone carries their turn.</summary>
    public (int Joint, bool Carried)[] Hanging { get; }
}
