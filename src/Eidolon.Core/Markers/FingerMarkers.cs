using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Markers;

/// <summary>Markers on fingers: they move against the hand, so a body is solved without them and the fingers by them.</summary>
public static class FingerMarkers
{
    /// <summary>Markers of a set that sit on fingers.</summary>
    public static IEnumerable<MarkerDefinition> Of(MarkerSet set) => set.Markers.Where(m => BodyRoles.IsFinger(m.Segment));

    /// <summary>
    /// The markers a body is solved by: all but those on fingers, which move against the hand. They stay where a hand has not two of its own.
    /// </summary>
    public static MarkerSet Body(MarkerSet set)
    {
        bool Own(char side) => set.Markers.Count(m => m.Segment == (side == 'L' ? BodyRole.HandL : BodyRole.HandR)) >= 2;
        var (left, right) = (Own('L'), Own('R'));
        bool Stays(MarkerDefinition m) => !BodyRoles.IsFinger(m.Segment) || !(BodyRoles.Side(m.Segment) == 'L' ? left : right);
        if (set.Markers.All(Stays))
        {
            return set;
        }

        MarkerDefinition[] kept = [.. set.Markers.Where(Stays)];
        var names = kept.Select(m => m.Name).ToHashSet(StringComparer.Ordinal);
        return set with { Markers = kept, Links = [.. set.Links.Where(l => names.Contains(l.A) && names.Contains(l.B))] };
    }
}
