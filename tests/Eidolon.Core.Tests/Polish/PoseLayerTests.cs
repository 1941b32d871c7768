using System.Numerics;
using CsCheck;
using Eidolon.Core.Polish;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Tests.Polish;

public sealed class PoseLayerTests
{
    private static PoseLayer Layer(params LayerKey[] keys) => new("HandR", 1, keys);

    [Fact]
    public void A_layer_meets_its_keys_and_never_goes_beyond_them() =>
        Gen.Select(Gen.Int[1, 30], Gen.Int[1, 30], Gen.Int[1, 30], Gen.Float[-90, 90].Array[4])
            .Sample(
                (a, b, c, v) =>
                {
                    int[] at = [10, 10 + a, 10 + a + b, 10 + a + b + c];
                    // Told in any order.
                    var layer = Layer([.. at.Select((f, i) => new LayerKey(f, new Vector3(v[i], -v[i], 0))).Reverse()]);
                    for (var i = 0; i < 4; i++)
                    {
                        Assert.Equal(v[i], layer.At(at[i]).X, 1e-3f);
                    }

                    for (var i = 0; i < 3; i++)
                    {
                        var (low, high) = (Math.Min(v[i], v[i + 1]), Math.Max(v[i], v[i + 1]));
                        for (var f = at[i]; f <= at[i + 1]; f++)
                        {
                            Assert.InRange(layer.At(f).X, low - 1e-3f, high + 1e-3f);
                            Assert.Equal(-layer.At(f).X, layer.At(f).Y, 1e-3f);
                        }
                    }

                    // Outside the outer keys they hold.
                    Assert.Equal(layer.At(at[0]), layer.At(-500));
                    Assert.Equal(layer.At(at[3]), layer.At(9000));
                }
            );

    [Fact]
    public void Where_three_keys_go_one_way_the_curve_goes_on_through_the_middle_one()
    {
        var layer = Layer(new LayerKey(0, new Vector3(0)), new LayerKey(10, new Vector3(10)), new LayerKey(20, new Vector3(20)));
        Assert.Equal(1, layer.At(11).X - layer.At(10).X, 0.15f);
        Assert.Equal(layer.At(10).X - layer.At(9).X, layer.At(11).X - layer.At(10).X, 0.02f);
        // At an extreme it is flat instead.
        var peak = Layer(new LayerKey(0, new Vector3(0)), new LayerKey(10, new Vector3(10)), new LayerKey(20, new Vector3(0)));
        Assert.True(peak.At(10).X - peak.At(9).X < 0.3f);
    }

    [Fact]
    public void A_release_key_is_nothing_and_comes_and_goes_flat()
    {
        var layer = Layer(new LayerKey(0, new Vector3(30), true), new LayerKey(20, new Vector3(30)), new LayerKey(40, default, true));
        Assert.Equal(Vector3.Zero, layer.At(0));
        Assert.Equal(Vector3.Zero, layer.At(-1));
        Assert.Equal(Vector3.Zero, layer.At(40));
        Assert.Equal(Vector3.Zero, layer.At(100));
        Assert.True(layer.At(1).X < 0.5f && layer.At(39).X < 0.5f);
        Assert.Equal(30, layer.At(20).X, 1e-4f);
        Assert.Equal(Vector3.Zero, Layer().At(7));
    }

    [Fact]
    public void A_joint_is_meant_by_name_or_role_and_one_that_is_not_there_is_refused()
    {
        var body = Anthropometry.Body(1.7f);
        var renamed = new Skeleton(body.Joints.Select(j => j with { Name = "j" + j.Name }));
        Assert.Equal(body.IndexOf("HandR"), Layer().JointIn(body));
        Assert.Equal(body.IndexOf("HandR"), Layer().JointIn(renamed));
        Assert.Contains(
            "no joint 'Wing'",
            Assert.Throws<RefusedException>(() => new PoseLayer("Wing", 1, []).JointIn(body)).Message,
            StringComparison.Ordinal
        );
    }

    [Theory]
    [InlineData(1, 40)]
    [InlineData(0.5f, 20)]
    [InlineData(0, 0)]
    public void The_weight_scales_the_turn_of_one_joint_and_the_source_is_left_alone(float weight, float degrees)
    {
        var motion = new Motion(Anthropometry.Body(1.7f), 30, 3);
        Array.Fill(motion.Rotations, Quaternion.Identity);
        var result = new PoseLayer("HandR", weight, [new LayerKey(0, new Vector3(0, 40, 0))]).Apply(motion);
        var joint = motion.Skeleton.IndexOf("HandR");
        for (var k = 0; k < result.Rotations.Length; k++)
        {
            Assert.Equal(Quaternion.Identity, motion.Rotations[k]);
            var angle = Eidolon.Core.Geometry.Rotations.Angle(Quaternion.Identity, result.Rotations[k]) * 180 / MathF.PI;
            Assert.Equal(k % motion.Skeleton.Count == joint ? degrees : 0, angle, 0.01f);
        }
    }
}
