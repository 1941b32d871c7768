using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Markers;

public sealed class MarkerSetCheckTests
{
    private static readonly MarkerTake Rom = Acts.Labelled(Acts.Perform("rom", new Person("Odd", 1.79f, 1.02f, 5), 2));

    [Fact]
    public void A_set_that_fits_has_no_misfits() => Assert.Empty(MarkerSetCheck.Against(HarbourMarkers.Set(), Rom));

    [Fact]
    public void Each_misfit_is_named_with_its_reason()
    {
        var set = HarbourMarkers.Set();
        var markers = set
            .Markers.Select(m => m.Name == "WristLittleL" ? m with { Segment = BodyRole.Head } : m)
            .Append(new MarkerDefinition("TailTip", BodyRole.Pelvis))
            .ToList();
        markers.RemoveAll(m => m.Name == "HeelR");
        var misfits = MarkerSetCheck.Against(set with { Markers = markers, Links = [] }, Rom);
        Assert.Equal(["HeelR", "TailTip", "WristLittleL"], misfits.Select(m => m.Marker).Order());
        Assert.Contains("not in the take", misfits.Single(m => m.Marker == "TailTip").Reason, StringComparison.Ordinal);
        Assert.Contains("not in the set", misfits.Single(m => m.Marker == "HeelR").Reason, StringComparison.Ordinal);
        Assert.Contains(
            "puts it on Head, but it moves against",
            misfits.Single(m => m.Marker == "WristLittleL").Reason,
            StringComparison.Ordinal
        );
    }
}
