using System.Numerics;
using Eidolon.Cli;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.Core.Quality;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.Testing;

namespace Eidolon.Core.Tests.Quality;

/// <summary>Faults put in by hand are found where they are, and nothing is found where there is none; people and scenes of no demo.</summary>
public sealed class FindingTests
{
    private static readonly Person Odd = new("Odd", 1.86f, 0.98f, 71);

    private static MarkerTake Clean(string scene, int number = 2) =>
        Acts.Labelled(Acts.Perform(scene, Odd, number), new MarkerSimulator.Settings(SpikesPerMinute: 0, Occlusion: false));

    [Theory]
    [LongData("lamp-walk")]
    [LongData("haul-rope")]
    [InlineData("gangplank-hop")]
    public void A_clean_take_has_no_jitter_stillness_or_drift(string scene)
    {
        var findings = MarkerFindings.Find(Clean(scene), HarbourMarkers.Set());
        Assert.DoesNotContain(findings, f => f.Kind is "jitter" or "stillness" or "link drift");
    }

    [Fact]
    public void A_loose_marker_is_found_where_it_trembles()
    {
        var take = Clean("lamp-walk");
        var (random, m) = (new Random(3), take.IndexOf("ForearmL"));
        for (var f = 600; f < 840; f++)
        {
            take[f, m] += new Vector3(random.NextSingle() - 0.5f, random.NextSingle() - 0.5f, random.NextSingle() - 0.5f) * 0.01f;
        }

        var found = Assert.Single(MarkerFindings.Find(take, HarbourMarkers.Set()), f => f.Kind == "jitter");
        Assert.Equal("ForearmL", found.Subject);
        Assert.InRange(found.Start, 560, 640);
        Assert.InRange(found.End, 800, 880);
        // The first remedy takes most of it away and leaves the rest of the take as it is.
        var remedy = Remedies.For(found.Kind, found.Subject, found.Other, found.Start, found.End)[0];
        var mended = Samples.Operate(take, remedy.Entry.Operation, remedy.Entry.Parameters, new OperationContext(new FileResources()));
        Assert.DoesNotContain(MarkerFindings.Find(mended), f => f.Kind == "jitter");
        Assert.All(Enumerable.Range(0, 500), f => Assert.Equal(take[f, m], mended[f, m]));
    }

    [Fact]
    public void A_held_sample_is_found_and_hidden()
    {
        var take = Clean("lamp-walk");
        var m = take.IndexOf("KneeOutR");
        for (var f = 901; f < 930; f++)
        {
            take[f, m] = take[900, m];
        }

        var found = Assert.Single(MarkerFindings.Find(take), f => f.Kind == "stillness");
        Assert.Equal(("KneeOutR", 900, 929), (found.Subject, found.Start, found.End));
        var remedy = Remedies.For(found.Kind, found.Subject, string.Empty, found.Start, found.End)[0];
        var mended = Samples.Operate(take, remedy.Entry.Operation, remedy.Entry.Parameters, new OperationContext(new FileResources()));
        Assert.Equal([new Gap(900, 929)], mended.Gaps(m));
    }

    [Fact]
    public void A_marker_that_slid_on_the_suit_is_found()
    {
        var take = Clean("haul-rope");
        var m = take.IndexOf("ShinL") >= 0 ? take.IndexOf("ShinL") : take.IndexOf("KneeOutL");
        var set = HarbourMarkers.Set();
        var mate = set
            .Links.Where(l => l.A == take.Names[m] || l.B == take.Names[m])
            .Select(l => take.IndexOf(l.A == take.Names[m] ? l.B : l.A))
            .First(i => i >= 0);
        for (var f = take.FrameCount * 2 / 3; f < take.FrameCount; f++)
        {
            take[f, m] += Vector3.Normalize(take[f, m] - take[f, mate]) * 0.06f;
        }

        var found = MarkerFindings.Find(take, set).Where(f => f.Kind == "link drift").ToList();
        Assert.Contains(found, f => f.Subject == take.Names[m] && Math.Abs(f.Start - (take.FrameCount * 2 / 3)) < 40);
        Assert.DoesNotContain(found, f => f.Subject != take.Names[m] && f.Subject != take.Names[mate]);
    }

    [Fact]
    public void Quality_tells_better_from_worse()
    {
        var whole = Clean("lamp-walk");
        var seen = Acts.Labelled(Acts.Perform("lamp-walk", Odd, 2), new MarkerSimulator.Settings(SpikesPerMinute: 30, MinimumCameras: 4));
        var (good, bad) = (MarkerQuality.Measure(whole), MarkerQuality.Measure(seen));
        Assert.Equal((0, 0d, 0), (good.OpenGaps, good.LongestGap, good.Spikes));
        Assert.True(bad.OpenGaps > 10 && bad.HiddenShare > 0.002 && bad.LongestGap > 0.1 && bad.Spikes > 3 && bad.Jitter > good.Jitter);
    }
}
