using Eidolon.Core.Geometry;
using Eidolon.Core.Optical;

namespace Eidolon.StandIns.Optical;

/// <summary>The twelve stand-in cameras: what their maker says of them, and what they truly are.</summary>
public static class HarbourRing
{
    /// <summary>The maker's figures; nothing is known of where they hang.</summary>
    public static IReadOnlyList<CameraModel> Nominal { get; } =
        (RingDescription.Usual with { Cameras = CaptureVolume.Cameras.Count }).Nominal;

    /// <summary>The truth: every lens a little different, every camera hung by hand.</summary>
    public static CameraRing True(int seed = 5)
    {
        var random = new Random(seed);
        double Around(double spread) => ((random.NextDouble() * 2) - 1) * spread;
        return new CameraRing([
            .. Nominal.Select(
                (n, i) =>
                {
                    var lens = n with
                    {
                        Focal = n.Focal * (1 + Around(0.015)),
                        CentreX = n.CentreX + Around(9),
                        CentreY = n.CentreY + Around(9),
                        K1 = -0.05 + Around(0.015),
                        K2 = 0.012 + Around(0.005),
                    };
                    var place = CaptureVolume.Cameras[i];
                    var eye = new Vector3d(place.X + Around(0.1), place.Y + Around(0.08), place.Z + Around(0.1));
                    var hung = lens.LookingAt(eye, new Vector3d(Around(0.25), 0.85 + Around(0.12), Around(0.25)));
                    var roll = Matrix3d.FromRotationVector(new Vector3d(0, 0, Around(0.03)));
                    return hung with { Rotation = roll * hung.Rotation, Translation = roll * hung.Translation };
                }
            ),
        ]);
    }

    /// <summary>The same camera after a knock: turned by some degrees about its own axes.</summary>
    public static CameraModel Knock(CameraModel camera, double degrees)
    {
        var turn = Matrix3d.FromRotationVector(new Vector3d(degrees * 0.6, degrees * 0.8, 0) * (Math.PI / 180));
        return camera with { Rotation = turn * camera.Rotation, Translation = turn * camera.Translation };
    }
}
