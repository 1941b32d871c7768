using System.Numerics;
using Eidolon.Core.Labelling;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Tests.Labelling;

/// <summary>A fragment gets the name of the marker whose way it goes, and none where no marker comes near it.</summary>
public sealed class LabelDeciderTests
{
    private const int Frames = 120;

    /// <summary>A marker on its way over the floor.</summary>
    private static Vector3 Way(int frame) => new(0.01f * frame, 1, 0);

    private static int Named(Func<int, Vector3> dot)
    {
        var (take, carried) = (new MarkerTake(["?"], 120, Frames), new MarkerTake(["ToeL"], 120, Frames));
        for (var f = 0; f < Frames; f++)
        {
            (take[f, 0], carried[f, 0]) = (dot(f), Way(f));
        }

        var decisions = new LabelDecider(take, [new Fragment(0, 0, 0, Frames - 1, null)], [carried]).Decide(default);
        return decisions.Where(d => d.Marker == 0).Sum(d => d.End - d.Start + 1);
    }

    [Theory]
    [InlineData(0.005f, Frames)]
    [InlineData(0.3f, 0)]
    public void A_dot_near_a_marker_is_named_and_a_far_one_is_not(float beside, int named) =>
        Assert.Equal(named, Named(f => Way(f) + new Vector3(0, 0, beside)));
}
