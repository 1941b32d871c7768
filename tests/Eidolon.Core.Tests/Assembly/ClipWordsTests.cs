using Eidolon.Core.Assembly;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Assembly;

public sealed class ClipWordsTests
{
    private static Motion Motion(string scene, Person person) => Acts.Perform(scene, person, 2).Actors[0].Motion;

    public static TheoryData<string, string> Scenes =>
        new()
        {
            { "quay-run", "run, starts standing, ends standing" },
            { "corner-run", "run, turns right, starts standing, ends standing" },
            { "steps-down", "walk, goes down, starts standing, ends standing" },
            { "long-watch", "stand, starts standing, ends standing" },
        };

    [Theory]
    [MemberData(nameof(Scenes))]
    public void A_motion_is_told_by_how_it_goes_whoever_performs_it(string scene, string words)
    {
        foreach (var person in new[] { HarbourCast.Ines, HarbourCast.Tobi })
        {
            var told = ClipWords.Of(Motion(scene, person)).Where(w => !w.EndsWith("foot first", StringComparison.Ordinal));
            Assert.Equal(words, string.Join(", ", told));
        }
    }

    [Fact]
    public void The_middle_of_a_run_neither_starts_nor_ends_standing_and_its_mirror_turns_the_other_way()
    {
        var corner = Motion("corner-run", HarbourCast.Tobi);
        var middle = MotionEdits.Range(corner, 160, corner.FrameCount - 220);
        var told = ClipWords.Of(middle);
        Assert.Contains("turns right", told);
        Assert.DoesNotContain(told, w => w.Contains("standing", StringComparison.Ordinal));
        var mirrored = ClipWords.Of(MotionMirror.Mirror(middle));
        Assert.Contains("turns left", mirrored);
        var (foot, other) = (
            told.Single(w => w.EndsWith("first", StringComparison.Ordinal)),
            mirrored.Single(w => w.EndsWith("first", StringComparison.Ordinal))
        );
        Assert.NotEqual(foot, other);
    }

    [Fact]
    public void The_strip_of_moments_is_lowest_where_the_best_one_begins()
    {
        var (a, b) = (Motion("quay-run", HarbourCast.Tobi), Motion("corner-run", HarbourCast.Tobi));
        var look = MomentFinder.Look(MotionEdits.Range(a, 150, 430), MotionEdits.Range(b, 150, 430), 3);
        var best = look.Moments[0];
        var lowest = Enumerable.Range(0, look.Apart.Count).MinBy(k => look.Apart[k]);
        Assert.InRange(lowest * look.Step, best.A - look.Step, best.A + look.Step);
        Assert.True(look.Apart.Max() > 3 * look.Apart.Min(), "a moment like any other says nothing");
        Assert.Equal(look.Moments, MomentFinder.Find(MotionEdits.Range(a, 150, 430), MotionEdits.Range(b, 150, 430), 3));
    }
}
