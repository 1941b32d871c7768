using System.Numerics;
using Eidolon.Core.Formats.Csv;
using Eidolon.Core.Geometry;
using Eidolon.Core.Quality;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Video;
using Eidolon.Devices;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;
using Eidolon.StandIns.Video;
using Eidolon.Testing;

namespace Eidolon.Core.Tests.Video;

/// <summary>
/// A stranger's walk with the lantern before witness cameras, against the truth: 3 px noise, points missed, legs exchanged, films out of step.
/// </summary>
[Trait(LongRun.Run, LongRun.Whole)]
public sealed class FilmSolverTests : IClassFixture<FilmSolverTests.Walk>
{
    private readonly Walk _walk;

    public FilmSolverTests(Walk walk) => _walk = walk;

    [Fact]
    public void One_camera_is_within_seventy_millimetres()
    {
        var (motion, report) = _walk.One;
        Assert.True(_walk.Error(motion) < 70, $"{_walk.Error(motion):0.0} mm");
        Assert.InRange(report.ReprojectionPixels[0], 1, 8);
    }

    [Fact]
    public void Three_cameras_out_of_step_are_within_twenty_millimetres_and_their_starts_within_half_a_frame()
    {
        var (motion, report) = _walk.Three;
        Assert.True(_walk.Error(motion) < 20, $"{_walk.Error(motion):0.0} mm");
        for (var k = 0; k < 3; k++)
        {
            Assert.True(Math.Abs(report.OffsetsSeconds[k] - (Walk.Starts[k] / Walk.Fine)) < 0.5 / Walk.Rates[k], $"film {k + 1}");
        }
    }

    [Fact]
    public void Feet_of_one_camera_neither_slide_nor_float()
    {
        var motion = _walk.One.Motion;
        var world = ForwardKinematics.WorldPositions(motion);
        var s = motion.Skeleton;
        Assert.True(_walk.One.Report.Contacts.Count > 15);
        foreach (var c in _walk.One.Report.Contacts)
        {
            var joint = s.IndexOf(c.Role);
            Assert.True(FootSlideMeasure.Reach(world, s.Count, joint, c.Start, c.End) < 0.01, $"{c} slides");
        }

        var high = _walk
            .One.Report.Contacts.Select(c =>
                Math.Abs(world[((c.Start + c.End) / 2 * s.Count) + s.IndexOf(c.Role)].Y - s.RestPositions[s.IndexOf(c.Role)].Y)
            )
            .Order()
            .ToArray();
        Assert.True(high[high.Length * 3 / 4] < 0.012f, $"{high[high.Length * 3 / 4] * 1000:0} mm");
    }

    [Fact]
    public void Exchanged_legs_are_put_back()
    {
        var film = _walk.Film(0, faults: false);
        var values = (float[])film.Values.Clone();
        Exchange(film, values, 40, 62);
        var (back, ranges) = LegExchange.Fix(new FilmTake(film.FrameRate, film.Names, values));
        var wrong = 0;
        for (var f = 0; f < film.FrameCount; f++)
        {
            for (var p = 0; p < film.Names.Count; p++)
            {
                wrong +=
                    Math.Abs(back.At(f, p).U - film.At(f, p).U) > 25 && film.Names[p].StartsWith("Ankle", StringComparison.Ordinal) ? 1 : 0;
            }
        }

        Assert.Contains(ranges, r => r.Start is > 36 and < 46 && r.End is > 56 and < 66);
        // Where the legs cross in the picture nobody can tell them apart; that is no more than a step.
        Assert.True(wrong < 20, $"{wrong} ankles on the wrong leg");
    }

    [Fact]
    public void Cameras_that_nobody_placed_are_placed_from_the_figure_and_the_floor()
    {
        var unknown = WitnessSimulator.Cameras[0] with { Rotation = Matrix3d.Identity, Translation = default };
        var (_, report) = FilmSolver.Solve([_walk.Film(0, faults: true)], [unknown], _walk.Person.Skeleton);
        var (found, truth) = (report.Cameras[0], WitnessSimulator.Cameras[0]);
        Assert.InRange(found.Position.Y, truth.Position.Y - 0.15, truth.Position.Y + 0.15);
        Assert.InRange(found.Forward.Y, truth.Forward.Y - 0.04, truth.Forward.Y + 0.04);
    }

    [Fact]
    public void Five_frames_put_right_by_hand_halve_the_error_of_a_stretch()
    {
        // The tracker takes the right arm for something 200 pixels away, and is sure of it.
        var film = _walk.Film(0, faults: true);
        var values = (float[])film.Values.Clone();
        var (start, end) = (60, 78);
        string[] points = ["ElbowR", "WristR", "KnuckleR", "IndexR1", "LittleR1"];
        for (var f = start; f <= end; f++)
        {
            foreach (var p in points)
            {
                var at = ((f * film.Names.Count) + film.Names.ToList().IndexOf(p)) * 3;
                (values[at], values[at + 1], values[at + 2]) = (values[at] + 200, values[at + 1] - 160, 0.95f);
            }
        }

        var bad = new FilmTake(film.FrameRate, film.Names, values);
        var header = string.Join(',', points.Take(2).SelectMany(p => new[] { $"{p}.u", $"{p}.v" }));
        var rows = new[] { 61, 65, 69, 73, 77 }.Select(f =>
        {
            var pixels = points.Take(2).SelectMany(p => _walk.Pixel(p, f));
            return FormattableString.Invariant(
                $"{f},{string.Join(',', pixels.Select(x => x.ToString("0.0", System.Globalization.CultureInfo.InvariantCulture)))}"
            );
        });
        var table = $"# samples, frameRate=30, units=px\nframe,{header}\n{string.Join('\n', rows)}\n";
        var fixes = WitnessCsv.Corrections(bad, 0, System.Text.Encoding.UTF8.GetBytes(table), "fix.csv");
        var cameras = new[] { WitnessSimulator.Cameras[0] };
        BodyRole[] arm = [BodyRole.ForearmR, BodyRole.HandR];
        var before = _walk.Error(FilmSolver.Solve([bad], cameras, _walk.Person.Skeleton).Motion, arm, start, end);
        var after = _walk.Error(FilmSolver.Solve([bad], cameras, _walk.Person.Skeleton, fixes).Motion, arm, start, end);
        Assert.True(before > 120, $"the stretch is only {before:0} mm off: nothing to mend");
        Assert.True(after < before / 2, $"{before:0} mm before, {after:0} mm after");
    }

    [Fact]
    public void Films_without_as_many_cameras_are_refused() =>
        Assert.Throws<RefusedException>(() => FilmSolver.Solve([_walk.Film(0, true)], [], _walk.Person.Skeleton));

    [Fact]
    public void A_film_whose_camera_moves_is_refused()
    {
        var film = _walk.Film(0, faults: true);
        var values = (float[])film.Values.Clone();
        for (var f = 0; f < film.FrameCount; f++)
        {
            for (var p = 0; p < film.Names.Count; p++)
            {
                // It pans along at a quarter of the picture a second, and back.
                values[((f * film.Names.Count) + p) * 3] += 380 * MathF.Sin(f * 0.045f) + (2 * f);
            }
        }

        var moved = new FilmTake(film.FrameRate, film.Names, values);
        var said = Assert.Throws<RefusedException>(() => FilmSolver.Solve([moved], [WitnessSimulator.Cameras[0]], _walk.Person.Skeleton));
        Assert.Contains("camera moves", said.Message, StringComparison.Ordinal);
    }

    private static void Exchange(FilmTake film, float[] values, int start, int end)
    {
        for (var f = start; f <= end; f++)
        {
            foreach (var part in new[] { "Hip", "Knee", "Ankle", "Heel", "Toe" })
            {
                int l = ((f * film.Names.Count) + film.Names.ToList().IndexOf(part + "L")) * 3,
                    r = ((f * film.Names.Count) + film.Names.ToList().IndexOf(part + "R")) * 3;
                for (var k = 0; k < 3; k++)
                {
                    (values[l + k], values[r + k]) = (values[r + k], values[l + k]);
                }
            }
        }
    }

    public sealed class Walk
    {
        public const double Fine = 120;
        public static readonly double[] Rates = [30, 30, 24];
        public static readonly int[] Starts = [0, 26, -31];
        private const int Seconds = 7;
        private readonly Performance _performance;

        public Walk()
        {
            Person = Strangers.Some(3, 77)[1];
            _performance = Acts.Perform("lamp-walk", Person, 2, Fine);
            Truth = MotionEdits.Range(_performance.Actors[0].Motion, 0, Seconds * (int)Fine);
            var films = Enumerable.Range(0, 3).Select(k => Film(k, faults: true)).ToArray();
            One = FilmSolver.Solve([films[0]], [WitnessSimulator.Cameras[0]], Person.Skeleton);
            Three = FilmSolver.Solve(films, WitnessSimulator.Cameras, Person.Skeleton);
        }

        public Person Person { get; }

        public Motion Truth { get; }

        public (Motion Motion, FilmReport Report) One { get; }

        public (Motion Motion, FilmReport Report) Three { get; }

        /// <summary>A film of one camera, at its own rate and start.</summary>
        public FilmTake Film(int camera, bool faults)
        {
            var fine = WitnessSimulator.See(_performance, camera, 17 + camera);
            var (rows, stride) = (new List<float>(), WitnessPoints.Values);
            for (var i = 0; i < Seconds * Rates[camera]; i++)
            {
                var f = Starts[camera] + (int)Math.Round(i * Fine / Rates[camera]);
                rows.AddRange(f < 0 ? new float[stride] : fine.AsSpan(f * stride, stride));
            }

            var seen = faults ? TrackerFaults.Add([.. rows], Rates[camera], 0.05f, 2, camera + 3) : [.. rows];
            var points = new float[seen.Length / stride * WitnessPoints.Count * 3];
            for (var f = 0; f < seen.Length / stride; f++)
            {
                seen.AsSpan(f * stride, WitnessPoints.Count * 3).CopyTo(points.AsSpan(f * WitnessPoints.Count * 3));
            }

            return new FilmTake(Rates[camera], WitnessPoints.Names, points);
        }

        /// <summary>Where the first camera truly sees a joint's point, as a careful hand would put it.</summary>
        public double[] Pixel(string point, int frame)
        {
            var role = point == "ElbowR" ? BodyRole.ForearmR : BodyRole.HandR;
            var (turns, places) = (new Quaternion[Truth.Skeleton.Count], new Vector3[Truth.Skeleton.Count]);
            ForwardKinematics.World(Truth, frame * 4, turns, places);
            WitnessSimulator.Cameras[0].TryProject(places[Truth.Skeleton.IndexOf(role)], out var u, out var v);
            return [u, v];
        }

        /// <summary>Mean distance of the joints, pelvis on pelvis, millimetres.</summary>
        public double Error(Motion motion, BodyRole[]? roles = null, int start = 0, int end = int.MaxValue)
        {
            var n = Truth.Skeleton.Count;
            var (a, b) = (ForwardKinematics.WorldPositions(Truth), ForwardKinematics.WorldPositions(motion));
            var joints = roles?.Select(Truth.Skeleton.IndexOf).ToArray() ?? Enumerable.Range(1, n - 1).ToArray();
            double sum = 0;
            var count = 0;
            for (var f = start; f <= Math.Min(end, motion.FrameCount - 1); f++)
            {
                foreach (var j in joints)
                {
                    sum += Vector3.Distance(a[(f * 4 * n) + j] - a[f * 4 * n], b[(f * n) + j] - b[f * n]) * 1000;
                    count++;
                }
            }

            return sum / count;
        }
    }
}
