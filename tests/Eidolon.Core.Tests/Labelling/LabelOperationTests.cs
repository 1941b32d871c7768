using System.Text.Json.Nodes;
using Eidolon.Cli;
using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.Core.Operations;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.Testing;

namespace Eidolon.Core.Tests.Labelling;

/// <summary>Labels as an animator works with them: on a range, again after corrections, with pinned names, and what is suggested for a dot.</summary>
[Trait(LongRun.Run, LongRun.Whole)]
public sealed class LabelOperationTests(Bodies bodies) : IClassFixture<Bodies>
{
    private readonly MarkerTake _seen = Acts.Labelled(
            Acts.Perform("haul-rope", bodies.Marit, 4),
            new MarkerSimulator.Settings(MinimumCameras: 3)
        )
        .Range(0, 1300);

    private OperationContext Context =>
        new(new FileResources { Set = HarbourMarkers.Set(), Known = [bodies.Subject(bodies.Marit, false)] });

    private MarkerValue Run(MarkerValue data, Operation operation, string parameters = "{}") =>
        (MarkerValue)operation.Run(new OperationInput(data), JsonNode.Parse(parameters)!.AsObject(), Context).Value;

    /// <summary>Share of the seen samples of a stretch that carry their own name, and that carry another's.</summary>
    private (double Right, double Wrong) Count(MarkerTake take, int from, int to)
    {
        long all = 0,
            right = 0,
            wrong = 0;
        for (var m = 0; m < _seen.MarkerCount; m++)
        {
            var column = take.IndexOf(_seen.Names[m]);
            for (var f = from; f <= to; f++)
            {
                var (truth, given) = (_seen[f, m], column < 0 ? MarkerTake.Hidden : take[f, column]);
                all += MarkerTake.Seen(truth) ? 1 : 0;
                right += MarkerTake.Seen(truth) && given == truth ? 1 : 0;
                wrong += MarkerTake.Seen(given) && given != truth ? 1 : 0;
            }
        }

        return (right / (double)all, wrong / (double)all);
    }

    [Fact]
    public void A_range_is_labelled_and_the_rest_stays_as_it_was()
    {
        var dots = DotMaker.Make(_seen, 3, out _);
        var labelled = Run(new MarkerValue(dots), LabelOperations.Label, """{ "from": 400, "to": 899 }""").Take;
        Assert.True(Count(labelled, 400, 899).Right > 0.995);
        Assert.Equal((0, 0), Count(labelled, 0, 399));
        Assert.Equal((0, 0), Count(labelled, 900, _seen.FrameCount - 1));
        Assert.Equal(dots.Positions.Count(MarkerTake.Seen), labelled.Positions.Count(MarkerTake.Seen));
        Assert.Throws<RefusedException>(() => Run(new MarkerValue(dots), LabelOperations.Label, """{ "from": 400, "to": 403 }"""));
    }

    [Fact]
    public void The_next_pass_gives_its_own_names_anew_and_keeps_what_was_pinned()
    {
        var data = Run(new MarkerValue(DotMaker.Make(_seen, 3, out _)), LabelOperations.Label);
        Assert.True(Count(data.Take, 0, _seen.FrameCount - 1).Right > 0.995);
        // Somebody mixes two names up: they are the pass's own, so that it puts them right.
        var mixed = Run(data, LabelOperations.Exchange, """{ "a": "KneeInL", "b": "KneeOutL", "from": 500, "to": 1100 }""");
        Assert.True(Count(mixed.Take, 500, 1100).Wrong > 0.01);
        Assert.Equal(0, Count(Run(mixed, LabelOperations.Label).Take, 500, 1100).Wrong);
        // A name that a person insists on stays, right or wrong.
        var pinned = Run(
            Run(mixed, LabelOperations.SetLabel, """{ "dot": "KneeInL", "name": "KneeInL" }"""),
            LabelOperations.SetLabel,
            """{ "dot": "KneeOutL", "name": "KneeOutL" }"""
        );
        Assert.Equal(["KneeInL", "KneeOutL"], pinned.Pinned.Select(p => p.Name));
        Assert.True(Count(Run(pinned, LabelOperations.Label).Take, 500, 1100).Wrong > 0.01);
        // Labels off: all but the pinned ones, or those too.
        Assert.Equal(
            ["KneeInL", "KneeOutL"],
            Run(pinned, LabelOperations.Unlabel, """{ "pinned": "keep" }""")
                .Take.Names.Where((n, m) => !MarkerNames.IsUnnamed(n) && pinned.Take.VisibleFrames(m) > 0)
                .Intersect(["KneeInL", "KneeOutL"])
                .Order()
        );
        var off = Run(pinned, LabelOperations.Unlabel).Take;
        Assert.Equal(0, off.Names.Select((n, m) => MarkerNames.IsUnnamed(n) ? 0 : off.VisibleFrames(m)).Sum());
    }

    [Fact]
    public void The_likeliest_name_of_a_dot_is_mostly_its_own()
    {
        var random = new Random(8);
        var body = bodies.Subject(bodies.Marit, false).Performer;
        int right = 0,
            asked = 0,
            among = 0;
        for (var k = 0; k < 90; k++)
        {
            var (m, f) = (random.Next(_seen.MarkerCount), random.Next(_seen.FrameCount));
            if (!MarkerTake.Seen(_seen[f, m]))
            {
                continue;
            }

            // This marker and a handful of others have no name.
            var names = _seen.Names.ToArray();
            names[m] = "Dot_001";
            for (var i = 2; i < 8; i++)
            {
                var other = random.Next(names.Length);
                names[other] = other == m ? names[m] : $"Dot_{i:000}";
            }

            names = [.. names.Select((n, i) => i != m && n == "Dot_001" ? "Dot_099" : n)];
            names = [.. names.Select((n, i) => Array.IndexOf(names, n) == i ? n : $"Dot_{200 + i}")];
            var list = NameSuggestions.For(_seen.Renamed(names), HarbourMarkers.Set(), [(null, body)], "Dot_001", f);
            asked++;
            right += list.Count > 0 && list[0].Name == _seen.Names[m] ? 1 : 0;
            among += list.Any(s => s.Name == _seen.Names[m]) ? 1 : 0;
        }

        Assert.True(right > 0.85 * asked && among > 0.95 * asked, $"{right} first, {among} among three, of {asked}");
        Assert.Empty(NameSuggestions.For(_seen, HarbourMarkers.Set(), [(null, body)], "Dot_404", 0));
    }

    [Fact]
    public void Joined_and_discarded_trajectories_are_gone_and_named_ones_cannot_be_discarded()
    {
        var dots = DotMaker.Make(_seen, 3, out _);
        var (a, b) = (dots.Names[0], dots.Names[1]);
        var joined = Run(new MarkerValue(dots), LabelOperations.Join, $$"""{ "name": "{{a}}", "into": "{{b}}" }""").Take;
        Assert.Equal(dots.Positions.Count(MarkerTake.Seen), joined.Positions.Count(MarkerTake.Seen));
        Assert.Equal(-1, Run(new MarkerValue(dots), LabelOperations.Discard, $$"""{ "name": "{{a}}" }""").Take.IndexOf(a));
        Assert.Throws<RefusedException>(() => Run(new MarkerValue(_seen), LabelOperations.Discard, """{ "name": "Crown" }"""));
        Assert.Throws<RefusedException>(() =>
            Run(new MarkerValue(dots), LabelOperations.Join, $$"""{ "name": "{{a}}", "into": "{{a}}" }""")
        );
    }

    [Fact]
    public void Bodies_are_told_apart_by_their_markers()
    {
        var walk = Acts.Labelled(Acts.Perform("lamp-walk", bodies.Marit, 2));
        Assert.True(BodyLikeness.Difference(_seen, walk, HarbourMarkers.Set()) < BodyLikeness.Same / 3);
        // As tall, arms as long, and still somebody else.
        var other = Acts.Labelled(
            Acts.Perform("lamp-walk", new Person("Twin", bodies.Marit.Stature, bodies.Marit.ArmScale, bodies.Marit.Seed + 1), 2)
        );
        Assert.True(BodyLikeness.Difference(_seen, other, HarbourMarkers.Set()) > BodyLikeness.Same * 1.3);
        Assert.True(
            double.IsNaN(
                BodyLikeness.Difference(_seen, walk.Renamed([.. walk.Names.Select((_, i) => $"Dot_{i + 1:000}")]), HarbourMarkers.Set())
            )
        );
    }
}
