using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Cleaning;

public sealed class CleaningTests
{
    private static readonly Person Performer = new("Runa", 1.69f, 1.01f, 41);

    private static readonly Performance Walk = SceneCatalog.Perform("lamp-walk", Performer, 2);

    private static MarkerTake Seen(float spikes = 0) => MarkerSimulator.Labelled(Walk, new MarkerSimulator.Settings(Occlusion: false, SpikesPerMinute: spikes));

    [Theory]
    [InlineData(30, 6)]
    [InlineData(120, 20)]
    public void Filled_gaps_are_near_the_truth_and_far_better_than_a_curve(int frames, double millimetres)
    {
        var truth = Seen();
        var take = truth.Copy();
        var holes = new List<(int Marker, int Start)>();
        string[] markers = ["ElbowOutL", "BrowR", "KneeInR", "HipFrontL", "Breastbone", "ThighR"];
        for (var k = 0; k < markers.Length; k++)
        {
            var m = take.IndexOf(markers[k]);
            var start = 300 + (k * 230);
            holes.Add((m, start));
            for (var f = start; f < start + frames; f++)
            {
                take[f, m] = MarkerTake.Hidden;
            }
        }

        double Error(FillMethod method)
        {
            var (filled, list) = GapFiller.Fill(take, HarbourMarkers.Set(), method, 240);
            Assert.Equal(markers.Length, list.Count);
            return Math.Sqrt(holes.SelectMany(h => Enumerable.Range(h.Start, frames).Select(f => (filled[f, h.Marker] - truth[f, h.Marker]).LengthSquared())).Average()) * 1000;
        }

        var auto = Error(FillMethod.Auto);
        Assert.True(auto <= millimetres, $"{auto:0.0} mm");
        if (frames >= 60)
        {
            Assert.True(Error(FillMethod.Spline) >= 3 * auto, $"{Error(FillMethod.Spline):0.0} against {auto:0.0} mm");
        }
    }

    [Fact]
    public void Long_gaps_and_gaps_at_the_ends_stay_open()
    {
        var take = Seen().Copy();
        for (var f = 0; f < 20; f++)
        {
            take[f, 0] = MarkerTake.Hidden;
        }

        for (var f = 500; f < 700; f++)
        {
            take[f, 1] = MarkerTake.Hidden;
        }

        var (filled, list) = GapFiller.Fill(take, HarbourMarkers.Set(), FillMethod.Auto, 100);
        Assert.Empty(list);
        Assert.Equal(2, Enumerable.Range(0, filled.MarkerCount).Sum(m => filled.Gaps(m).Count));
    }

    [Fact]
    public void Spikes_are_found_and_good_samples_left_alone()
    {
        var take = Seen().Copy();
        var random = new Random(8);
        var put = new HashSet<(int, int)>();
        while (put.Count < 150)
        {
            var at = (random.Next(10, take.FrameCount - 10), random.Next(take.MarkerCount));
            if (put.All(p => p.Item2 != at.Item2 || Math.Abs(p.Item1 - at.Item1) > 6) && put.Add(at))
            {
                take[at.Item1, at.Item2] += Vector3.Normalize(new Vector3(random.NextSingle() - 0.5f, random.NextSingle() - 0.5f, random.NextSingle() - 0.5f)) * (0.02f + (random.NextSingle() * 0.05f));
            }
        }

        var (_, removed) = Spikes.Remove(take);
        Assert.True(removed.Count(s => put.Contains((s.Frame, s.Marker))) >= 0.98 * put.Count);
        Assert.True(removed.Count(s => !put.Contains((s.Frame, s.Marker))) < 0.001 * take.Positions.Length);
    }

    [Fact]
    public void Contacts_are_found_where_the_feet_truly_stood()
    {
        var motion = Walk.Actors[0].Motion;
        var found = ContactFinder.Find(motion);
        var plants = Walk.Actors[0].Plants.Where(p => p.End - p.Start > 30).ToArray();
        Assert.All(plants, p => Assert.Contains(found, c => (c.Role == p.Foot || c.Role == (p.Foot == BodyRole.FootL ? BodyRole.ToesL : BodyRole.ToesR)) && c.Start <= p.End && c.End >= p.Start));
        // And none while the foot flies.
        Assert.All(found.Where(c => c.Role is BodyRole.FootL or BodyRole.FootR), c => Assert.Contains(Walk.Actors[0].Plants, p => p.Foot == c.Role && c.Start >= p.Start - 8 && c.End <= p.End + 8));
    }

    [Fact]
    public void Smoothing_takes_noise_and_keeps_the_walk()
    {
        var noisy = Seen().Copy();
        var random = new Random(3);
        for (var k = 0; k < noisy.Positions.Length; k++)
        {
            noisy.Positions[k] += new Vector3(random.NextSingle() - 0.5f, random.NextSingle() - 0.5f, random.NextSingle() - 0.5f) * 0.002f;
        }

        var (smooth, kept) = MarkerSmoother.Smooth(noisy, 10);
        double Jitter(MarkerTake t) => JitterMeasure.Measure(Enumerable.Range(0, t.FrameCount).Select(f => t[f, 0]).ToArray(), 120);
        Assert.True(Jitter(smooth) < Jitter(noisy) / 3);
        Assert.InRange(kept, 0.5, 1.0);
    }

    [Fact]
    public void Gaps_and_spikes_become_findings_worst_first()
    {
        var take = Seen().Copy();
        for (var f = 400; f < 500; f++)
        {
            take[f, 3] = MarkerTake.Hidden;
        }

        take[800, 5] += new Vector3(0.05f);
        var findings = MarkerFindings.Find(take);
        Assert.Equal(("gap", 400, 499, Severity.MustFix), (findings[0].Kind, findings[0].Start, findings[0].End, findings[0].Severity));
        Assert.Contains(findings, f => f.Kind == "spike" && f.Start == 800);
    }

    [Fact]
    public void Stand_in_feet_do_not_slide_while_they_stand()
    {
        foreach (var scene in new[] { "lamp-walk", "haul-rope", "gangplank-hop" })
        {
            var quality = MotionQuality.Measure(SceneCatalog.Perform(scene, Performer, 1).Actors[0].Motion);
            Assert.True(quality.SlidePerFrame < 0.1, $"{scene}: {quality.SlidePerFrame}");
            Assert.True(quality.Penetration < 5);
        }
    }
}
