using Eidolon.Core.Markers;
using Eidolon.Core.Optical;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Optical;

/// <summary>A ring, its calibration from a wave, and a scene it saw: made once for all tests of the folder.</summary>
public sealed class RingFixture
{
    public RingFixture()
    {
        Truth = HarbourRing.True();
        var wave = PictureSimulator.See(WandWave.Wave(60), Truth, 3);
        var (ring, report) = RingCalibration.Calibrate(wave, HarbourRing.Nominal);
        Report = report;
        Unset = ring;
        (Calibrated, _) = GroundAlignment.Align(ring, PictureSimulator.See(WandWave.Ground(1), Truth, 9));
        var performance = Acts.Perform("haul-rope", HarbourCast.Tobi, 1);
        Markers = MarkerSimulator.Truth(performance, 0.006f);
        Pictures = PictureSimulator.See(performance, Markers, Truth);
    }

    public CameraRing Truth { get; }

    /// <summary>Before floor and axes were set.</summary>
    public CameraRing Unset { get; }

    public CameraRing Calibrated { get; }

    public RingCalibrationReport Report { get; }

    public MarkerTake Markers { get; }

    public CentroidTake Pictures { get; }
}
