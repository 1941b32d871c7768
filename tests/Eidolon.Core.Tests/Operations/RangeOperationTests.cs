using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Cli;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Tests.Operations;

/// <summary>Ranges that are cut out, decided about, hidden and mended: which frames, what moves along, and what is said.</summary>
public sealed class RangeOperationTests
{
    private static MotionValue Still(int frames, int first = 0) => new(Motion.AtRest(Anthropometry.Body(1.7f), 60, frames).From(first));

    private static string Of(IEnumerable<ContactEdit> edits) =>
        string.Join("; ", edits.Select(e => $"{e.Point}{e.Side} {e.Start}-{e.End}{(e.Planted ? "" : " free")}"));

    [Fact]
    public void A_trim_takes_pinned_names_along_as_far_as_they_reach()
    {
        var value = new MarkerValue(Told.Seen(60, ("A", 0, 59), ("B", 10, 40)))
        {
            Pinned = [new("A", 0, 59), new("B", 10, 20), new("A", 2, 19), new("B", 40, 50), new("A", 20, 20), new("B", 41, 44)],
            Automatic = ["B"],
        };
        var r = Told.Run("trim", value, "{'from':20,'to':40}");
        var v = (MarkerValue)r.Value;
        Assert.Equal("20 to 40, 21 frames", r.Summary);
        Assert.Equal("A 0-20; B 0-20", Told.Of(v.Take));
        Assert.Equal("A 0-20; B 0-0; B 20-20; A 0-0", Told.Of(v.Pinned));
        Assert.Equal(["B"], v.Automatic);
        Assert.Equal(0.020f, v.Take[0, 0].Z, 6);
        // Beyond its ends a take ends.
        Assert.Equal("0 to 59, 60 frames", Told.Run("trim", value, "{'from':-5,'to':99}").Summary);
        Assert.Equal("50 to 59, 10 frames", Told.Run("trim", value, "{'from':50}").Summary);
        Assert.Equal(
            "at least 10 frames must stay; frames 51 to 59 were asked for, the take has 60",
            Told.Refused("trim", value, "{'from':51}")
        );
        Assert.Contains(
            "no markers to trim",
            Told.Refused("trim", new MarkerValue(new MarkerTake([], 60, 30)), "{}"),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void A_trimmed_motion_takes_decided_contacts_along()
    {
        var value = Still(60) with
        {
            Contacts =
            [
                new(ContactPoint.Heel, 'L', 0, 19, true),
                new(ContactPoint.Heel, 'L', 5, 20, true),
                new(ContactPoint.Toe, 'R', 25, 30, false),
                new(ContactPoint.Toe, 'R', 40, 55, true),
                new(ContactPoint.Toe, 'R', 41, 55, true),
            ],
        };
        var r = Told.Run("trim-motion", value, "{'from':20,'to':40}");
        Assert.Equal("20 to 40, 21 frames", r.Summary);
        Assert.Equal(21, r.Value.FrameCount);
        Assert.Equal("HeelL 0-0; ToeR 5-10 free; ToeR 20-20", Of(((MotionValue)r.Value).Contacts));
        Assert.Equal("the take holds nothing to trim", Told.Refused("trim-motion", null, "{}"));
    }

    [Fact]
    public void A_contact_stays_with_its_moment_when_the_motion_was_trimmed_since()
    {
        // Decided when frame 0 was the recording's 100; now it begins at 110.
        var r = Told.Run(
            "contacts",
            Still(50, 110),
            "{'point':'toe','side':'R','first':100,'edits':[{'start':4,'end':8},{'start':5,'end':14,'planted':false},"
                + "{'start':20,'end':30},{'start':59,'end':70},{'start':60,'end':70}]}"
        );
        Assert.Equal("ToeR 0-4 free; ToeR 10-20; ToeR 49-60", Of(((MotionValue)r.Value).Contacts));
        Assert.Equal("toe R: planted 4 to 8, free 5 to 14, planted 20 to 30, planted 59 to 70, planted 60 to 70", r.Summary);
        Assert.Empty(r.Report);
        // A range that ends in the first frame that is left stays for that frame.
        r = Told.Run("contacts", Still(50, 110), "{'point':'Toe','side':'L','first':100,'edits':[{'start':2,'end':10}]}");
        Assert.Equal("ToeL 0-0", Of(((MotionValue)r.Value).Contacts));
        // Without a first frame the frames are those of the motion now, and what was decided before stays.
        var twice = Told.Run("contacts", r.Value, "{'point':'seat','side':'C','edits':[{'start':1,'end':2}]}");
        Assert.Equal("ToeL 0-0; SeatC 1-2", Of(((MotionValue)twice.Value).Contacts));
    }

    [Theory]
    [InlineData(
        "{'point':'elbow','side':'L','edits':[{'start':1,'end':2}]}",
        "the contact point must be one of heel, toe, knee, hand, seat, foot"
    )]
    [InlineData("{'point':'heel','side':'X','edits':[{'start':1,'end':2}]}", "the side must be L, R or C")]
    [InlineData("{'side':'L','edits':[{'start':1,'end':2}]}", "the parameter 'point' must be given")]
    [InlineData("{'point':'heel','side':'L'}", "a contact needs a range of frames that begins before it ends")]
    [InlineData(
        "{'point':'heel','side':'L','edits':[{'start':3,'end':2}]}",
        "a contact needs a range of frames that begins before it ends"
    )]
    [InlineData(
        "{'point':'heel','side':'L','edits':[{'start':-1,'end':2}]}",
        "a contact needs a range of frames that begins before it ends"
    )]
    [InlineData("{'point':'heel','side':'L','edits':[7]}", "each edit must be an object")]
    public void A_contact_that_makes_no_sense_is_refused(string parameters, string said) =>
        Assert.Equal(said, Told.Refused("contacts", Still(20), parameters));

    [Fact]
    public void Samples_are_hidden_within_a_range()
    {
        var value = new MarkerValue(Told.Seen(20, ("A", 0, 19), ("B", 3, 12)));
        var r = Told.Run("hide", value, "{'marker':'B','from':5,'to':7}");
        Assert.Equal(("B, 3 samples", "A 0-19; B 3-4,8-12"), (r.Summary, Told.Of(((MarkerValue)r.Value).Take)));
        Assert.Equal("B, 10 samples", Told.Run("hide", value, "{'marker':'B'}").Summary);
        Assert.Equal("A, 3 samples", Told.Run("hide", value, "{'marker':'A','from':-3,'to':2}").Summary);
        Assert.Equal("A, 2 samples", Told.Run("hide", value, "{'marker':'A','from':18,'to':99}").Summary);
        Assert.Equal("there is no trajectory 'C' in the take", Told.Refused("hide", value, "{'marker':'C'}"));
        Assert.Equal("A 0-19; B 3-12", Told.Of(value.Take));
    }

    /// <summary>Two markers that swing slowly, with spikes in both.</summary>
    private static MarkerTake Spiky()
    {
        var take = Told.Seen(120, ("A", 0, 119), ("B", 0, 119), ("C", 0, 119), ("D", 0, 119));
        for (var f = 0; f < 120; f++)
        {
            for (var m = 0; m < 4; m++)
            {
                take[f, m] += new Vector3(0, 0.1f * MathF.Sin((f * 0.05f) + m), 0);
            }
        }

        take[30, 0] += new Vector3(0, 0.3f, 0);
        take[60, 1] += new Vector3(0.25f, 0, 0);
        take[90, 0] += new Vector3(0, 0, 0.2f);
        return take;
    }

    [Theory]
    [InlineData("{}", "3 samples", "A30 B60 A90")]
    [InlineData("{'marker':'A'}", "2 samples", "A30 A90")]
    [InlineData("{'frame':91}", "1 sample", "A90")]
    [InlineData("{'frame':93}", "0 samples", "")]
    [InlineData("{'marker':'A','frame':60}", "0 samples", "")]
    [InlineData("{'marker':'B','frame':58}", "1 sample", "B60")]
    public void Spikes_go_out_where_it_is_asked_for(string parameters, string said, string which)
    {
        var r = Told.Run("despike", new MarkerValue(Spiky()), parameters);
        var spikes = r.Report["spikes"]!.AsArray();
        Assert.Equal(said, r.Summary);
        Assert.Equal(which.Split(' ').Order(), string.Join(' ', spikes.Select(s => $"{s!["marker"]}{s["frame"]}")).Split(' ').Order());
        Assert.All(spikes, s => Assert.InRange((double)s!["millimetres"]!, 150, 320));
    }

    [Fact]
    public void A_gap_is_filled_by_the_way_that_is_asked_for_and_told()
    {
        var take = Spiky();
        for (var f = 50; f < 54; f++)
        {
            take[f, 3] = MarkerTake.Hidden;
        }

        var set = new FileResources { Set = new MarkerSet("none", [], []) };
        var r = Told.Run("fill", new MarkerValue(take), "{'method':'spline'}", set);
        Assert.StartsWith("1 gap", r.Summary, StringComparison.Ordinal);
        var filled = Assert.Single(r.Report["filled"]!.AsArray())!;
        Assert.Equal("D 50 53 spline", $"{filled["marker"]} {filled["start"]} {filled["end"]} {filled["method"]}");
        Assert.Equal("A 0-119; B 0-119; C 0-119; D 0-119", Told.Of(((MarkerValue)r.Value).Take));
        Assert.StartsWith(
            "0 gaps",
            Told.Run("fill", new MarkerValue(take), "{'method':'spline','longest':3}", set).Summary,
            StringComparison.Ordinal
        );
        Assert.StartsWith(
            "0 gaps",
            Told.Run("fill", new MarkerValue(take), "{'method':'spline','marker':'A'}", set).Summary,
            StringComparison.Ordinal
        );
        Assert.StartsWith(
            "0 gaps",
            Told.Run("fill", new MarkerValue(take), "{'method':'spline','marker':'D','frame':20}", set).Summary,
            StringComparison.Ordinal
        );
        Assert.StartsWith(
            "1 gap",
            Told.Run("fill", new MarkerValue(take), "{'method':'SPLINE','marker':'D','frame':52}", set).Summary,
            StringComparison.Ordinal
        );
        Assert.Equal(
            "the fill method must be one of auto, spline, rigid, correlation, cycle, skeleton",
            Told.Refused("fill", new MarkerValue(take), "{'method':'magic'}", set)
        );
        Assert.Equal(
            "the skeleton of no performer of this take is known",
            Told.Refused("fill", new MarkerValue(take), "{'method':'skeleton'}", set)
        );
        Assert.Equal(
            "the skeleton of no performer of this take is known",
            Told.Refused("fill", new MarkerValue(take), "{'method':'spline','ends':'skeleton'}", set)
        );
    }

    [Theory]
    [InlineData("{}", "MarkerSet0,Performers0")]
    [InlineData("{'method':'auto'}", "MarkerSet0,Performers0")]
    [InlineData("{'method':'skeleton'}", "MarkerSet0,Performers0")]
    [InlineData("{'method':'spline'}", "MarkerSet0")]
    [InlineData("{'method':'spline','ends':'skeleton'}", "MarkerSet0,Performers0")]
    public void A_fill_reads_the_performers_only_where_it_asks_the_skeleton(string parameters, string reads) =>
        Assert.Equal(
            reads,
            string.Join(
                ',',
                MarkerOperations
                    .Fill.Reads(new NodeScope(7), JsonNode.Parse(parameters.Replace('\'', '"'))!.AsObject())
                    .Select(r => $"{r.Kind}{r.Id}")
            )
        );

    [Fact]
    public void Smoothing_says_what_it_kept_and_stays_within_a_stretch()
    {
        var value = new MarkerValue(Spiky());
        var r = Told.Run("smooth", value, "{'cutoff':6}");
        Assert.Matches("^6 Hz, energy kept [0-9.]+ %$", r.Summary);
        Assert.InRange((double)r.Report["energyKept"]!, 0.5, 1);
        Assert.NotNull(r.Report["spared"]);
        var only = Told.Run("smooth", value, "{'cutoff':4.5,'marker':'A','from':20,'to':40}");
        Assert.Equal("A, 4.5 Hz", only.Summary);
        Assert.Empty(only.Report);
        var (before, after) = (value.Take, ((MarkerValue)only.Value).Take);
        // Over a few frames beyond either end it passes over.
        var changed = Enumerable.Range(0, 120).Where(f => before[f, 0] != after[f, 0]).ToArray();
        Assert.True(changed.Length > 5 && changed.Min() >= 15 && changed.Max() <= 45, $"{changed.Min()} to {changed.Max()}");
        Assert.All(Enumerable.Range(0, 120), f => Assert.Equal(before[f, 1], after[f, 1]));
        Assert.Equal("there is no trajectory 'X' in the take", Told.Refused("smooth", value, "{'marker':'X'}"));
        Assert.Equal("the cut-off must lie between 0 and 30 Hz", Told.Refused("smooth", value, "{'cutoff':30}"));
        Assert.Equal("the cut-off must lie between 0 and 30 Hz", Told.Refused("smooth", value, "{'cutoff':0}"));
    }
}
