using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.People;

namespace Eidolon.Core.Tests.Markers;

public sealed class MarkerSetEditsTests
{
    [Fact]
    public void A_half_set_mirrors_to_the_whole()
    {
        var whole = HarbourMarkers.Set(HarbourCast.Ines);
        var half = whole with
        {
            Markers = [.. whole.Markers.Where(m => m.Name[^1] != 'R')],
            Links = [.. whole.Links.Where(l => l.A[^1] != 'R' && l.B[^1] != 'R')],
        };
        var mirrored = MarkerSetEdits.Mirror(half);
        Assert.Equal(whole.Markers.Select(m => m.Name).Order(), mirrored.Markers.Select(m => m.Name).Order());
        var left = mirrored.Find("HeelL")!;
        var right = mirrored.Find("HeelR")!;
        Assert.Equal(BodyRole.FootR, right.Segment);
        Assert.Equal(left.Offset!.Value * new Vector3(-1, 1, 1), right.Offset!.Value);
        Assert.Equal(mirrored.Markers.Count, MarkerSetEdits.Mirror(mirrored).Markers.Count);
    }

    [Fact]
    public void Markers_go_in_and_out_with_their_links()
    {
        var set = MarkerSetEdits.Add(new MarkerSet("x", [], []), "A", BodyRole.Head);
        set = MarkerSetEdits.Add(set, "B", BodyRole.Head) with { Links = [("A", "B")] };
        Assert.Throws<RefusedException>(() => MarkerSetEdits.Add(set, "A", BodyRole.Head));
        Assert.Throws<RefusedException>(() => MarkerSetEdits.Add(set, "p:q", BodyRole.Head));
        var less = MarkerSetEdits.Remove(set, "A");
        Assert.Single(less.Markers);
        Assert.Empty(less.Links);
    }
}
