using System.Diagnostics;
using Eidolon.Core.Assembly;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Xunit.Abstractions;

namespace Eidolon.Core.Tests.Assembly;

/// <summary>The track while a clip is dragged shows what the track will be.</summary>
public sealed class TrackPreviewTests(ITestOutputHelper output)
{
    [Fact]
    public void A_clip_that_is_dragged_is_seen_where_it_will_lie()
    {
        var walk = Acts.Perform("lamp-walk", HarbourCast.Ines, 1, 120).Actors[0].Motion;
        var haul = Acts.Perform("haul-rope", HarbourCast.Ines, 1, 120).Actors[0].Motion;
        PlannedClip Cut(Motion motion, int start, int end, int overlap) =>
            new(new ClipMotion(motion).Range(start, end), new ClipPlay(overlap, Meet.Best));
        PlannedClip[] before = [Cut(walk, 0, 900, 0), Cut(haul, 100, 700, 40)];
        var preview = new TrackPreview(before);
        foreach (var end in new[] { 500, 620, 701 })
        {
            PlannedClip[] clips = [.. before, Cut(walk, 200, end, 30), Cut(haul, 0, 300, 24)];
            var whole = ClipJoiner.Join(clips);
            // In what is laid, in the dragged clip, at its end, and in the one after it.
            foreach (var frame in new[] { 10, 880, 1440 + ((end - 200) / 2), 1430 + end - 200, whole.Motion.FrameCount - 5 })
            {
                var clock = Stopwatch.StartNew();
                var one = preview.At(clips, frame);
                output.WriteLine($"{clock.Elapsed.TotalMilliseconds:0.0} ms");
                Assert.Equal(1, one.FrameCount);
                Assert.InRange(Samples.Worst(MotionEdits.Range(whole.Motion, frame, frame + 1), one), 0, .03);
            }
        }

        Assert.Throws<RefusedException>(() => preview.At([.. before, Cut(walk, 0, 20, 30)], 0));
    }

    [Fact]
    public void Of_a_track_that_is_kept_only_the_clip_before_is_laid_again()
    {
        var walk = Acts.Perform("lamp-walk", HarbourCast.Ines, 1, 120).Actors[0].Motion;
        var haul = Acts.Perform("haul-rope", HarbourCast.Ines, 1, 120).Actors[0].Motion;
        PlannedClip Cut(Motion motion, int start, int end, int overlap, int smooth = 0) =>
            new(new ClipMotion(motion).Range(start, end), new ClipPlay(overlap, Meet.Best) { Smooth = smooth });
        PlannedClip[] clips = [Cut(walk, 0, 500, 0), Cut(haul, 100, 500, 0, 30), Cut(walk, 300, 700, 30), Cut(haul, 200, 500, 24)];
        var kept = ClipJoiner.Join(clips);
        var (own, smoothed) = (kept.Overlaps[0], kept.Overlaps[0].Smoothed!.Value);
        var preview = TrackPreview.Of(kept.Motion, clips[1], 2, own.Start, smoothed.End + 1)!;
        foreach (var end in new[] { 640, 700, 760 })
        {
            PlannedClip[] wish = [clips[0], clips[1], Cut(walk, 300, end, 30), clips[3]];
            var whole = ClipJoiner.Join(wish).Motion;
            foreach (var frame in new[] { 10, smoothed.Start + 3, 700, 890, 1000, whole.FrameCount - 5 })
            {
                var asked = new List<int>();
                var one = preview.At(
                    i =>
                    {
                        asked.Add(i);
                        return wish[i];
                    },
                    wish.Length,
                    frame
                );
                Assert.InRange(Samples.Worst(MotionEdits.Range(whole, frame, frame + 1), one), 0, frame < smoothed.End ? 0 : .03);
                Assert.DoesNotContain(1, asked);
                Assert.True(frame > 1000 || !asked.Contains(3), "a clip that is not looked at was joined");
            }
        }

        // A clip that has no frame to itself, or is repeated, says nothing of where it lies.
        Assert.Null(TrackPreview.Of(kept.Motion, clips[1], 2, own.Start, own.Start + 400));
        Assert.Null(TrackPreview.Of(kept.Motion, clips[1] with { Play = clips[1].Play with { Repeat = 2 } }, 2, own.Start, own.End + 1));
    }
}
