using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Markers;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.StandIns.Truth;
using Eidolon.Testing;

namespace Eidolon.Core.Tests.Cleaning;

public sealed class CleaningTests
{
    private static readonly Person Performer = new("Runa", 1.69f, 1.01f, 41);

    private static readonly Performance Walk = Acts.Perform("lamp-walk", Performer, 2);

    private static MarkerTake Seen(float spikes = 0) =>
        Acts.Labelled(Walk, new MarkerSimulator.Settings(Occlusion: false, SpikesPerMinute: spikes));

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

        var (filled, list) = GapFiller.Fill(take, HarbourMarkers.Set(), new FillOptions(Longest: 100));
        Assert.Empty(list);
        Assert.Equal(2, Enumerable.Range(0, filled.MarkerCount).Sum(m => filled.Gaps(m).Count));
    }

    [Fact]
    public void Tremble_of_a_bad_marker_is_no_spike()
    {
        // A marker at the edge of what the cameras see strays by 4 mm from frame to frame: noise, for a low-pass to take.
        var take = Seen();
        var random = new Random(3);
        float Stray() => (random.NextSingle() - 0.5f) * 0.014f;
        var m = take.IndexOf("KneeOutL");
        for (var f = 0; f < take.FrameCount; f++)
        {
            take[f, m] += new Vector3(Stray(), Stray(), Stray());
        }

        var found = Spikes.Find(take).Count(s => s.Marker == m);
        Assert.True(found < 0.01 * take.FrameCount, $"{found} of {take.FrameCount} samples");
    }

    [Theory]
    [LongData("lamp-walk", 3, 120, 0.99)]
    [InlineData("gangplank-hop", 3, 120, 0.99)]
    [LongData("haul-rope", 3, 240, 0.99)]
    [LongData("rom", 3, 100, 0.99)]
    [InlineData("gangplank-hop", 2, 60, 0.94)]
    [InlineData("haul-rope", 1, 30, 0.95)]
    public void Spikes_are_found_and_good_samples_left_alone(string scene, int longest, double rate, double least)
    {
        var truth = Acts.Labelled(
            Acts.Perform(scene, Performer, 2, rate),
            new MarkerSimulator.Settings(SpikesPerMinute: 0, Skin: Skin.Soft)
        );
        var score = SpikeScore.Try(truth, 400, longest, 8);
        var (hit, touched, left) = (score.Out / (double)score.Put, score.Touched / (double)score.Good, score.Left / score.Put * 1000);
        Assert.True(
            hit >= least && touched < 0.001 && left < 1.5 + ((1 - least) * 40),
            $"{hit:P2} of {score.Put} out, {touched:P4} good samples touched, {left:0.00} mm left"
        );
    }

    [Fact]
    public void Contacts_are_found_where_the_feet_truly_stood()
    {
        var motion = Walk.Actors[0].Motion;
        var found = BodyContacts.Find(motion).Joints;
        var plants = Walk.Actors[0].Plants.Where(p => p.End - p.Start > 30).ToArray();
        Assert.All(plants, p =>
            Assert.Contains(found, c =>
                (c.Role == p.Foot || c.Role == (p.Foot == BodyRole.FootL ? BodyRole.ToesL : BodyRole.ToesR))
                && c.Start <= p.End
                && c.End >= p.Start
            )
        );
        // And none while the foot flies.
        Assert.All(found.Where(c => c.Role is BodyRole.FootL or BodyRole.FootR), c =>
            Assert.Contains(Walk.Actors[0].Plants, p => p.Foot == c.Role && c.Start >= p.Start - 8 && c.End <= p.End + 8)
        );
    }

    [Fact]
    public void Hands_on_the_deck_count_and_hands_in_the_air_do_not()
    {
        var creeping = BodyContacts.Find(Acts.Perform("deck-crouch", Performer, 1).Actors[0].Motion).Points;
        Assert.True(creeping.Count(c => c is { Point: ContactPoint.Hand, Side: 'L' }) >= 3);
        Assert.DoesNotContain(BodyContacts.Find(Walk.Actors[0].Motion).Points, c => c.Point is ContactPoint.Hand or ContactPoint.Knee);
    }

    [Fact]
    public void Smoothing_takes_the_jitter_and_spares_a_strike()
    {
        // A hand swings, strikes at 1.5 s and bounces within some fifty milliseconds; the rest of the time it sways.
        const double rate = 120;
        var truth = new MarkerTake(["Hand"], rate, 480);
        for (var f = 0; f < truth.FrameCount; f++)
        {
            double t = f / rate,
                hit = t - 1.5;
            var swing = 0.9 * Math.Exp(-hit * hit / (2 * 0.09 * 0.09));
            var strike = Math.Abs(hit) < 0.12 ? 0.06 * Math.Log(1 + Math.Exp(-Math.Abs(hit) / 0.012)) : 0;
            truth[f, 0] = new Vector3(
                (float)(0.3 * Math.Sin(t * 2.2)),
                (float)(1.2 + (0.1 * Math.Sin(t * 1.7)) + (0.25 * swing) - strike),
                (float)(0.2 * Math.Cos(t))
            );
        }

        var noisy = truth.Copy();
        var random = new Random(3);
        for (var k = 0; k < noisy.Positions.Length; k++)
        {
            noisy.Positions[k] += new Vector3(random.NextSingle() - 0.5f, random.NextSingle() - 0.5f, random.NextSingle() - 0.5f) * 0.0012f;
        }

        double Energy(MarkerTake t) => Enumerable.Range(166, 28).Sum(f => (double)(t[f, 0] - t[f - 1, 0]).LengthSquared());
        double Jitter(MarkerTake t) => JitterMeasure.Measure(Enumerable.Range(220, 240).Select(f => t[f, 0]).ToArray(), rate);
        var (soft, _, _) = MarkerSmoother.Smooth(noisy, 8, spareImpacts: false);
        var (smooth, kept, spared) = MarkerSmoother.Smooth(noisy, 8);
        Assert.InRange(Energy(smooth) / Energy(truth), 0.98, 1.02);
        Assert.True(
            Energy(soft) / Energy(truth) < 0.97,
            $"a plain filter would keep {Energy(soft) / Energy(truth):P1}: the strike is no test"
        );
        Assert.True(Jitter(smooth) < Jitter(noisy) / 3);
        Assert.InRange(spared[0], 5, 60);
        Assert.InRange(kept, 0.5, 1.0);
    }

    [Fact]
    public void A_noisier_marker_gets_a_lower_cut_off()
    {
        var calm = Seen();
        var noisy = calm.Copy();
        var random = new Random(5);
        var m = calm.IndexOf("ToeL");
        for (var f = 0; f < noisy.FrameCount; f++)
        {
            noisy[f, m] += new Vector3(random.NextSingle() - 0.5f, random.NextSingle() - 0.5f, random.NextSingle() - 0.5f) * 0.012f;
        }

        Assert.True(
            MarkerSmoother.Cutoff(noisy, m) < MarkerSmoother.Cutoff(calm, m),
            $"{MarkerSmoother.Cutoff(noisy, m)} {MarkerSmoother.Cutoff(calm, m)} toe "
                + $"{MarkerSmoother.Cutoff(calm, calm.IndexOf("ToeL"))} breast "
                + $"{MarkerSmoother.Cutoff(calm, calm.IndexOf("Breastbone"))}"
        );
        Assert.True(MarkerSmoother.Cutoff(calm, calm.IndexOf("ToeL")) >= MarkerSmoother.Cutoff(calm, calm.IndexOf("Breastbone")));
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
            var quality = MotionQuality.Measure(Acts.Perform(scene, Performer, 1).Actors[0].Motion);
            Assert.True(quality.SlidePerFrame < 0.1, $"{scene}: {quality.SlidePerFrame}");
            Assert.True(quality.Penetration < 5);
        }
    }
}
