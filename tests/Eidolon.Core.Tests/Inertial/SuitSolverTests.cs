using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Geometry;
using Eidolon.Core.Inertial;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Inertial;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.Testing;

namespace Eidolon.Core.Tests.Inertial;

/// <summary>A minute and more of the patrol in the suit, by a stranger, with steel beside the way, against the truth.</summary>
[Trait(LongRun.Run, LongRun.Whole)]
public sealed class SuitSolverTests : IClassFixture<SuitSolverTests.Patrol>
{
    private readonly Patrol _patrol;

    public SuitSolverTests(Patrol patrol) => _patrol = patrol;

    [Fact]
    public void Bones_are_turned_as_they_were_but_for_how_the_wearer_stood_in_the_T_pose()
    {
        foreach (var role in SuitBones.All)
        {
            var off = _patrol.Off(role);
            Assert.True(Patrol.Rms(off) < 2.5, $"{role}: {Patrol.Rms(off):0.00}°");
        }
    }

    [Fact]
    public void Headings_do_not_drift()
    {
        var twenty = (int)(20 * Patrol.Rate);
        var first = SuitBones.All.Average(r => Patrol.Rms(_patrol.Off(r).AsSpan(0, twenty)));
        var last = SuitBones.All.Average(r => Patrol.Rms(_patrol.Off(r).AsSpan()[^twenty..]));
        Assert.True(last < first + 1, $"first 20 s {first:0.00}°, last {last:0.00}°");
    }

    [Fact]
    public void The_way_over_the_floor_is_right_within_two_per_cent_and_ends_where_it_ended()
    {
        var (truth, motion) = (_patrol.Truth, _patrol.Motion);
        double way = 0;
        for (var f = 1; f < truth.FrameCount; f++)
        {
            way += Flat(Root(truth, f) - Root(truth, f - 1));
        }

        Assert.InRange(_patrol.Report.TravelMetres, way * 0.98, way * 1.02);
        var end = Root(truth, truth.FrameCount - 1) - Root(truth, 0);
        Assert.True(Flat(Root(motion, motion.FrameCount - 1) - end) < 0.02 * way);
        Assert.Equal(0, Flat(Root(motion, 0)), 1e-4);
    }

    [Fact]
    public void Steps_keep_their_height()
    {
        var (truth, motion) = (_patrol.Truth, _patrol.Motion);
        var highest = Enumerable.Range(0, truth.FrameCount).Max(f => Root(truth, f).Y) - Root(truth, 0).Y;
        Assert.True(highest > 0.3, "the patrol climbs nothing");
        foreach (var plant in _patrol.Plants)
        {
            var f = (plant.Start + plant.End) / 2;
            Assert.True(
                MathF.Abs(Height(truth, plant.Foot, f) - Height(motion, plant.Foot, f)) < 0.03f,
                $"{plant.Foot} at {f}: {Height(motion, plant.Foot, f):0.000} instead of {Height(truth, plant.Foot, f):0.000} m"
            );
        }
    }

    [Fact]
    public void Planted_feet_do_not_slide()
    {
        var world = ForwardKinematics.WorldPositions(_patrol.Motion);
        var s = _patrol.Motion.Skeleton;
        Assert.True(_patrol.Report.Contacts.Count > 50);
        Assert.All(_patrol.Report.Contacts, c =>
            Assert.True(FootSlideMeasure.Reach(world, s.Count, s.IndexOf(c.Role), c.Start, c.End) < 0.005, $"{c}")
        );
    }

    [Fact]
    public void A_field_that_is_not_the_rooms_is_said_where_it_was()
    {
        // From 30 s to 40 s a load of steel hangs over everything.
        foreach (var bone in new[] { BodyRole.Pelvis, BodyRole.Head, BodyRole.FootL })
        {
            var there = _patrol
                .Report.Disturbed.Where(d => d.Bone == bone)
                .Sum(d => Math.Max(0, Math.Min(d.End, 40 * Patrol.Rate) - Math.Max(d.Start, 30 * Patrol.Rate)));
            Assert.True(there > 8 * Patrol.Rate, $"{bone}: {there / Patrol.Rate:0.0} s of 10");
        }
    }

    [Fact]
    public void The_poses_are_found_where_they_were_held()
    {
        var poses = _patrol.Report.Poses;
        double At(int frame) => frame / Patrol.Rate;
        Assert.InRange(At(poses.Still.Start), 0, 0.8);
        Assert.InRange(At(poses.Still.End), 2, 3.2);
        Assert.InRange(At((poses.TPose.Start + poses.TPose.End) / 2), 4.3, 5.8);
        Assert.InRange(At((poses.APose.Start + poses.APose.End) / 2), 8, 9.5);
    }

    [Fact]
    public void A_contact_that_a_person_frees_is_free()
    {
        var c = _patrol.Report.Contacts.First(x => x.Role == BodyRole.ToesL && x.Start > 20 * Patrol.Rate);
        var (_, report) = SuitSolver.Solve(
            _patrol.Take,
            _patrol.Body,
            edits: [new ContactEdit(ContactPoint.Toe, 'L', c.Start - 3, c.End + 3, false)]
        );
        Assert.DoesNotContain(report.Contacts, x => x.Role == BodyRole.ToesL && x.Start <= c.End && x.End >= c.Start);
    }

    [Fact]
    public void A_foot_that_is_locked_neither_slides_nor_turns_and_the_way_goes_by_it()
    {
        // A whole step of the left foot, from one stand to the next.
        var stands = _patrol.Report.Contacts.Where(x => x.Role == BodyRole.FootL && x.Start > 20 * Patrol.Rate).Take(2).ToArray();
        var (from, to) = (stands[0].Start, stands[1].End);
        var (free, _) = Moved(_patrol.Motion, from, to);
        Assert.True(free > 0.3, "the foot goes a step there");
        var (locked, _) = SuitSolver.Solve(
            _patrol.Take,
            _patrol.Body,
            edits: [new ContactEdit(ContactPoint.Heel, 'L', from, to, true), new ContactEdit(ContactPoint.Toe, 'L', from, to, true)]
        );
        var (slide, turn) = Moved(locked, from, to);
        Assert.InRange(slide, 0, 0.005);
        Assert.InRange(turn, 0, 1);
        // What the locked foot does not go the body does not go either.
        var (all, own) = (Root(_patrol.Motion, from, to), Root(locked, from, to));
        Assert.True(own < all - 0.2, $"{own:0.00} m of {all:0.00}");
        // Before it nothing is different.
        Assert.InRange(Root(locked, 0, from - (int)Patrol.Rate) - Root(_patrol.Motion, 0, from - (int)Patrol.Rate), -0.02, 0.02);
    }

    /// <summary>How far the left ankle goes from where it begins, metres, and its foot turns, degrees.</summary>
    private static (double Metres, double Degrees) Moved(Motion motion, int from, int to)
    {
        var foot = motion.Skeleton.IndexOf(BodyRole.FootL);
        var (turns, n) = (new Quaternion[motion.Rotations.Length], motion.Skeleton.Count);
        var world = ForwardKinematics.WorldPositions(motion, turns);
        var frames = Enumerable.Range(from, to - from + 1).ToArray();
        return (
            frames.Max(f => Vector3.Distance(world[(f * n) + foot], world[(from * n) + foot])),
            frames.Max(f => Rotations.Angle(turns[(f * n) + foot], turns[(from * n) + foot])) * 180 / Math.PI
        );
    }

    /// <summary>From one frame to another over the floor, metres.</summary>
    private static double Root(Motion motion, int from, int to)
    {
        var d = motion.Translations[to * motion.Skeleton.Count] - motion.Translations[from * motion.Skeleton.Count];
        return Math.Sqrt((d.X * d.X) + (d.Z * d.Z));
    }

    [Fact]
    public void A_recording_in_which_nobody_stands_still_is_refused()
    {
        var samples = (float[])_patrol.Take.Samples.Clone();
        var random = new Random(4);
        for (var k = 0; k < samples.Length; k++)
        {
            samples[k] += k % 9 < 3 ? 2 * MathF.Sin((k / SuitTake.Stride * 0.2f) + (k % SuitTake.Stride)) : 0;
        }

        var said = Assert.Throws<RefusedException>(() => SuitSolver.Solve(new SuitTake(Patrol.Rate, samples), _patrol.Body));
        Assert.Contains("holds still", said.Message, StringComparison.Ordinal);
    }

    [Fact]
    public void Given_ranges_in_which_somebody_walks_are_refused()
    {
        var poses = _patrol.Report.Poses with { Still = new FrameRange(1500, 1600) };
        var said = Assert.Throws<RefusedException>(() => SuitSolver.Solve(_patrol.Take, _patrol.Body, poses));
        Assert.Contains("bias", said.Message, StringComparison.Ordinal);
        Assert.Throws<RefusedException>(() =>
            SuitSolver.Solve(_patrol.Take, _patrol.Body, _patrol.Report.Poses with { APose = new FrameRange(5, 1_000_000) })
        );
    }

    [Fact]
    public void Lost_samples_cost_little()
    {
        var samples = (float[])_patrol.Take.Samples.Clone();
        var random = new Random(8);
        for (var f = 0; f < _patrol.Take.FrameCount; f++)
        {
            if (random.Next(100) < 3)
            {
                samples.AsSpan((f * SuitTake.Stride) + (random.Next(17) * 9), 9).Fill(float.NaN);
            }
        }

        var (motion, _) = SuitSolver.Solve(new SuitTake(Patrol.Rate, samples), _patrol.Body);
        Assert.All(motion.Rotations, q => Assert.True(float.IsFinite(q.X + q.Y + q.Z + q.W)));
        Assert.True(Flat(Root(motion, motion.FrameCount - 1) - Root(_patrol.Motion, motion.FrameCount - 1)) < 0.5);
        foreach (var role in new[] { BodyRole.ShinL, BodyRole.HandR, BodyRole.FootR })
        {
            Assert.True(_patrol.Apart(motion, role) < 1.5, $"{role}: {_patrol.Apart(motion, role):0.00}°");
        }
    }

    [Fact]
    public void A_gyroscope_that_drifts_is_found_out()
    {
        // Half a degree a second more on one sensor, from the first frame to the last.
        const float more = 0.0087f;
        var samples = (float[])_patrol.Take.Samples.Clone();
        var forearm = SuitBones.All.ToList().IndexOf(BodyRole.ForearmL) * SuitTake.ValuesPerSensor;
        for (var f = 0; f < _patrol.Take.FrameCount; f++)
        {
            samples[(f * SuitTake.Stride) + forearm] += more;
        }

        var (_, report) = SuitSolver.Solve(new SuitTake(Patrol.Rate, samples), _patrol.Body);
        Assert.Equal(more, report.Bias[BodyRole.ForearmL].X - _patrol.Report.Bias[BodyRole.ForearmL].X, 2e-4);
    }

    [Fact]
    public void Biases_come_out_of_the_whole_take_not_of_the_sway_of_standing()
    {
        // The wearer's trunk leans by up to half a degree while standing still: the mean over two and a half seconds is off by more than this.
        var spread = SuitBones.All.Select(b => (_patrol.Report.Bias[b] - _patrol.Biases[b]).Length).Max();
        // Hands that swing fast leave a little more: a gyroscope of 60 samples a second cuts their corners.
        Assert.True(spread < 2e-3, $"{spread} rad/s");
    }

    private static double Flat(Vector3 v) => Math.Sqrt((v.X * v.X) + (v.Z * v.Z));

    private static Vector3 Root(Motion m, int f) => m.Translations[f * m.Skeleton.Count];

    private static float Height(Motion m, BodyRole role, int frame)
    {
        var (turns, places) = (new Quaternion[m.Skeleton.Count], new Vector3[m.Skeleton.Count]);
        ForwardKinematics.World(m, frame, turns, places);
        return places[m.Skeleton.IndexOf(role)].Y;
    }

    public sealed class Patrol
    {
        public const double Rate = 60;

        public Patrol()
        {
            var person = Strangers.Some(3, 33)[1];
            Body = person.Skeleton;
            var performance = SceneCatalog.Patrol(person, 8, 4, steps: true, Rate);
            (Truth, Plants) = (performance.Actors[0].Motion, performance.Actors[0].Plants);
            var field = new RoomField((new Vector3(3.1f, 0.4f, -0.4f), 6), (new Vector3(-3.2f, 1.1f, 0.3f), 5))
            {
                Load = (30, 40, new Vector3(9, -4, 11)),
            };
            Take = new SuitTake(Rate, SuitSimulator.Measure(Truth, field, person.Seed));
            (Motion, Report) = SuitSolver.Solve(Take, Body);
            Biases = SuitBones.All.ToDictionary(b => b, b => (Vector3d)SuitSimulator.BiasOf(person.Seed, b));
        }

        public Motion Truth { get; }

        public IReadOnlyList<Performance.Plant> Plants { get; }

        public Skeleton Body { get; }

        /// <summary>What each gyroscope was truly off by, rad/s.</summary>
        public IReadOnlyDictionary<BodyRole, Vector3d> Biases { get; }

        public SuitTake Take { get; }

        public Motion Motion { get; }

        public SuitReport Report { get; }

        public static double Rms(ReadOnlySpan<double> values)
        {
            double sum = 0;
            foreach (var v in values)
            {
                sum += v * v;
            }

            return Math.Sqrt(sum / values.Length);
        }

        /// <summary>RMS of how far a bone is turned against the solve of the whole recording, degrees.</summary>
        public double Apart(Motion other, BodyRole role)
        {
            var (a, b) = (new Quaternion[Motion.Rotations.Length], new Quaternion[Motion.Rotations.Length]);
            ForwardKinematics.WorldPositions(Motion, a);
            ForwardKinematics.WorldPositions(other, b);
            int n = Motion.Skeleton.Count,
                j = Motion.Skeleton.IndexOf(role);
            return Rms([
                .. Enumerable.Range(0, Motion.FrameCount).Select(f => Rotations.Angle(a[(f * n) + j], b[(f * n) + j]) * 180 / Math.PI),
            ]);
        }

        /// <summary>How far a bone is off at each frame but for a constant turn, degrees.</summary>
        public double[] Off(BodyRole role)
        {
            var (a, b) = (new Quaternion[Truth.Rotations.Length], new Quaternion[Motion.Rotations.Length]);
            ForwardKinematics.WorldPositions(Truth, a);
            ForwardKinematics.WorldPositions(Motion, b);
            int n = Truth.Skeleton.Count,
                j = Truth.Skeleton.IndexOf(role);
            var off = Enumerable.Range(0, Truth.FrameCount).Select(f => Quaternion.Conjugate(a[(f * n) + j]) * b[(f * n) + j]).ToArray();
            var sum = Vector4.Zero;
            foreach (var q in off)
            {
                sum += (q.W < 0 ? -1 : 1) * new Vector4(q.X, q.Y, q.Z, q.W);
            }

            var mean = Quaternion.Normalize(new Quaternion(sum.X, sum.Y, sum.Z, sum.W));
            return Array.ConvertAll(off, q => Rotations.Angle(mean, q) * 180 / Math.PI);
        }
    }
}
