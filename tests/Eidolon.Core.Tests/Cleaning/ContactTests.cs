using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.StandIns.Truth;
using Eidolon.Testing;

namespace Eidolon.Core.Tests.Cleaning;

/// <summary>When feet stand, against when they truly stood: every scene, people nobody tuned anything to, several rates.</summary>
public sealed class ContactTests
{
    [Theory]
    [LongData("rom")]
    [InlineData("lamp-walk")]
    [LongData("haul-rope")]
    [LongData("crate-carry")]
    [InlineData("deck-crouch")]
    [InlineData("gangplank-hop")]
    [LongData("suit-patrol")]
    public void Contacts_begin_and_end_within_17_ms_at_every_rate(string scene)
    {
        foreach (var rate in new double[] { 60, 100, 240 })
        {
            var misses = Strangers
                .Some(2, 5)
                .SelectMany(p => Acts.Perform(scene, p, 3, rate).Actors)
                .SelectMany(ContactScore.Misses)
                .ToArray();
            var good = misses.Count(m => Math.Abs(m) <= 0.017);
            Assert.True(
                good >= 0.98 * misses.Length,
                $"{rate} Hz: {good} of {misses.Length}, ms: {string.Join(' ', misses.Select(m => $"{m * 1000:0}"))}"
            );
        }
    }

    [Fact]
    public void Trembling_samples_move_no_edge_by_more_than_25_ms()
    {
        var actor = Acts.Perform("lamp-walk", HarbourCast.Ines, 3).Actors[0];
        var random = new Random(4);
        float Noise() => (random.NextSingle() - 0.5f) * 0.003f;
        for (var k = 0; k < actor.Motion.FrameCount; k++)
        {
            actor.Motion.TranslationsAt(k)[0] += new Vector3(Noise(), Noise(), Noise());
        }

        var misses = ContactScore.Misses(actor).ToArray();
        var good = misses.Count(m => Math.Abs(m) <= 0.0251);
        Assert.True(good >= 0.95 * misses.Length, string.Join(' ', misses.Select(m => $"{m * 1000:0}")));
    }

    [Theory]
    [InlineData(60)]
    [InlineData(120)]
    public void A_shuffle_between_two_stands_ends_one_and_begins_another(double rate)
    {
        // A second still, 3 cm aside from one sample to the next, a second still; as slowly as a foot creeps it is one stand.
        var n = (int)rate;
        Vector3[] Path(Func<double, float> aside) =>
            [.. Enumerable.Range(0, 2 * n).Select(f => new Vector3(aside((f - n) / rate), 0.03f, 0))];
        var shuffled = PlantedRanges.Find([Path(t => t < 0 ? 0 : 0.03f)], rate);
        Assert.Equal(2, shuffled.Count);
        Assert.True(shuffled[0].End < n && shuffled[1].Start >= n - 1, string.Join(" ", shuffled));
        Assert.Single(PlantedRanges.Find([Path(t => 0.03f * (float)t)], rate));
    }

    [Theory]
    [InlineData(60)]
    [InlineData(100)]
    [InlineData(240)]
    public void A_foot_that_is_dragged_along_the_floor_has_stood_twice(double rate)
    {
        // A second still, so far along within 0.7 s without ever leaving the floor, a second still.
        List<(double Start, double End)> Dragged(float way) =>
            PlantedRanges.Find(
                [
                    [
                        .. Enumerable
                            .Range(0, (int)(2.7 * rate))
                            .Select(f => new Vector3(way * CubicSpline.MinimumJerk((float)(((f / rate) - 1) / 0.7)), 0.03f, 0)),
                    ],
                ],
                rate
            );
        var stands = Dragged(0.08f);
        Assert.Equal(2, stands.Count);
        // Slow at first and last, the drag is told once it has begun to be one.
        Assert.InRange(stands[0].End / rate, 0.95, 1.25);
        Assert.InRange(stands[1].Start / rate, 1.45, 1.75);
        // What creeps by less than that is one stand.
        Assert.Single(Dragged(0.03f));
    }

    [Fact]
    public void Somebody_kneeling_stands_on_their_toes()
    {
        foreach (var person in Strangers.Some(3, 5))
        {
            var actor = Acts.Perform("cam-mend-net", person, 3).Actors[0];
            var misses = ContactScore.Misses(actor).ToArray();
            // Dragged to where they stand, feet come to rest so slowly that a frame or two more or less is nobody's fault.
            var good = misses.Count(m => Math.Abs(m) <= 0.0251);
            Assert.True(good >= misses.Length - 2, $"{person.Stature} m: {string.Join(' ', misses.Select(m => $"{m * 1000:0}"))}");
            Assert.All(misses, m => Assert.True(Math.Abs(m) < 0.2, $"{m * 1000:0} ms"));
        }
    }

    [Fact]
    public void A_foot_held_in_the_air_is_not_planted_and_one_on_a_step_is()
    {
        // Up from the floor to 30 cm, still there for a second, down again; then onto a step of 17 cm from above it.
        static float Ease(double t) =>
            (float)(
                t <= 0 ? 0
                : t >= 1 ? 1
                : t * t * (3 - (2 * t))
            );
        var path = Enumerable
            .Range(0, 720)
            .Select(f => f / 120.0)
            .Select(t => new Vector3(
                0,
                (0.30f * (Ease((t - 1) / 0.3) - Ease((t - 2.3) / 0.3)))
                    + (0.25f * Ease((t - 3.5) / 0.25))
                    - (0.08f * Ease((t - 3.75) / 0.15)),
                0
            ))
            .ToArray();
        var found = PlantedRanges.Find([path], 120);
        Assert.Equal(3, found.Count);
        Assert.DoesNotContain(found, r => r.Start < 2.0 * 120 && r.End > 1.5 * 120);
        Assert.InRange(found[2].Start, 3.85 * 120, 3.92 * 120);
    }

    [Fact]
    public void A_persons_word_about_a_contact_reaches_joints_as_well_as_points()
    {
        var motion = Acts.Perform("lamp-walk", HarbourCast.Ines, 3).Actors[0].Motion;
        var free = BodyContacts.Find(motion, [new ContactEdit(ContactPoint.Toe, 'L', 0, motion.FrameCount, false)]);
        Assert.DoesNotContain(free.Points, c => c is { Point: ContactPoint.Toe, Side: 'L' });
        Assert.DoesNotContain(free.Joints, c => c.Role == BodyRole.ToesL);
        Assert.Contains(free.Joints, c => c.Role == BodyRole.ToesR);
    }
}
