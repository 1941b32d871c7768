using System.Numerics;
using Eidolon.Core.Optical;
using Eidolon.StandIns.Optical;
using Eidolon.Testing;
using Xunit.Abstractions;

namespace Eidolon.Core.Tests.Optical;

[Trait(LongRun.Run, LongRun.Whole)]
public class RingCalibrationTests(RingFixture fixture, ITestOutputHelper output) : IClassFixture<RingFixture>
{
    [Fact]
    public void Noise_is_found_within_five_percent()
    {
        output.WriteLine($"{fixture.Report}");
        foreach (var c in fixture.Report.Cameras)
        {
            output.WriteLine($"{c}");
        }

        Assert.InRange(fixture.Report.ResidualPixels, 0.19, 0.21);
        Assert.Empty(fixture.Report.Warnings);
    }

    [Fact]
    public void Cameras_stand_where_they_stand()
    {
        var pairs = fixture.Calibrated.Cameras.Zip(fixture.Truth.Cameras).ToArray();
        foreach (var (a, b) in pairs)
        {
            output.WriteLine(
                $"{a.Name}: {(a.Position - b.Position).Length * 1000:0.00} mm, focal {a.Focal - b.Focal:0.00}, "
                    + $"centre {a.CentreX - b.CentreX:0.00} {a.CentreY - b.CentreY:0.00}, k1 {a.K1 - b.K1:0.0000}"
            );
        }

        Assert.All(pairs, p =>
            Assert.True(
                (p.First.Position - p.Second.Position).Length < 0.001,
                $"camera {p.First.Name} is {(p.First.Position - p.Second.Position).Length * 1000:0.00} mm off"
            )
        );
    }

    [Fact]
    public void Scale_is_true()
    {
        double own = 0,
            true_ = 0;
        for (var a = 0; a < fixture.Truth.Count; a++)
        {
            for (var b = 0; b < a; b++)
            {
                own += (fixture.Calibrated.Cameras[a].Position - fixture.Calibrated.Cameras[b].Position).Length;
                true_ += (fixture.Truth.Cameras[a].Position - fixture.Truth.Cameras[b].Position).Length;
            }
        }

        output.WriteLine($"scale {own / true_:0.000000}");
        Assert.InRange(own / true_, 0.9995, 1.0005);
    }

    [Fact]
    public void A_camera_that_saw_nothing_is_named()
    {
        var wave = PictureSimulator.See(WandWave.Wave(8), fixture.Truth, 4);
        var builder = new CentroidTakeBuilder(12, 120);
        for (var f = 0; f < wave.FrameCount; f++)
        {
            for (var c = 0; c < 12; c++)
            {
                builder.Add(c == 4 ? [] : wave.UAt(f, c), c == 4 ? [] : wave.VAt(f, c));
            }
        }

        var e = Assert.Throws<InvalidInputException>(() => RingCalibration.Calibrate(builder.Build(), HarbourRing.Nominal));
        Assert.Contains("camera 5", e.Message, StringComparison.Ordinal);
    }

    [Fact]
    public void A_missing_ground_frame_is_said()
    {
        var nothing = PictureSimulator.See(new Core.Markers.MarkerTake(["A"], 120, 60), fixture.Truth, 4);
        var e = Assert.Throws<InvalidInputException>(() => GroundAlignment.Align(fixture.Unset, nothing));
        Assert.Contains("ground frame was not recognised", e.Message, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData(0.35f, 0.2f, 0.55f)]
    [InlineData(0.3f, 0.25f, 0.55f)]
    [InlineData(0.3f, 0.2f, 0.5f)]
    public void A_ground_frame_of_another_shape_is_none(float shortArm, float near, float far)
    {
        var still = PictureSimulator.See(WandWave.Ground(1), fixture.Truth, 9);
        var e = Assert.Throws<InvalidInputException>(() =>
            GroundAlignment.Align(fixture.Unset, still, new GroundFrame(shortArm, near, far))
        );
        Assert.Contains("ground frame was not recognised", e.Message, StringComparison.Ordinal);
    }

    [Fact]
    public void A_new_wave_keeps_the_floor_of_before()
    {
        var (laid, rms) = GroundAlignment.Onto(fixture.Unset, fixture.Calibrated);
        Assert.True(rms < 1e-4);
        Assert.All(laid.Cameras.Zip(fixture.Calibrated.Cameras), p => Assert.True((p.First.Position - p.Second.Position).Length < 1e-4));
        var rough = GroundAlignment.Roughly(fixture.Unset);
        Assert.All(rough.Cameras, c => Assert.InRange(c.Position.Y, 2, 4));
    }

    [Theory, Trait(LongRun.Run, LongRun.Long)]
    [InlineData(21, 40)]
    [LongData(22, 60)]
    public void Other_rings_and_waves_do_as_well(int seed, int seconds)
    {
        var truth = HarbourRing.True(seed);
        var (ring, report) = RingCalibration.Calibrate(
            PictureSimulator.See(WandWave.Wave(seconds, seed), truth, seed),
            HarbourRing.Nominal
        );
        var (set, rms) = GroundAlignment.Align(ring, PictureSimulator.See(WandWave.Ground(1), truth, seed));
        var worst = set.Cameras.Zip(truth.Cameras).Max(p => (p.First.Position - p.Second.Position).Length) * 1000;
        output.WriteLine($"noise {report.ResidualPixels:0.0000} px, worst centre {worst:0.00} mm, ground {rms:0.00} mm");
        Assert.InRange(report.ResidualPixels, 0.19, 0.21);
        Assert.True(worst < 1.5 && rms < 0.5);
    }
}
