using System.Numerics;
using CsCheck;
using Eidolon.Core.Formats.Json;
using Eidolon.Core.Markers;
using Eidolon.StandIns.People;

namespace Eidolon.Core.Tests.Markers;

public sealed class RigidBodyTests
{
    private static readonly Gen<Quaternion> Turns = Gen.Select(Gen.Float[-1, 1], Gen.Float[-1, 1], Gen.Float[-1, 1], Gen.Float[0.1f, 1])
        .Select((x, y, z, w) => Quaternion.Normalize(new Quaternion(x, y, z, w)));
    private static readonly Gen<Vector3> Places = Gen.Select(Gen.Float[-3, 3], Gen.Float[0, 2], Gen.Float[-3, 3])
        .Select((x, y, z) => new Vector3(x, y, z));

    [Fact]
    public void A_prop_is_recognised_by_its_shape_wherever_it_is() =>
        Gen.Select(Turns, Places, Gen.Int[0, 100_000], Gen.Int[0, HarbourProps.All.Count - 1])
            .Sample(
                (turn, at, seed, which) =>
                {
                    var body = HarbourProps.All[which];
                    var random = new Random(seed);
                    var points = body
                        .Markers.Select(m => at + Vector3.Transform(m, turn) + Noise(random, 0.0003f))
                        .Concat(
                            Enumerable
                                .Range(0, 25)
                                .Select(_ => new Vector3(random.NextSingle() * 6 - 3, random.NextSingle() * 2, random.NextSingle() * 6 - 3))
                        )
                        .ToArray();
                    var order = Enumerable.Range(0, points.Length).OrderBy(_ => random.Next()).ToArray();
                    var tracker = new RigidBodyTracker(body);
                    var pose = tracker.Step([.. order.Select(i => points[i])], order);
                    Assert.True(pose.Trusted && pose.Seen == body.Markers.Count);
                    Assert.True((pose.Position - at).Length() < 0.003f, $"{(pose.Position - at).Length() * 1000} mm");
                    Assert.True(MathF.Abs(Quaternion.Dot(pose.Rotation, turn)) > 0.9998f);
                },
                iter: 300
            );

    [Fact]
    public void Hidden_markers_lower_the_trust_and_too_few_make_a_gap()
    {
        var body = HarbourProps.Crate;
        var tracker = new RigidBodyTracker(body);
        var ids = Enumerable.Range(0, 5).ToArray();
        RigidPose See(int count, float shift) =>
            tracker.Step([.. body.Markers.Take(count).Select(m => m + new Vector3(shift, 1, 0))], [.. ids.Take(count)]);
        var all = See(5, 0);
        var four = See(4, 0.01f);
        var two = See(2, 0.02f);
        Assert.True(all.Trust > four.Trust && four.Trusted && !two.Trusted && float.IsNaN(two.Position.X));
        // It comes back by itself.
        var back = Enumerable.Range(0, 20).Select(i => See(5, 0.02f + (i * 0.001f))).ToArray();
        Assert.True(
            back[^1].Trusted,
            string.Join("; ", back.Select(b => $"{b.Seen} {b.Trust} {b.RmsMillimetres}")) + $" | {all} {four} {two}"
        );
    }

    [Fact]
    public void A_point_that_leaves_the_shape_is_not_believed()
    {
        var body = HarbourProps.Crate;
        var tracker = new RigidBodyTracker(body);
        var ids = Enumerable.Range(0, 5).ToArray();
        tracker.Step([.. body.Markers], ids);
        var moved = body.Markers.Select((m, i) => i == 2 ? m + new Vector3(0.05f, 0, 0) : m).ToArray();
        var pose = tracker.Step(moved, ids);
        Assert.Equal(4, pose.Seen);
        Assert.True(pose.Position.Length() < 0.001f);
    }

    [Fact]
    public void The_pivot_moves_and_turns_within_the_prop() =>
        Gen.Select(Turns, Places)
            .Sample(
                (turn, move) =>
                {
                    var body = HarbourProps.LanternPole;
                    var other = body.WithPivot(move, turn);
                    for (var i = 0; i < body.Markers.Count; i++)
                    {
                        Assert.True((move + Vector3.Transform(other.Markers[i], turn) - body.Markers[i]).Length() < 1e-4f);
                    }
                }
            );

    [Theory]
    [InlineData("[[0,0,0],[1,0,0]]", "three markers")]
    [InlineData("[[0,0,0],[0.001,0,0],[0,1,0]]", "8 mm")]
    [InlineData("[[0,0,0],[0.5,0,0],[1,0,0]]", "one line")]
    [InlineData("[[0,0],[0.5,0,0],[1,0,0]]", "three numbers")]
    [InlineData("{}", "a list")]
    [InlineData("[", "cannot be read")]
    public void A_prop_that_cannot_work_is_refused_with_the_reason(string json, string reason)
    {
        var e = Assert.Throws<InvalidInputException>(() => RigidBodyJson.Read(json, "Crate"));
        Assert.Contains(reason, e.Message, StringComparison.Ordinal);
        Assert.Contains("Crate", e.Message, StringComparison.Ordinal);
    }

    [Fact]
    public void Columns_rest_before_they_are_used_again()
    {
        var slots = new SlotTable(10, 3);
        Assert.Equal(0, slots.SlotOf(100, 0));
        Assert.Equal(1, slots.SlotOf(101, 0));
        Assert.Equal(0, slots.SlotOf(100, 5));
        Assert.Equal(2, slots.SlotOf(102, 6));
        Assert.Equal(-1, slots.SlotOf(103, 9));
        Assert.Equal(1, slots.SlotOf(103, 11));
        Assert.Equal(3, slots.Count);
    }

    private static Vector3 Noise(Random r, float spread) =>
        (new Vector3(r.NextSingle(), r.NextSingle(), r.NextSingle()) - new Vector3(0.5f)) * 2 * spread;
}
