using System.Numerics;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Tests.Solving;

public sealed class BodyShapeTests
{
    private const double Sigma = 0.004;

    /// <summary>A body with two markers level beside each knee, or both in front of it where they tell nothing of its height.</summary>
    private static (BodyShape Shape, Skeleton Skeleton, IReadOnlyList<PerformerMarker> Markers) Body(bool beside = true)
    {
        var skeleton = Anthropometry.Body(1.7f);
        var markers = new List<PerformerMarker>();
        foreach (var side in "LR")
        {
            var thigh = skeleton.IndexOf("Thigh" + side);
            var knee = skeleton[skeleton.IndexOf("Shin" + side)].Offset;
            markers.Add(
                new PerformerMarker("KneeOut" + side, thigh, knee + (beside ? new Vector3(0.05f, 0, 0) : new Vector3(0.02f, 0, 0.05f)))
            );
            markers.Add(
                new PerformerMarker("KneeIn" + side, thigh, knee + (beside ? new Vector3(-0.05f, 0, 0) : new Vector3(-0.02f, 0, 0.05f)))
            );
        }

        return (new BodyShape(skeleton, markers, [.. markers.Select(_ => 0.02)], Sigma), skeleton, markers);
    }

    /// <summary>How hard the shape pulls at a term where it stands.</summary>
    private static double Pull(BodyShape shape, int term)
    {
        var gradient = new double[shape.Count];
        shape.Prior(1, new double[shape.Count * shape.Count], gradient);
        return gradient[term];
    }

    private static int TermOf(BodyShape shape, int joint) => Enumerable.Range(0, shape.Count).First(k => shape.Terms[k].Joint == joint);

    private static int TermOf(BodyShape shape, int marker, int axis) => shape.JointTerms + (marker * 3) + axis;

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void Markers_on_either_side_of_a_knee_pull_its_height_along_and_others_do_not(bool beside)
    {
        var (shape, skeleton, _) = Body(beside);
        var knee = TermOf(shape, skeleton.IndexOf("ShinL"));
        var before = Pull(shape, knee);
        // Both slip down by a centimetre: the thigh is to be longer.
        shape.Values[TermOf(shape, 0, 1)] -= 0.01;
        shape.Values[TermOf(shape, 1, 1)] -= 0.01;
        var pull = before - Pull(shape, knee);
        var expected = beside ? Math.Pow(Sigma / 0.010, 2) * 0.01 : 0;
        Assert.Equal(expected, pull, 1e-9);
    }

    [Fact]
    public void Left_and_right_pull_each_other_to_the_same_length()
    {
        var (shape, skeleton, _) = Body();
        int l = TermOf(shape, skeleton.IndexOf("FootL")),
            r = TermOf(shape, skeleton.IndexOf("FootR"));
        var (left, right) = (Pull(shape, l), Pull(shape, r));
        shape.Values[l] += 0.02;
        Assert.True(Pull(shape, l) > left);
        Assert.Equal(-Math.Pow(Sigma / 0.004, 2) * 0.02, Pull(shape, r) - right, 1e-9);
    }

    [Fact]
    public void Its_equations_are_the_slope_of_its_cost()
    {
        var (shape, _, _) = Body();
        var random = new Random(4);
        for (var k = 0; k < shape.Count; k++)
        {
            shape.Values[k] += (random.NextDouble() - 0.5) * 0.02;
        }

        var n = shape.Count;
        var (h, g) = (new double[n * n], new double[n]);
        shape.Prior(3, h, g);
        double At(int k, double step)
        {
            shape.Values[k] += step;
            var cost = shape.Prior(3, null, null);
            shape.Values[k] -= step;
            return cost;
        }

        const double e = 1e-5;
        for (var k = 0; k < n; k++)
        {
            Assert.Equal((At(k, e) - At(k, -e)) / (2 * e), g[k], 1e-6);
            Assert.Equal((At(k, e) + At(k, -e) - (2 * At(k, 0))) / (e * e), h[(k * n) + k], 1e-3 * Math.Max(1, h[(k * n) + k]));
        }
    }

    [Fact]
    public void A_shape_is_put_into_the_model_as_it_stands()
    {
        var (shape, skeleton, markers) = Body();
        var model = BodyModel.Create(new Performer("Nobody", 1.7f, skeleton, markers));
        shape.Values[TermOf(shape, skeleton.IndexOf("ShinL"))] += 0.03;
        shape.ApplyTo(model);
        for (var j = 1; j < skeleton.Count; j++)
        {
            var longer = skeleton[j].Name == "ShinL" ? 0.03 : 0;
            Assert.Equal(skeleton[j].Offset.Length() + longer, model.Offsets[j].Length, 1e-5);
        }

        Assert.Equal(markers[0].Offset.X, model.MarkerOffsets[0].X, 1e-6);
    }
}
