using Eidolon.Cli;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Tests.Operations;

/// <summary>What is done to names: which frames change, what stays pinned, and what is said of it.</summary>
public sealed class NameOperationTests
{
    private static readonly MarkerValue Three = new(Told.Seen(20, ("Crown", 0, 9), ("KneeL", 3, 15), ("Dot_001", 4, 12)));

    private static readonly FileResources Worn = new()
    {
        Set = new MarkerSet("small", [new MarkerDefinition("Crown", BodyRole.Head), new MarkerDefinition("KneeL", BodyRole.ShinL)], []),
    };

    private static MarkerValue Pinned(params PinnedLabel[] pinned) => Three with { Pinned = pinned };

    private static (string Summary, string Take, string Pins) Run(string operation, MarkerValue value, string parameters)
    {
        var r = Told.Run(operation, value, parameters, Worn);
        Assert.Empty(r.Report);
        var v = (MarkerValue)r.Value;
        return (r.Summary, Told.Of(v.Take), Told.Of(v.Pinned));
    }

    [Fact]
    public void A_name_given_by_hand_is_pinned_where_its_dot_is_seen()
    {
        Assert.Equal(
            ("Dot_001 is BrowL", "Crown 0-9; KneeL 3-15; BrowL 4-12", "BrowL 4-12"),
            Run("set-label", Three, "{'dot':'Dot_001','name':'BrowL'}")
        );
        Assert.Equal(("Crown pinned", Told.Of(Three.Take), "Crown 0-9"), Run("set-label", Three, "{'dot':'Crown','name':'Crown'}"));
        // Taken off, it is pinned no more, and what else is pinned stays.
        Assert.Equal(
            ("Crown has no name", "Dot_002 0-9; KneeL 3-15; Dot_001 4-12", "KneeL 3-15"),
            Run("set-label", Pinned(new("Crown", 0, 9), new("KneeL", 3, 15)), "{'dot':'Crown','name':''}")
        );
        // The first name of the take can be joined too.
        var (said, take, pins) = Run("set-label", Three, "{'dot':'Dot_001','name':'Crown'}");
        Assert.Equal(("Dot_001 is Crown", "Crown 4-12"), (said, pins));
        Assert.StartsWith("Crown 0-12; KneeL 3-15", take, StringComparison.Ordinal);
        Assert.Contains("no trajectory 'Dot_9'", Told.Refused("set-label", Three, "{'dot':'Dot_9','name':'A'}"), StringComparison.Ordinal);
        Assert.Contains("'dot' must be given", Told.Refused("set-label", Three, "{}"), StringComparison.Ordinal);
        Assert.Contains("no markers", Told.Refused("set-label", null, "{'dot':'A'}"), StringComparison.Ordinal);
    }

    [Fact]
    public void Two_names_trade_places_in_a_range_or_everywhere()
    {
        Assert.Equal(
            ("Crown and KneeL, 5 to 6", "Crown 0-9; KneeL 3-15", ""),
            Without(Run("exchange", Three, "{'a':'Crown','b':'KneeL','from':5,'to':6}"))
        );
        var (said, take, _) = Run("exchange", Three, "{'a':'Crown','b':'KneeL'}");
        Assert.Equal("Crown and KneeL, 0 to 19", said);
        Assert.StartsWith("Crown 3-15; KneeL 0-9", take, StringComparison.Ordinal);
        var part = (MarkerValue)Told.Run("exchange", Three, "{'a':'Crown','b':'KneeL','from':5,'to':6}").Value;
        Assert.Equal([0, 1, 1, 0], new[] { 4, 5, 6, 7 }.Select(f => (int)part.Take[f, 0].X));
    }

    [Theory]
    [InlineData("{}", "2 names off, 0 to 19", "")]
    [InlineData("{'part':'Head'}", "1 name off, 0 to 19", "KneeL 3-15")]
    [InlineData("{'part':'Left leg','from':5,'to':8}", "1 name off, 5 to 8", "Crown 0-9; KneeL 3-4,9-15")]
    [InlineData("{'marker':'Crown'}", "1 name off, 0 to 19", "KneeL 3-15")]
    [InlineData("{'performer':'Ines'}", "0 names off, 0 to 19", "Crown 0-9; KneeL 3-15")]
    [InlineData("{'part':'Trunk'}", "0 names off, 0 to 19", "Crown 0-9; KneeL 3-15")]
    public void Labels_are_taken_off_by_part_marker_performer_and_range(string parameters, string said, string left)
    {
        var (summary, take, _) = Run("unlabel", Three, parameters);
        Assert.Equal(said, summary);
        Assert.Equal(
            left,
            string.Join("; ", take.Split("; ").Where(t => !t.StartsWith("Dot_", StringComparison.Ordinal) && !t.EndsWith(' ')))
        );
        // No sample is lost.
        var all = (MarkerValue)Told.Run("unlabel", Three, parameters, Worn).Value;
        Assert.Equal(Three.Take.Positions.Count(MarkerTake.Seen), all.Take.Positions.Count(MarkerTake.Seen));
    }

    [Fact]
    public void What_was_pinned_stays_where_it_was_pinned_if_it_is_asked_to()
    {
        var value = Pinned(new PinnedLabel("Crown", 2, 5));
        string Names(string parameters) =>
            Run("unlabel", value, parameters).Take.Split("; ").First(t => t.StartsWith("Crown", StringComparison.Ordinal));
        Assert.Equal("Crown 2-5", Names("{'pinned':'keep'}"));
        Assert.Equal("Crown ", Names("{}"));
    }

    [Fact]
    public void Trajectories_are_cut_joined_and_thrown_away()
    {
        var (said, take, _) = Run("split", Three, "{'name':'Crown','frame':6}");
        Assert.Equal("Crown at 6", said);
        Assert.Contains("Crown 0-5", take, StringComparison.Ordinal);
        Assert.Contains(" 6-9", take, StringComparison.Ordinal);
        Assert.Equal("Dot_001 to Crown", Run("join", Three, "{'name':'Dot_001','into':'Crown'}").Summary);
        Assert.Equal(("Dot_001", "Crown 0-9; KneeL 3-15", ""), Run("discard", Three, "{'name':'Dot_001'}"));
        Assert.Equal("Crown has a name: take the label off first", Told.Refused("discard", Three, "{'name':'Crown'}"));
        Assert.Equal("there is no trajectory 'Dot_7' in the take", Told.Refused("discard", Three, "{'name':'Dot_7'}"));
        Assert.Equal(("0 scraps to 3 frames", Told.Of(Three.Take), ""), Run("tidy", Three, "{'longest':3}"));
        // The dot is seen in nine frames: a scrap by what is usual.
        Assert.Equal(("1 scrap to 12 frames", "Crown 0-9; KneeL 3-15", ""), Run("tidy", Three, "{}"));
        Assert.Equal("1 scrap to 9 frames", Run("tidy", Three, "{'longest':9}").Summary);
    }

    [Fact]
    public void Of_a_short_stretch_nobody_is_known() =>
        Assert.Equal(
            "a range of at least 10 frames is needed to know a body by its movement; 3 to 8 were asked for",
            Told.Refused("label", Three, "{'from':3,'to':8}", Worn)
        );

    private static (string, string, string) Without((string Summary, string Take, string Pins) r) =>
        (r.Summary, string.Join("; ", r.Take.Split("; ").Take(2)), r.Pins);
}
