using System.Numerics;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Tests.Solving;

/// <summary>A body put right by hand: what is moved, what stays, and what the markers say of it.</summary>
public sealed class BodyByHandTests(Measured measured) : IClassFixture<Measured>
{
    private static readonly int[] Frames = [.. Enumerable.Range(0, 20).Select(k => 200 + (k * 280))];

    private IReadOnlyList<ModelPose> Start()
    {
        var all = TakeSolver.Poses(measured.Performer, measured.Rom, 1);
        return [.. Frames.Select(f => all[f])];
    }

    [Fact]
    public void A_knee_in_a_wrong_place_fits_worse_and_moved_back_by_hand_fits_as_before()
    {
        var start = Start();
        var right = BodyByHand.Stand(measured.Performer, measured.Rom, Frames, start);
        var by = new Vector3(0.004f, -0.028f, 0.006f);
        var (wrong, _) = BodyByHand.With(measured.Performer, [new(BodyRole.ShinL, by, false)]);
        var off = BodyByHand.Stand(wrong, measured.Rom, Frames, start);
        Assert.True(off.Mean > right.Mean * 1.2, $"{right.Mean * 1000:0.00} and {off.Mean * 1000:0.00} mm");
        Assert.Contains(off.Worst.Take(5), w => w.Marker is "KneeInL" or "KneeOutL" or "ShinL" or "ThighL" or "AnkleInL" or "AnkleOutL");
        var (back, _) = BodyByHand.With(wrong, [new(BodyRole.ShinL, -by, false)]);
        Assert.Equal(right.Mean, BodyByHand.Stand(back, measured.Rom, Frames, off.Poses).Mean, 5);
    }

    [Fact]
    public void What_hangs_on_a_moved_joint_stays_and_so_do_its_markers_and_the_other_side_follows_when_it_is_asked_to()
    {
        var s = measured.Performer.Skeleton;
        var by = new Vector3(0.002f, 0.015f, 0.003f);
        var (moved, said) = BodyByHand.With(measured.Performer, [new(BodyRole.ShinL, by, true)]);
        Assert.Empty(said);
        var t = moved.Skeleton;
        for (var j = 0; j < s.Count; j++)
        {
            var expected =
                s[j].Role == BodyRole.ShinL ? by
                : s[j].Role == BodyRole.ShinR ? by * new Vector3(-1, 1, 1)
                : Vector3.Zero;
            Assert.True((t.RestPositions[j] - s.RestPositions[j] - expected).Length() < 1e-5f, s[j].Name);
        }

        foreach (var (a, b) in measured.Performer.Markers.Zip(moved.Markers))
        {
            Assert.True((s.RestPositions[a.Joint] + a.Offset - t.RestPositions[b.Joint] - b.Offset).Length() < 1e-5f, a.Name);
        }
    }

    [Fact]
    public void An_elbow_dragged_far_aside_is_held_and_the_shoulder_is_named()
    {
        var (moved, said) = BodyByHand.With(measured.Performer, [new(BodyRole.ForearmL, new Vector3(0, 0.12f, 0), false)]);
        Assert.Contains("the shoulder that turns", Assert.Single(said));
        var j = moved.Skeleton.IndexOf(BodyRole.ForearmL);
        var along = Vector3.Normalize(measured.Performer.Skeleton[j].Offset);
        var now = moved.Skeleton[j].Offset;
        Assert.Equal(BodyByHand.MostAside, (now - (along * Vector3.Dot(now, along))).Length(), 3);
        Assert.Throws<RefusedException>(() => BodyByHand.With(measured.Performer, [new(BodyRole.Jaw, Vector3.One, false)]));
    }
}
