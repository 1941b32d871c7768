using System.Numerics;
using CsCheck;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Tests.Geometry;

public sealed class DoublePrecisionTests
{
    private static readonly Gen<Vector3d> Vectors = Gen.Select(Gen.Double[-2, 2], Gen.Double[-2, 2], Gen.Double[-2, 2])
        .Select((x, y, z) => new Vector3d(x, y, z));

    private static void Near(Vector3d a, Vector3d b, double by = 1e-9) => Assert.True((a - b).Length < by, $"{a} {b}");

    [Fact]
    public void One_turn_is_the_same_as_vector_quaternion_and_matrix() =>
        Gen.Select(Vectors, Vectors)
            .Sample(
                (w, v) =>
                {
                    var q = Quaterniond.Exp(w.X, w.Y, w.Z);
                    var m = Matrix3d.FromRotationVector(w);
                    Near(q.ToMatrix() * v, m * v);
                    Near((Quaterniond)q.ToSingle() is var s ? s.ToMatrix() * v : default, m * v, 1e-5);
                    Near(q.Log(), w.Length <= Math.PI ? w : w * (1 - (2 * Math.PI / w.Length)), 1e-7);
                    Near(m.Transposed * (m * v), v);
                    Near((q.Conjugate() * q).ToMatrix() * v, v);
                    // Turning about an axis moves nothing on it and keeps lengths.
                    Near(m * w, w);
                    Assert.Equal(v.Length, (m * v).Length, 1e-9);
                }
            );

    [Fact]
    public void Turns_follow_one_another_from_right_to_left() =>
        Gen.Select(Vectors, Vectors, Vectors)
            .Sample(
                (a, b, v) =>
                {
                    Matrix3d ma = Matrix3d.FromRotationVector(a),
                        mb = Matrix3d.FromRotationVector(b);
                    Near(ma * mb * v, ma * (mb * v));
                    var q = Quaterniond.Exp(a.X, a.Y, a.Z) * Quaterniond.Exp(b.X, b.Y, b.Z);
                    Near(q.ToMatrix() * v, ma * (mb * v));
                    Near(new Quaterniond(q.X * 3, q.Y * 3, q.Z * 3, q.W * 3).Normalized().ToMatrix() * v, ma * (mb * v));
                }
            );

    [Theory]
    [InlineData(1e-12)]
    [InlineData(1e-7)]
    [InlineData(1e-5)]
    [InlineData(1e-3)]
    public void Small_turns_are_as_good_as_large_ones(double angle)
    {
        var w = new Vector3d(angle, -angle / 2, angle / 3);
        Near(Quaterniond.Exp(w.X, w.Y, w.Z).Log(), w, angle * 1e-6);
        var v = new Vector3d(0.3, 1, -2);
        // To second order: v + w × v + w × (w × v) / 2.
        var expected = v + Vector3d.Cross(w, v) + (Vector3d.Cross(w, Vector3d.Cross(w, v)) * 0.5);
        Near(Matrix3d.FromRotationVector(w) * v, expected, Math.Max(1e-13, angle * angle * angle));
    }

    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    [InlineData(2)]
    public void A_turn_about_a_coordinate_axis_is_put_on_the_right(int axis) =>
        Gen.Select(Vectors, Gen.Double[-3, 3], Vectors)
            .Sample(
                (w, angle, v) =>
                {
                    var m = Matrix3d.FromRotationVector(w);
                    var about = Matrix3d.FromRotationVector(Matrix3d.Identity.Column(axis) * angle);
                    Near(m.TurnedAbout(axis, angle) * v, m * (about * v));
                    Near(m.Column(axis), m * Matrix3d.Identity.Column(axis));
                    Near((Vector3d)Rotations.Axis(axis), Matrix3d.Identity.Column(axis));
                }
            );

    [Fact]
    public void Products_of_vectors_are_those_of_the_right_hand() =>
        Gen.Select(Vectors, Vectors)
            .Sample(
                (a, b) =>
                {
                    var c = Vector3d.Cross(a, b);
                    Assert.Equal(0, Vector3d.Dot(c, a), 1e-9);
                    Assert.Equal(0, Vector3d.Dot(c, b), 1e-9);
                    Assert.Equal(
                        (a.Length * a.Length * b.Length * b.Length) - (Vector3d.Dot(a, b) * Vector3d.Dot(a, b)),
                        c.Length * c.Length,
                        1e-6
                    );
                    Near(a + b - b, a);
                    Assert.True((a.ToSingle() - new Vector3((float)a.X, (float)a.Y, (float)a.Z)).Length() == 0);
                }
            );

    [Fact]
    public void X_cross_Y_is_Z() => Near(Vector3d.Cross(new(1, 0, 0), new(0, 1, 0)), new(0, 0, 1));

    [Fact]
    public void Directions_have_length_one() => Near(new Vector3d(0, -3, 4).Normalised(), new(0, -0.6, 0.8));

    [Fact]
    public void Twist_and_swing_make_the_whole_turn()
    {
        var q = Rotations.FromEuler(RotationOrder.ZXY, 0.4, -0.9, 1.3);
        foreach (var axis in new[] { 0, 1, 2 })
        {
            var twist = Rotations.Twist(q, Rotations.Axis(axis));
            // What is left does not turn about the axis any more.
            Assert.Equal(0, Rotations.Log(Rotations.Twist(q * Quaternion.Conjugate(twist), Rotations.Axis(axis))).Length(), 1e-5f);
            Assert.True(Vector3.Cross(Rotations.Log(twist), Rotations.Axis(axis)).Length() < 1e-6f);
        }

        // Half round about a level axis has no turn about the upright one.
        Assert.Equal(Quaternion.Identity, Rotations.Twist(new Quaternion(1, 0, 0, 0), Vector3.UnitY));
    }

    [Fact]
    public void A_heading_looks_where_the_direction_points()
    {
        foreach (var forward in new Vector3[] { new(1, 0, 0), new(-2, 5, 1), new(0, -3, -4) })
        {
            var level = Vector3.Normalize(forward with { Y = 0 });
            Assert.True((Vector3.Transform(Vector3.UnitZ, Rotations.Heading(forward)) - level).Length() < 1e-6f);
        }

        Assert.Equal(Quaternion.Identity, Rotations.Heading(Vector3.UnitY));
    }

    [Fact]
    public void Orders_are_three_different_letters()
    {
        Assert.True(RotationOrder.TryParse(" yXz ", out var order));
        Assert.Equal((1, 0, 2, "YXZ"), (order.First, order.Second, order.Third, order.ToString()));
        foreach (var bad in new[] { "", "XY", "XXZ", "XYX", "XYY", "XYW", "WXY", "XWY", "XYZX", "ABC" })
        {
            Assert.False(RotationOrder.TryParse(bad, out order));
            Assert.Equal(RotationOrder.ZXY, order);
        }
    }
}
