using System.Diagnostics;
using System.Numerics;
using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Solving;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.StandIns.Truth;
using Eidolon.Testing;
using Xunit.Abstractions;

namespace Eidolon.Core.Tests.Labelling;

/// <summary>Bodies measured once for the label tests; nobody from the demo among the first two.</summary>
public sealed class Bodies
{
    private static readonly Dictionary<string, (Performer Performer, MarkerTake Rom)> _known = [];

    public Person Marit { get; } = new("Marit", 1.63f, 0.97f, 57);

    public LabelSubject Subject(Person person, bool prefix)
    {
        lock (_known)
        {
            if (!_known.TryGetValue(person.Name, out var known))
            {
                var rom = Acts.Labelled(Acts.Perform("rom", person, 3));
                _known[person.Name] = known = (PerformerCalibration.Calibrate(person.Name, rom, HarbourMarkers.Set()).Performer, rom);
            }

            return LabelSubject.From(prefix ? person.Name : null, known.Performer, known.Rom);
        }
    }
}

/// <summary>Nameless dots with ghosts, gaps and swaps get their names, counted sample by sample.</summary>
[Trait(LongRun.Run, LongRun.Whole)]
public sealed class TakeLabellerTests(Bodies bodies, ITestOutputHelper output) : IClassFixture<Bodies>
{
    private (double Right, double Wrong) Label(string what, MarkerTake seen, MarkerTake dots, MarkerSet set, params LabelSubject[] subjects)
    {
        var clock = Stopwatch.StartNew();
        var result = TakeLabeller.Label(dots, set, subjects);
        var speed = dots.FrameCount / dots.FrameRate / clock.Elapsed.TotalSeconds;
        var (right, wrong) = NameScore.Count(seen, result.Take);
        output.WriteLine($"{what}: {right:P2} right, {wrong:P3} wrong, {result.Doubts.Count} doubts, {speed:0.0} x real time");
        return (right, wrong);
    }

    [Fact]
    public void A_body_that_is_suddenly_elsewhere_is_named_from_that_very_frame()
    {
        // Two recordings put together: from one frame to the next the performer stands elsewhere, turned round.
        var seen = Acts.Labelled(Acts.Perform("gangplank-hop", bodies.Marit, 2)).Range(0, 420).Copy();
        const int cut = 200;
        for (var f = cut; f < seen.FrameCount; f++)
        {
            foreach (ref var p in seen.At(f))
            {
                p = new Vector3(1.4f - p.X, p.Y, -0.9f - p.Z);
            }
        }

        var named = TakeLabeller.Label(DotMaker.Make(seen, 4, out _), HarbourMarkers.Set(), [bodies.Subject(bodies.Marit, false)]).Take;
        var (right, wrong) = NameScore.Count(seen.Range(cut, cut + 60), named.Range(cut, cut + 60));
        Assert.True(right > 0.97 && wrong < 0.005, $"{right:P1} right, {wrong:P2} wrong in the half second after it");
    }

    [Fact]
    public void A_dot_that_stands_in_the_room_gets_no_name_though_one_is_free()
    {
        var seen = Acts.Labelled(Acts.Perform("gangplank-hop", bodies.Marit, 2)).Range(0, 300).Copy();
        var knee = seen.IndexOf("KneeOutL");
        for (var f = 0; f < seen.FrameCount; f++)
        {
            seen[f, knee] = new Vector3(0.9f, 1.1f, 0.4f);
        }

        var dots = DotMaker.Make(seen, 4, out _);
        var result = TakeLabeller.Label(dots, HarbourMarkers.Set(), [bodies.Subject(bodies.Marit, false)]);
        var named = result.Take.IndexOf("KneeOutL") is >= 0 and var m ? result.Take.VisibleFrames(m) : 0;
        Assert.Equal(0, named);
    }

    [Theory]
    [LongData("lamp-walk", 4)]
    [LongData("haul-rope", 5)]
    [InlineData("gangplank-hop", 6)]
    [LongData("rom", 7)]
    public void One_performer_is_named_without_help(string scene, int take)
    {
        var seen = Acts.Labelled(Acts.Perform(scene, bodies.Marit, take));
        var dots = DotMaker.Make(seen, take, out _, swaps: 6);
        var (right, wrong) = Label(scene, seen, dots, HarbourMarkers.Set(), bodies.Subject(bodies.Marit, false));
        Assert.True(right >= 0.995 && wrong < 0.001, $"{right:P2} right, {wrong:P3} wrong");
    }

    [Theory, Trait(LongRun.Run, LongRun.Long)]
    [LongData("crate-carry", 0.985, 0.003)]
    [InlineData("deck-crouch", 0.97, 0.01)]
    public void Two_near_each_other_are_kept_apart(string scene, double least, double most)
    {
        var seen = Acts.Labelled(Acts.Perform(scene, bodies.Marit, 2));
        var dots = DotMaker.Make(seen, 9, out _, swaps: 8);
        var (right, wrong) = Label(
            scene,
            seen,
            dots,
            HarbourMarkers.Set(),
            bodies.Subject(bodies.Marit, true),
            bodies.Subject(HarbourCast.Tobi, true)
        );
        Assert.True(right >= least && wrong < most, $"{right:P2} right, {wrong:P3} wrong");
    }

    [Theory, Trait(LongRun.Run, LongRun.Long)]
    [InlineData(30, "haul-rope", 11)]
    [LongData(42, "lamp-walk", 12)]
    [LongData(80, "gangplank-hop", 13)]
    public void Sets_of_any_size_and_names_do_as_well(int count, string scene, int seed)
    {
        var person = new Person("Oda", 1.74f, 1.02f, seed);
        var worn = new MarkerSimulator.Settings(Rows: OddMarkers.Rows(count, seed));
        var set = OddMarkers.Set(count, seed);
        var subject = LabelSubject.Learn(null, Acts.Labelled(Acts.Perform("rom", person, 1), worn), set);
        var seen = Acts.Labelled(Acts.Perform(scene, person, 3), worn);
        var dots = DotMaker.Make(seen, seed, out _, swaps: 5);
        var (right, wrong) = Label($"{count} markers, {scene}", seen, dots, set, subject);
        Assert.True(right >= 0.995 && wrong < 0.001, $"{right:P2} right, {wrong:P3} wrong");
    }

    [Theory, Trait(LongRun.Run, LongRun.Long)]
    [InlineData(30, "gangplank-hop")]
    [LongData(60, "lamp-walk")]
    public void Few_frames_a_second_are_named_as_well(double rate, string scene)
    {
        var person = Strangers.Some(3, 5)[1];
        var worn = new MarkerSimulator.Settings(Skin: Skin.Soft);
        var subject = LabelSubject.Learn(null, Acts.Labelled(Acts.Perform("rom", person, 1, rate), worn), HarbourMarkers.Set());
        var seen = Acts.Labelled(Acts.Perform(scene, person, 3, rate), worn);
        var dots = DotMaker.Make(seen, 7, out _, swaps: 6);
        var (right, wrong) = Label($"{rate} Hz, {scene}", seen, dots, HarbourMarkers.Set(), subject);
        Assert.True(right >= 0.995 && wrong < 0.001, $"{right:P2} right, {wrong:P3} wrong");
    }

    [Fact]
    public void Five_pinned_labels_carry_a_creeping_pair()
    {
        var seen = Acts.Labelled(Acts.Perform("deck-crouch", bodies.Marit, 3));
        var dots = DotMaker.Make(seen, 4, out var truth, swaps: 4);
        var names = dots.Names.ToArray();
        foreach (var marker in new[] { "Marit:HipFrontL", "Marit:KneeOutR", "Marit:Crown", "Tobi:HipFrontR", "Tobi:KneeOutL" })
        {
            // The longest fragment of each, as a person would click.
            var column = Enumerable
                .Range(0, dots.MarkerCount)
                .Where(c => truth[c] == marker && Unbroken(seen, dots, c, marker))
                .MaxBy(dots.VisibleFrames);
            names[column] = marker;
        }

        var (right, wrong) = Label(
            "deck-crouch, five pinned",
            seen,
            dots.Renamed(names),
            HarbourMarkers.Set(),
            bodies.Subject(bodies.Marit, true),
            bodies.Subject(HarbourCast.Tobi, true)
        );
        Assert.True(right >= 0.99 && wrong < 0.003, $"{right:P2} right, {wrong:P3} wrong");
    }

    private static bool Unbroken(MarkerTake seen, MarkerTake dots, int column, string marker)
    {
        var m = seen.IndexOf(marker);
        return Enumerable.Range(0, dots.FrameCount).All(f => !MarkerTake.Seen(dots[f, column]) || dots[f, column] == seen[f, m]);
    }

    [Fact]
    public void A_name_of_the_set_that_no_reference_taught_stays()
    {
        var seen = Acts.Labelled(Acts.Perform("gangplank-hop", bodies.Marit, 2)).Range(0, 300);
        var dots = DotMaker.Make(seen, 3, out var truth);
        var column = Array.FindIndex(truth, t => t == "Crown");
        var names = dots.Names.ToArray();
        names[column] = "Extra";
        var set = HarbourMarkers.Set();
        set = set with { Markers = [.. set.Markers, new MarkerDefinition("Extra", Core.Skeletons.BodyRole.Head, null)] };
        var result = TakeLabeller.Label(dots.Renamed(names), set, [bodies.Subject(bodies.Marit, false)]);
        var extra = result.Take.IndexOf("Extra");
        Assert.Equal(dots.VisibleFrames(column), result.Take.VisibleFrames(extra));
        Assert.All(Enumerable.Range(0, 300), f =>
            Assert.True(!MarkerTake.Seen(dots[f, column]) || result.Take[f, extra] == dots[f, column])
        );
    }

    [Fact]
    public void A_take_without_a_body_says_so_and_keeps_its_dots()
    {
        var random = new Random(2);
        var dots = new MarkerTake([.. Enumerable.Range(1, 30).Select(i => $"Dot_{i:000}")], 120, 60);
        for (var k = 0; k < dots.Positions.Length; k++)
        {
            dots.Positions[k] = new System.Numerics.Vector3(k % 30 * 0.4f, random.NextSingle() * 0.002f, 0);
        }

        var result = TakeLabeller.Label(dots, HarbourMarkers.Set(), [bodies.Subject(bodies.Marit, false)]);
        Assert.Equal(0, result.LabelledFraction);
        Assert.Equal(dots.Positions.Length, result.Take.Positions.Count(MarkerTake.Seen));
        Assert.Contains(result.Doubts, d => d.Reason.Contains("not found", StringComparison.Ordinal));
    }

    [Fact]
    public void A_body_that_leaves_and_comes_back_is_named_from_its_first_frame()
    {
        var seen = Acts.Labelled(Acts.Perform("lamp-walk", bodies.Marit, 4), new MarkerSimulator.Settings(SpikesPerMinute: 0));
        // Out of the room for a second and a half, twice; in between it is looked for twice a second only.
        foreach (var gone in new[] { 500, 1100 })
        {
            for (var f = gone; f < gone + 180; f++)
            {
                seen.At(f).Fill(MarkerTake.Hidden);
            }
        }

        var dots = DotMaker.Make(seen, 4, out _, swaps: 0);
        var (right, wrong) = Label("twice gone", seen, dots, HarbourMarkers.Set(), bodies.Subject(bodies.Marit, false));
        Assert.True(right >= 0.995 && wrong < 0.001, $"{right:P2} right, {wrong:P3} wrong");
    }

    [Fact]
    public void A_limb_that_is_followed_where_it_is_not_is_found_again()
    {
        // Few frames, a tall person, a loose suit: an arm is found shifted along itself in most frames one may begin in.
        var person = Strangers.Some(3, 5)[2];
        var worn = new MarkerSimulator.Settings(Skin: Skin.Loose);
        var rom = Acts.Labelled(Acts.Perform("rom", person, 1, 60), worn);
        var subject = LabelSubject.Learn(null, rom, HarbourMarkers.Set());
        var seen = Acts.Labelled(Acts.Perform("lamp-walk", person, 3, 60), worn);
        var (right, wrong) = Label("2.05 m, loose, 60 Hz", seen, DotMaker.Make(seen, 7, out _, swaps: 6), HarbourMarkers.Set(), subject);
        Assert.True(right >= 0.995 && wrong < 0.001, $"{right:P2} right, {wrong:P3} wrong");
    }
}
