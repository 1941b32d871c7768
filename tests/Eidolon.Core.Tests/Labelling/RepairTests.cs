using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.Scenes;
using Eidolon.Testing;

namespace Eidolon.Core.Tests.Labelling;

/// <summary>The passes that look at names once more, each by itself: names are spoilt as they are in practice, and must come back.</summary>
[Trait(LongRun.Run, LongRun.Whole)]
public sealed class RepairTests : IClassFixture<Bodies>
{
    private const int Frames = 240;
    private readonly MarkerTake _take;
    private readonly MarkerTake _carried;
    private readonly LabelSubject _subject;
    private readonly Dictionary<string, int> _of;

    public RepairTests(Bodies bodies)
    {
        _subject = bodies.Subject(bodies.Marit, false);
        var performance = Acts.Perform("haul-rope", bodies.Marit, 5);
        var worn = new MarkerSimulator.Settings(SpikesPerMinute: 0, Occlusion: false);
        var markers = _subject.Performer.Markers.Select(m => m.Name).ToArray();
        _take = Acts.Labelled(performance, worn).Only(markers).Range(0, Frames);
        _carried = MarkerSimulator.Truth(performance, 0).Only(markers).Range(0, Frames);
        _of = markers.Select((m, i) => (m, i)).ToDictionary(p => p.m, p => p.i, StringComparer.Ordinal);
    }

    /// <summary>Every dot bears its own name, or the one it is given here; −1 for none.</summary>
    private List<LabelDecider.Decision> Named(params (string Dot, int Marker)[] otherwise) =>
        [
            .. Enumerable
                .Range(0, _take.MarkerCount)
                .Select(m =>
                {
                    var name = otherwise.FirstOrDefault(o => _of[o.Dot] == m) is { Dot: not null } o ? o.Marker : m;
                    return new LabelDecider.Decision(new Fragment(m, m, 0, Frames - 1, null), 0, Frames - 1, name < 0 ? -1 : 0, name, 1);
                }),
        ];

    private static int Wrong(IEnumerable<LabelDecider.Decision> decisions) => decisions.Count(d => d.Marker != d.Fragment.Column);

    [Fact]
    public void Names_that_are_right_are_left_alone()
    {
        Assert.Equal(0, new Leftovers(_take, [_subject], [_carried]).Repair(Named(), default).Changed);
        Assert.Equal(0, new Exchanges(_take, [_subject], [_carried]).Repair(Named(), default).Changed);
        Assert.Equal(0, new HandFlips(_take, [_subject], [_carried]).Repair(Named(), default).Changed);
    }

    [Fact]
    public void A_hand_turned_about_the_forearm_is_turned_back()
    {
        var flipped = Named(
            ("WristThumbL", _of["WristLittleL"]),
            ("WristLittleL", _of["WristThumbL"]),
            ("KnuckleInL", _of["KnuckleOutL"]),
            ("KnuckleOutL", _of["KnuckleInL"])
        );
        var (decisions, changed) = new HandFlips(_take, [_subject], [_carried]).Repair(flipped, default);
        Assert.Equal((0, true), (Wrong(decisions), changed > 0));
    }

    [Theory]
    [InlineData("AnkleOutR", "AnkleInR")]
    [LongData("BallInL", "BallOutL")]
    public void Neighbours_that_bear_each_others_names_are_exchanged(string a, string b)
    {
        var (decisions, changed) = new Exchanges(_take, [_subject], [_carried]).Repair(Named((a, _of[b]), (b, _of[a])), default);
        Assert.Equal((0, true), (Wrong(decisions), changed > 0));
    }

    [Fact]
    public void A_dot_without_a_name_gets_the_one_that_is_lacking()
    {
        var (decisions, changed) = new Leftovers(_take, [_subject], [_carried]).Repair(Named(("ToeL", -1)), default);
        Assert.Equal((0, true), (Wrong(decisions), changed > 0));
    }

    [Fact]
    public void A_name_on_its_neighbours_dot_goes_back_when_its_own_is_left_over()
    {
        var (decisions, changed) = new Leftovers(_take, [_subject], [_carried]).Repair(
            Named(("BallInL", _of["ToeL"]), ("ToeL", -1)),
            default
        );
        Assert.Equal((0, true), (Wrong(decisions), changed > 0));
    }
}
