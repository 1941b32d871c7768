using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Inertial;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Inertial;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Inertial;

/// <summary>The suit's wearer while it happens, against the truth of a patrol past steel.</summary>
public sealed class LiveSuitTests
{
    private const double Rate = 100;

    private const int Begins = 14 * (int)Rate;

    private static readonly Person Wearer = HarbourCast.Ines;

    private static readonly Performance Patrol = Acts.Perform("suit-patrol", Wearer, 2, Rate);

    private static readonly float[] Samples = SuitSimulator.Measure(Patrol.Actors[0], 5);

    private static Motion Truth => Patrol.Actors[0].Motion;

    private static ReadOnlySpan<float> Row(int frame) => Samples.AsSpan(frame * SuitTake.Stride, SuitTake.Stride);

    private static LiveSuit Begin()
    {
        var take = new SuitTake(Rate, Samples[..(Begins * SuitTake.Stride)]);
        return LiveSuit.Begin(Wearer.Skeleton, take, LiveSuit.Look(take)!);
    }

    private static Vector2 Floor(Vector3 v) => new(v.X, v.Z);

    [Fact]
    public void Bones_turn_as_they_do_and_the_way_is_near()
    {
        var suit = Begin();
        var s = Truth.Skeleton;
        var (turns, sums) = (new Quaternion[s.Count], new double[s.Count]);
        var (own, ownPlaces, places) = (new Quaternion[s.Count], new Vector3[s.Count], new Vector3[s.Count]);
        var start = suit.Root - Truth.TranslationsAt(Begins)[0];
        var (way, went, seconds) = (0.0, 0.0, 0.0);
        var clock = System.Diagnostics.Stopwatch.StartNew();
        for (var f = Begins; f < Truth.FrameCount; f++)
        {
            var before = suit.Root;
            clock.Start();
            suit.Step(Row(f), 1 / Rate);
            clock.Stop();
            seconds += clock.Elapsed.TotalSeconds;
            clock.Reset();
            ForwardKinematics.World(Truth, f, turns, places);
            Fk(s, suit, own, ownPlaces);
            for (var j = 0; j < s.Count; j++)
            {
                var angle = Rotations.Angle(turns[j], own[j]) * 180 / Math.PI;
                sums[j] += angle * angle / (Truth.FrameCount - Begins);
            }

            way += Vector2.Distance(Floor(Truth.TranslationsAt(f)[0]), Floor(Truth.TranslationsAt(f - 1)[0]));
            went += Vector2.Distance(Floor(suit.Root), Floor(before));
        }

        foreach (var bone in SuitBones.All)
        {
            Assert.InRange(Math.Sqrt(sums[s.IndexOf(bone)]), 0, 6);
        }

        Assert.InRange(Math.Sqrt(SuitBones.All.Average(b => sums[s.IndexOf(b)])), 0.2, 3.6);
        Assert.InRange(went / way, 0.93, 1.07);
        var end = Vector2.Distance(Floor(suit.Root - start), Floor(Truth.TranslationsAt(Truth.FrameCount - 1)[0]));
        Assert.InRange(end, 0, 0.04 * way);
        // A hundred samples a second leave ten milliseconds for each.
        Assert.InRange(seconds / (Truth.FrameCount - Begins), 0, 0.002);
    }

    [Fact]
    public void Feet_are_on_the_floor_and_the_one_that_stands_does_not_slide()
    {
        var suit = Begin();
        var s = Truth.Skeleton;
        var (own, places) = (new Quaternion[s.Count], new Vector3[s.Count]);
        var plant = Patrol.Actors[0].Plants.First(p => p.Start > Begins + 200 && p.End - p.Start > 40);
        var joint = s.IndexOf(plant.Foot);
        var (first, most, lowest) = ((Vector3?)null, 0f, 1f);
        for (var f = Begins; f <= plant.End - 12; f++)
        {
            suit.Step(Row(f), 1 / Rate);
            Fk(s, suit, own, places);
            lowest = MathF.Min(lowest, places.Min(p => p.Y));
            if (f >= plant.Start + 12)
            {
                first ??= places[joint];
                most = MathF.Max(most, Vector2.Distance(Floor(places[joint]), Floor(first.Value)));
            }
        }

        Assert.InRange(lowest, -0.03f, 0.05f);
        Assert.InRange(most, 0, 0.03f);
    }

    [Fact]
    public void Lost_samples_do_not_turn_it_over()
    {
        var (whole, holes) = (Begin(), Begin());
        var row = new float[SuitTake.Stride];
        for (var f = Begins; f < Begins + 400; f++)
        {
            whole.Step(Row(f), 1 / Rate);
            Row(f).CopyTo(row);
            if (f % 9 == 0)
            {
                Array.Fill(row, float.NaN);
            }

            holes.Step(row, 1 / Rate);
        }

        for (var j = 0; j < Truth.Skeleton.Count; j++)
        {
            Assert.InRange(Rotations.Angle(whole.Turns.Span[j], holes.Turns.Span[j]) * 180 / Math.PI, 0, 4);
        }
    }

    [Fact]
    public void Values_beyond_measure_do_not_stay()
    {
        var suit = Begin();
        var row = new float[SuitTake.Stride];
        foreach (var wild in new[] { float.MaxValue, float.PositiveInfinity, float.NaN, -1e30f })
        {
            Array.Fill(row, wild);
            suit.Step(row, 1 / Rate);
        }

        suit.Step(Row(Begins), 1 / Rate);
        Assert.All(suit.Turns.ToArray(), q => Assert.Equal(1, q.Length(), 3));
        Assert.InRange(suit.Root.Y, 0.8f, 1.1f);
    }

    [Fact]
    public void Without_the_poses_it_does_not_begin() =>
        Assert.Null(LiveSuit.Look(new SuitTake(Rate, Samples[(Begins * SuitTake.Stride)..((Begins + 300) * SuitTake.Stride)])));

    [Fact]
    public void Somebody_else_wears_it_on()
    {
        var suit = Begin();
        suit.Step(Row(Begins), 1 / Rate);
        var other = suit.Wear(HarbourCast.Tobi.Skeleton);
        for (var j = 0; j < Truth.Skeleton.Count; j++)
        {
            Assert.InRange(Rotations.Angle(suit.Turns.Span[j], other.Turns.Span[j]), 0, 1e-3);
        }

        // A taller wearer's hips are higher.
        Assert.True(other.Root.Y > suit.Root.Y + 0.05f);
    }

    private static void Fk(Skeleton s, LiveSuit suit, Quaternion[] turns, Vector3[] places)
    {
        for (var j = 0; j < s.Count; j++)
        {
            var parent = s.Parents[j];
            turns[j] = parent < 0 ? suit.Turns.Span[j] : turns[parent] * suit.Turns.Span[j];
            places[j] = parent < 0 ? suit.Root : places[parent] + Vector3.Transform(s[j].Offset, turns[parent]);
        }
    }
}
