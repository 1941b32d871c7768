using Eidolon.Core.Geometry;
using Eidolon.Core.Optical.Calibration;

namespace Eidolon.Core.Optical;

/// <summary>
/// Calibrates a camera ring from a waved wand: the wand in each picture, a first pair by its essential matrix, camera after camera
/// by resection, all together by bundle adjustment. Scale comes from the wand; the world is set by <see cref="GroundAlignment"/>.
/// </summary>
public static class RingCalibration
{
    private const int MostWands = 900;
    private const int EarlyWands = 260;

    /// <summary>Calibrates.</summary>
    /// <param name="nominal">The maker's figures of each camera: picture size and focal length.</param>
    /// <exception cref="InvalidInputException">The wave does not suffice; says which camera saw too little.</exception>
    public static (CameraRing Ring, RingCalibrationReport Report) Calibrate(
        CentroidTake wave,
        IReadOnlyList<CameraModel> nominal,
        Wand? wand = null,
        CancellationToken cancel = default,
        IProgress<double>? progress = null
    )
    {
        if (wave.CameraCount != nominal.Count)
        {
            throw new InvalidInputException("wand", "cameras", $"the wave has {wave.CameraCount} cameras, {nominal.Count} are described");
        }

        wand ??= new Wand();
        var all = WandDetector.Find(wave, wand);
        var builder = new RingBuilder(nominal, wand, all);
        for (var c = 0; c < nominal.Count; c++)
        {
            var n = all.Count(s => s.Camera == c);
            if (n < 60)
            {
                throw new InvalidInputException(
                    "wand",
                    $"camera {nominal[c].Name}",
                    $"saw the wand in {n} pictures only, at least 60 are needed: wave it before this camera too"
                );
            }
        }

        progress?.Report(0.05);
        var cameras = builder.Assemble(EarlyWands, cancel, p => progress?.Report(0.05 + (0.5 * p)));
        return Finish(nominal, wand, all, cameras, cancel, p => progress?.Report(0.55 + (0.45 * p)));
    }

    /// <summary>Pixel of the wand's middle marker when exactly one wand is in a picture; for showing coverage while it is waved.</summary>
    public static (float U, float V)? Sees(ReadOnlySpan<float> u, ReadOnlySpan<float> v, Wand? wand = null)
    {
        wand ??= new Wand();
        return WandDetector.In(0, 0, u, v, wand.ToMiddle / wand.Length) is { } s ? s.Of(1) : null;
    }

    private static (CameraRing, RingCalibrationReport) Finish(
        IReadOnlyList<CameraModel> nominal,
        Wand wand,
        List<WandSighting> all,
        CameraModel[] cameras,
        CancellationToken cancel,
        Action<double> progress
    )
    {
        var leftOut = 0;
        var gate = 6.0;
        WandPlace[] places = [];
        WandSighting[][] sightings = [];
        for (var pass = 0; pass < 3; pass++)
        {
            (places, sightings) = WandPlacer.Place(all, cameras, wand, MostWands, gate, out leftOut);
            new RingBundle(wand, [.. nominal], cameras, places, sightings, lens: true, huber: pass == 2 ? 1 : 2).Solve(20, cancel);
            progress((pass + 1) / 3.0);
            var rms = Rms(sightings, places, cameras, wand, null);
            gate = Math.Max(1, 5 * rms);
        }

        var warnings = new List<string>();
        if (leftOut > all.Count / 10)
        {
            warnings.Add($"{leftOut} of {all.Count} sightings of the wand did not agree with the rest and were left out");
        }

        var coverage = new WandCoverage(nominal);
        foreach (var s in all)
        {
            coverage.Add(s.Camera, s.U1, s.V1);
        }

        var list = cameras
            .Select(
                (c, i) =>
                    new CalibrationCamera(
                        c.Name,
                        sightings.Sum(w => w.Count(s => s.Camera == i)),
                        Rms(sightings, places, cameras, wand, i),
                        coverage.Share(i)
                    )
            )
            .ToList();
        warnings.AddRange(
            list.Where(c => c.Coverage < 0.3)
                .Select(c =>
                    $"camera {c.Name} saw the wand in {c.Coverage * 100:0} % of its picture only; its lens is not well known near the edges"
                )
        );
        var rays = 3 * sightings.Sum(w => w.Length);
        // Two coordinates a ray; 5 unknowns a wand and 11 a camera, 6 of them are the world's own.
        var freedom = (2.0 * rays) / Math.Max(1, (2 * rays) - (5 * places.Length) - (11 * cameras.Length) + 6);
        var noise = Rms(sightings, places, cameras, wand, null) * Math.Sqrt(freedom);
        return (
            new CameraRing(cameras, noise),
            new RingCalibrationReport(noise, places.Length, sightings.Sum(w => w.Length), leftOut, list, warnings)
        );
    }

    private static double Rms(WandSighting[][] sightings, WandPlace[] places, CameraModel[] cameras, Wand wand, int? only)
    {
        double sum = 0;
        long n = 0;
        for (var w = 0; w < places.Length; w++)
        {
            foreach (var s in sightings[w])
            {
                for (var m = 0; m < 3 && (only is null || s.Camera == only); m++)
                {
                    var (u, v) = RingBundle.Residual(cameras[s.Camera], places[w].At(wand.Offsets[m]), s.Of(m));
                    sum += (u * u) + (v * v);
                    n += 2;
                }
            }
        }

        return n == 0 ? 0 : Math.Sqrt(sum / n);
    }
}
