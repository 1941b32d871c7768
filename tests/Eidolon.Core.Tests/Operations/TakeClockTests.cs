using System.Numerics;
using System.Text.Json.Nodes;
using Eidolon.Cli;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Inertial;
using Eidolon.Core.Ledgers;
using Eidolon.Core.Operations;
using Eidolon.Core.Optical;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.Core.Video;
using Eidolon.StandIns.Inertial;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Operations;

/// <summary>A performance that was recorded in more than one way: what is solved from any of them stands on the take's clock.</summary>
public sealed class TakeClockTests
{
    private static readonly Motion Walk = Acts.Perform("lamp-walk", HarbourCast.Ines, 1, 100).Actors[0].Motion;

    /// <summary>The suit was switched on long before the take, poses first.</summary>
    private static readonly double Late = -CalibratingPoses.Seconds;

    private static readonly SuitValue Suit = new(SuitSimulator.WithPoses(Walk, 5));

    private static RecordedValue Recorded => new(Suit, null, 60, 600);

    private static FileResources Who => new() { Body = new Performer("Ines", 1.71f, HarbourCast.Ines.Skeleton, []) };

    [Fact]
    public void Frames_of_take_and_recording_say_the_same_moment()
    {
        var clock = new TakeClock(100, -2.5, 60, 600);
        Assert.Equal(250, clock.Own(0), 9);
        Assert.Equal(350, clock.Own(60), 9);
        Assert.Equal(60, clock.Take(350));
        // Before the take and after it there is nothing of it.
        Assert.Equal(0, clock.Take(10));
        Assert.Equal(599, clock.Take(99999));
        ContactEdit[] said = [new(ContactPoint.Toe, 'L', 60, 120, true)];
        Assert.Equal([new(ContactPoint.Toe, 'L', 350, 450, true)], clock.Own(said));
        // What ends before the recording begins says nothing of it; what reaches into it begins with it.
        var later = new TakeClock(100, 2, 60, 600);
        Assert.Equal(
            [new(ContactPoint.Heel, 'R', 0, 100, true)],
            later.Own([new(ContactPoint.Heel, 'R', 0, 60, true), new(ContactPoint.Heel, 'R', 60, 180, true)])
        );
    }

    [Fact]
    public void A_motion_is_shown_at_every_frame_of_the_take_and_holds_still_where_the_recording_has_nothing()
    {
        var motion = Motion.AtRest(Anthropometry.Body(1.7f), 100, 200);
        for (var f = 0; f < 200; f++)
        {
            motion.TranslationsAt(f)[0] = new Vector3(f, 1, 0);
        }

        var shown = new TakeClock(100, 1, 50, 200).Take(motion);
        Assert.Equal((50.0, 200), (shown.FrameRate, shown.FrameCount));
        Assert.Equal(0, shown.TranslationsAt(20)[0].X);
        Assert.Equal(0, shown.TranslationsAt(50)[0].X, 3);
        Assert.Equal(100, shown.TranslationsAt(100)[0].X, 3);
        Assert.Equal(199, shown.TranslationsAt(199)[0].X);
        var warnings = new JsonArray();
        new TakeClock(100, 1, 50, 200).Warn(warnings, 200, "the suit");
        // One second before it, one after it.
        Assert.Equal("the suit says nothing of 2.0 s of the take: the figure holds still there", (string)Assert.Single(warnings)!);
        new TakeClock(100, 0, 50, 100).Warn(warnings, 200, "the suit");
        Assert.Single(warnings);
    }

    [Fact]
    public void A_suit_beside_a_take_is_solved_on_the_takes_clock()
    {
        var alone = Told.Run("solve-suit", Suit, "{}", Who);
        var beside = Told.Run(
            "solve-suit",
            Recorded,
            $"{{'late':{Late.ToString(System.Globalization.CultureInfo.InvariantCulture)}}}",
            Who
        );
        var (own, on) = (((MotionValue)alone.Value).Motion, ((MotionValue)beside.Value).Motion);
        Assert.Equal((60.0, 600), (on.FrameRate, on.FrameCount));
        for (var f = 0; f < 600; f += 37)
        {
            var at = (int)Math.Round((CalibratingPoses.Seconds + (f / 60.0)) * 100);
            Assert.True(Vector3.Distance(own.TranslationsAt(at)[0], on.TranslationsAt(f)[0]) < 0.02f, $"frame {f}");
        }

        var (first, last) = ((JsonArray)alone.Report["contacts"]!, (JsonArray)beside.Report["contacts"]!);
        Assert.Equal(first.Count, last.Count);
        for (var k = 0; k < first.Count; k++)
        {
            var moment = ((int)first[k]!["start"]! / 100.0) + Late;
            Assert.InRange((int)last[k]!["start"]! / 60.0, Math.Clamp(moment, 0, 9.99) - 0.02, Math.Clamp(moment, 0, 9.99) + 0.02);
        }

        Assert.Equal(
            (600, 60.0, Math.Round(Late, 4)),
            ((int)beside.Report["frames"]!, (double)beside.Report["frameRate"]!, (double)beside.Report["lateSeconds"]!)
        );
        Assert.Contains("at most 3600 seconds", Told.Refused("solve-suit", Recorded, "{'late':4000}", Who), StringComparison.Ordinal);
    }

    [Fact]
    public void A_persons_word_stays_in_frames_of_the_take_and_moves_what_is_solved()
    {
        var said = Told.Run("contacts", Recorded, "{'point':'foot','side':'L','edits':[{'start':30,'end':330}]}").Value;
        var contacts = Assert.IsType<RecordedValue>(said).Contacts;
        Assert.Equal(2, contacts.Count);
        var late = $"{{'late':{Late.ToString(System.Globalization.CultureInfo.InvariantCulture)}}}";
        var solved = (MotionValue)Told.Run("solve-suit", said, late, Who).Value;
        Assert.Equal(contacts, solved.Contacts);
        var foot = solved.Motion.Skeleton.IndexOf(BodyRole.FootL);
        var (turns, places) = (new Quaternion[solved.Motion.Skeleton.Count], new Vector3[solved.Motion.Skeleton.Count]);
        Vector3 At(int f)
        {
            ForwardKinematics.World(solved.Motion, f, turns, places);
            return places[foot];
        }

        // She walks on in truth; the foot that was locked stays for those five seconds.
        Assert.True(Vector3.Distance(At(60), At(300)) < 0.05f, $"{Vector3.Distance(At(60), At(300)):0.000} m");
    }

    [Fact]
    public void Points_put_right_in_films_leave_the_other_recording_as_it_is()
    {
        var film = new FilmTake(30, ["KneeL"], [.. Enumerable.Range(0, 300).Select(_ => 1f)]);
        var films = new FilmValue([film], [CameraModel.Nominal("quay side", 1920, 1080, 1500)]);
        var value = Recorded with { Films = films };
        var mended = (RecordedValue)Told.Run("film-points", value, "{'points':[{'film':0,'frame':3,'point':'KneeL','u':7,'v':8}]}").Value;
        Assert.Equal(new FilmFix(0, 3, "KneeL", 7, 8), Assert.Single(mended.Films!.Fixes));
        Assert.Same(Suit, mended.Suit);
        Assert.NotEqual(ContentHash.Of(value), ContentHash.Of(mended));
        Assert.Equal(ContentHash.OfRecorded(60, 600, ContentHash.Of(Suit), ContentHash.Of(films)), ContentHash.Of(value));
        Assert.Contains("no films", Told.Refused("film-points", Recorded, "{'points':[]}"), StringComparison.Ordinal);
        Assert.Contains(
            "no recording of a suit",
            Told.Refused("solve-suit", value with { Suit = null }, "{}", Who),
            StringComparison.Ordinal
        );
    }
}
