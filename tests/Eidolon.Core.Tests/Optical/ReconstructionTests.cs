using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Optical;
using Eidolon.StandIns.Optical;
using Eidolon.Testing;
using Xunit.Abstractions;

namespace Eidolon.Core.Tests.Optical;

[Trait(LongRun.Run, LongRun.Whole)]
public class ReconstructionTests(RingFixture fixture, ITestOutputHelper output) : IClassFixture<RingFixture>
{
    /// <summary>Compares with the truth: RMS of points near a marker, ghosts, markers that three cameras had and nobody made.</summary>
    private static (double Rms, double Ghosts, double Missed, double Bound) Compare(
        MarkerTake made,
        MarkerTake truth,
        CentroidTake pictures,
        CameraRing ring
    )
    {
        double squares = 0,
            bound = 0;
        long points = 0,
            ghosts = 0,
            due = 0,
            missed = 0;
        var t = new Triangulator(ring.Cameras);
        double[] x = new double[t.Lanes],
            y = new double[t.Lanes],
            z = new double[t.Lanes],
            seen = new double[t.Lanes],
            h = new double[6];
        for (var f = 20; f < made.FrameCount; f++)
        {
            var taken = new bool[truth.MarkerCount];
            foreach (var p in made.At(f))
            {
                if (!MarkerTake.Seen(p))
                {
                    continue;
                }

                points++;
                var best = Enumerable.Range(0, truth.MarkerCount).MinBy(m => (truth[f, m] - p).LengthSquared());
                var d = (truth[f, best] - p).Length();
                if (d > 0.01)
                {
                    ghosts++;
                    continue;
                }

                taken[best] = true;
                squares += d * d;
            }

            for (var m = 0; m < truth.MarkerCount; m++)
            {
                var rays = Rays(truth[f, m], f, pictures, ring, x, y, seen);
                if (rays < 3)
                {
                    continue;
                }

                due++;
                missed += taken[m] ? 0 : 1;
                if (taken[m])
                {
                    t.Refine(truth[f, m], x, y, seen, h, 1);
                    bound += 0.04 * TraceOfInverse(h);
                }
            }
        }

        _ = z;
        return (Math.Sqrt(squares / points), ghosts / (double)points, missed / (double)due, Math.Sqrt(bound / (due - missed)));
    }

    private static int Rays(Vector3 p, int f, CentroidTake pictures, CameraRing ring, double[] x, double[] y, double[] seen)
    {
        var n = 0;
        for (var c = 0; c < ring.Count; c++)
        {
            seen[c] = 0;
            if (!ring.Cameras[c].TryProject(p, out var u, out var v))
            {
                continue;
            }

            var us = pictures.UAt(f, c);
            var vs = pictures.VAt(f, c);
            for (var k = 0; k < us.Length; k++)
            {
                if (Math.Abs(us[k] - u) < 1 && Math.Abs(vs[k] - v) < 1)
                {
                    (x[c], y[c]) = ring.Cameras[c].Undistort(us[k], vs[k]);
                    seen[c] = 1;
                    n++;
                    break;
                }
            }
        }

        return n;
    }

    private static double TraceOfInverse(double[] h)
    {
        double a = h[0],
            b = h[1],
            c = h[2],
            d = h[3],
            e = h[4],
            f = h[5];
        var det = (a * ((d * f) - (e * e))) - (b * ((b * f) - (c * e))) + (c * ((b * e) - (c * d)));
        return (((d * f) - (e * e)) + ((a * f) - (c * c)) + ((a * d) - (b * b))) / det;
    }

    [Fact]
    public void Points_are_as_good_as_the_rays_allow()
    {
        var clock = System.Diagnostics.Stopwatch.StartNew();
        var (made, report) = TakeReconstructor.Reconstruct(fixture.Pictures, fixture.Truth);
        output.WriteLine(
            $"{made.FrameCount / clock.Elapsed.TotalSeconds:0} frames/s, {report.Trajectories} trajectories, "
                + $"{report.Dropped} dropped, {report.MeanRays:0.0} rays, slots {made.MarkerCount}"
        );
        var (rms, ghosts, missed, bound) = Compare(made, fixture.Markers, fixture.Pictures, fixture.Truth);
        output.WriteLine($"rms {rms * 1000:0.000} mm, bound {bound * 1000:0.000}, ghosts {ghosts:P3}, missed {missed:P3}");
        Assert.True(rms < 1.2 * bound);
        Assert.True(ghosts < 0.001);
        Assert.True(missed < 0.01);
    }

    [Fact]
    public void With_the_calibrated_ring_too()
    {
        var (made, _) = TakeReconstructor.Reconstruct(fixture.Pictures, fixture.Calibrated);
        var (rms, ghosts, missed, bound) = Compare(made, fixture.Markers, fixture.Pictures, fixture.Truth);
        output.WriteLine($"rms {rms * 1000:0.000} mm, bound {bound * 1000:0.000}, ghosts {ghosts:P3}, missed {missed:P3}");
        Assert.True(rms < 1.3 * bound && ghosts < 0.001 && missed < 0.01);
    }

    [Fact]
    public void A_take_with_five_percent_of_its_packets_lost_is_as_good_as_new()
    {
        var random = new Random(12);
        var holey = new CentroidTakeBuilder(fixture.Truth.Count, 120);
        for (var f = 0; f < fixture.Pictures.FrameCount; f++)
        {
            for (var c = 0; c < fixture.Truth.Count; c++)
            {
                var lost = random.NextDouble() < 0.05;
                holey.Add(lost ? [] : fixture.Pictures.UAt(f, c), lost ? [] : fixture.Pictures.VAt(f, c));
            }
        }

        var (whole, before) = TakeReconstructor.Reconstruct(fixture.Pictures, fixture.Truth);
        var (made, after) = TakeReconstructor.Reconstruct(holey.Build(), fixture.Truth);
        var (rms, ghosts, _, _) = Compare(made, fixture.Markers, fixture.Pictures, fixture.Truth);
        double Share(MarkerTake take) =>
            Enumerable.Range(0, take.FrameCount).Sum(f => take.At(f).ToArray().Count(MarkerTake.Seen)) / (double)take.FrameCount;
        var (rmsBefore, _, _, _) = Compare(whole, fixture.Markers, fixture.Pictures, fixture.Truth);
        output.WriteLine(
            $"rms {rmsBefore * 1000:0.000} -> {rms * 1000:0.000} mm, ghosts {ghosts:P3}, points a frame {Share(whole):0.00} -> {Share(made):0.00}, "
                + $"trajectories {before.Trajectories} -> {after.Trajectories}"
        );
        Assert.True(rms < 1.1 * rmsBefore && ghosts < 0.001);
        Assert.True(Share(made) > 0.995 * Share(whole));
        Assert.True(after.Trajectories < 1.3 * before.Trajectories + 5);
    }
}
