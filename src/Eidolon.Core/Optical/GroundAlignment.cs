using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Optical;

/// <summary>Sets floor, origin and axes from the ground frame that lay still before the cameras.</summary>
public static class GroundAlignment
{
    private const float Tolerance = 0.012f;

    /// <summary>The same ring in the world of the ground frame: its corner at the origin, arms along +X and +Z, floor at 0.</summary>
    /// <exception cref="InvalidInputException">The four markers were not found.</exception>
    public static (CameraRing Ring, double RmsMillimetres) Align(CameraRing ring, CentroidTake still, GroundFrame? frame = null)
    {
        frame ??= new GroundFrame();
        var dots = Still(ring, still);
        var wanted = frame.Markers;
        var pick = ShapeMatcher.Find(dots, wanted, Tolerance, wanted.Length)
            ?? throw new InvalidInputException(
                "ground",
                "markers",
                $"the ground frame was not recognised among {dots.Count} still points; lay it where at least three cameras see all four markers, and take other markers away"
            );
        var (turn, move, rms) = Kabsch.Fit([.. pick.Select(i => dots[i])], wanted);
        var matrix = ((Quaterniond)turn).ToMatrix();
        return (ring with { Cameras = [.. ring.Cameras.Select(c => c.InMovedWorld(matrix, move))] }, rms * 1000);
    }

    /// <summary>The same ring laid onto an earlier calibration by where its cameras stand: floor and axes are taken over from it.</summary>
    /// <returns>RMS distance of the cameras' places in metres; large when cameras were moved in between.</returns>
    public static (CameraRing Ring, double Rms) Onto(CameraRing ring, CameraRing before)
    {
        var (turn, move, rms) = Kabsch.Fit(
            [.. ring.Cameras.Select(c => c.Position.ToSingle())],
            [.. before.Cameras.Select(c => c.Position.ToSingle())]
        );
        var matrix = ((Quaterniond)turn).ToMatrix();
        return (ring with { Cameras = [.. ring.Cameras.Select(c => c.InMovedWorld(matrix, move))] }, rms);
    }

    /// <summary>A world to begin with while no ground frame was seen: up is against the cameras' mean direction, the floor three metres below them.</summary>
    public static CameraRing Roughly(CameraRing ring)
    {
        var levelled = Levelled(ring, out _);
        return levelled with { Cameras = [.. levelled.Cameras.Select(c => c.InMovedWorld(Matrix3d.Identity, new Vector3d(0, -3, 0)))] };
    }

    /// <summary>Mean places of points seen through most of the take.</summary>
    private static List<Vector3> Still(CameraRing ring, CentroidTake take)
    {
        // The world is not set yet, so the room's bounds mean nothing: turn the ring so that the cameras' mean is level.
        var levelled = Levelled(ring, out var back);
        var (seen, _) = TakeReconstructor.Reconstruct(
            take,
            levelled,
            new ReconstructOptions(TolerancePixels: 2, MinimumFrames: Math.Max(1, take.FrameCount / 4))
        );
        var list = new List<Vector3>();
        for (var m = 0; m < seen.MarkerCount; m++)
        {
            Vector3d sum = default;
            var n = 0;
            for (var f = 0; f < seen.FrameCount; f++)
            {
                if (MarkerTake.Seen(seen[f, m]))
                {
                    sum += seen[f, m];
                    n++;
                }
            }

            if (n > 0)
            {
                list.Add(back(sum * (1.0 / n)).ToSingle());
            }
        }

        return list;
    }

    /// <summary>A rough world: the cameras' mean direction points down.</summary>
    internal static CameraRing Levelled(CameraRing ring, out Func<Vector3d, Vector3d> back)
    {
        Vector3d forward = default,
            centre = default;
        foreach (var c in ring.Cameras)
        {
            forward += c.Forward * (1.0 / ring.Count);
            centre += c.Position * (1.0 / ring.Count);
        }

        var up = forward.Length < 1e-3 ? new Vector3d(0, 1, 0) : (forward * -1).Normalised();
        var side = Vector3d.Cross(Math.Abs(up.X) < 0.8 ? new Vector3d(1, 0, 0) : new Vector3d(0, 0, 1), up).Normalised();
        var turn = Matrix3d.FromRows(side, up, Vector3d.Cross(side, up));
        // Cameras hang some three metres high; six leave room below.
        var move = new Vector3d(0, 6, 0) - (turn * centre);
        back = p => turn.Transposed * (p - move);
        return ring with { Cameras = [.. ring.Cameras.Select(c => c.InMovedWorld(turn, move))] };
    }
}
