using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Hands;
using Eidolon.Core.Optical;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Video;

/// <summary>Fingers from the hand points of films, on a body that was solved from them: Thumb, Index, Middle, Ring, Little, each L and R, 1 to 4.</summary>
/// <remarks>
/// The body's hand is some centimetres off along a camera's view, so each picture is first shifted until the palm's points lie on it; only then
/// do the points of the fingers tell bends. Point 1 is the knuckle, 2 and 3 are the joints, 4 is the tip.
/// </remarks>
public static class FilmHands
{
    /// <summary>Points below this are guessed by the tracker: the hand is hidden.</summary>
    private const float Sure = 0.5f;

    /// <summary>Points a tracker is sure of are off by this, pixels of a picture 1920 wide.</summary>
    private const double SurePixels = 3;

    /// <summary>Fingers seen by a tracker tremble; a hand that signals closes within a quarter of a second. Hertz.</summary>
    private const double Cutoff = 4;

    /// <summary>A finger is seen when at least so many of its points beyond the knuckle are.</summary>
    private const int LeastPoints = 2;

    /// <summary>A picture is shifted by at least so many of the palm's points.</summary>
    private const int LeastPalm = 3;

    /// <summary>A finger so many times farther from its points than a tracker's trembling is not what the tracker saw.</summary>
    private const double NotIt = 4;

    private const int Joints = 3;

    /// <summary>Whether any film has points beyond a knuckle.</summary>
    public static bool AreIn(IReadOnlyList<FilmTake> films) => films.Any(f => new Columns(f).Any);

    /// <summary>Puts fingers on a body.</summary>
    /// <param name="body">Solved from these films, on the first one's clock.</param>
    /// <param name="cameras">Where each film was shot from, as the solve found it.</param>
    /// <param name="offsets">Each film's first frame on the first one's clock, seconds.</param>
    /// <returns>Poses as they were smoothed; residuals are NaN where a finger was not seen.</returns>
    public static (Motion Motion, HandPoses Poses, HandReport Report) Solve(
        Motion body,
        float stature,
        IReadOnlyList<FilmTake> films,
        IReadOnlyList<CameraModel> cameras,
        IReadOnlyList<double> offsets,
        CancellationToken cancel = default
    )
    {
        var (turns, places) = HandWork.Frames(body);
        HandShape[] shapes = [HandWork.Shape(0, stature), HandWork.Shape(1, stature)];
        Columns[] columns = [.. films.Select(f => new Columns(f))];
        var poses = new HandPoses(body.FrameCount);
        var (sights, n) = (new FingerSight[HandShape.FingerCount][], new int[HandShape.FingerCount]);
        for (var k = 0; k < sights.Length; k++)
        {
            sights[k] = new FingerSight[Joints * films.Count];
        }

        var before = new FingerPose[HandPoses.Fingers];
        Array.Fill(before, new FingerPose(0, 0.3f, 0.4f, 0.3f));
        for (var f = 0; f < body.FrameCount; f++)
        {
            if ((f & 127) == 0)
            {
                cancel.ThrowIfCancellationRequested();
            }

            for (var side = 0; side < 2; side++)
            {
                Array.Clear(n);
                var spread = 0.0;
                for (var k = 0; k < films.Count; k++)
                {
                    var at = ((f / body.FrameRate) - offsets[k]) * films[k].FrameRate;
                    var seen = new Picture(films[k], cameras[k], at);
                    spread = Math.Max(
                        spread,
                        See(seen, columns[k], shapes[side], side, turns[(f * 2) + side], places[(f * 2) + side], sights, n)
                    );
                }

                for (var k = 0; k < HandShape.FingerCount; k++)
                {
                    if (n[k] < LeastPoints)
                    {
                        continue;
                    }

                    var i = HandPoses.At(f, side, k);
                    var own = (side * HandShape.FingerCount) + k;
                    var (pose, residual) = FingerSolver.Solve(
                        shapes[side].Fingers[k],
                        sights[k].AsSpan(0, n[k]),
                        before[own],
                        (float)spread
                    );
                    if (residual < NotIt * spread)
                    {
                        (poses.Poses[i], poses.Residuals[i], before[own]) = (pose, residual, pose);
                    }
                }
            }
        }

        poses.Fill();
        Smooth(poses, body.FrameRate);
        return (
            HandSkeleton.With(body, shapes[0], shapes[1], poses),
            poses,
            new HandReport(HandWork.Fingers(poses, shapes, stature), [], Warnings(poses))
        );
    }

    /// <summary>What one picture sees of a hand's fingers, as rays in the hand's frame.</summary>
    /// <returns>How far off a sight is, metres; 0 when the hand is not seen.</returns>
    private static double See(
        Picture picture,
        Columns columns,
        HandShape shape,
        int side,
        Quaternion turn,
        Vector3 place,
        FingerSight[][] sights,
        int[] n
    )
    {
        if (picture.Shift(columns, shape, side, turn, place) is not { } shift)
        {
            return 0;
        }

        var back = Quaternion.Conjugate(turn);
        var eye = Vector3.Transform(picture.Camera.Position.ToSingle() - place, back);
        for (var k = 0; k < HandShape.FingerCount; k++)
        {
            var chain = shape.Fingers[k];
            for (var j = 0; j < Joints; j++)
            {
                if (picture.At(columns.Finger(side, k, j + 1)) is not { } p)
                {
                    continue;
                }

                var ray = Vector3.Transform(picture.Ray(p.U - shift.U, p.V - shift.V), back);
                var offset =
                    j == 0 ? chain.Middle
                    : j == 1 ? chain.Last
                    : chain.Tip;
                sights[k][n[k]++] = new FingerSight(j, offset, eye, ray);
            }
        }

        return SurePixels * picture.Camera.Width / 1920 * eye.Length() / picture.Camera.Focal;
    }

    /// <summary>Takes the trackers' trembling out of all bends; what is within the limits stays within them.</summary>
    private static void Smooth(HandPoses poses, double rate)
    {
        if (poses.FrameCount < 12 || Cutoff > rate * 0.4)
        {
            return;
        }

        var filter = new Butterworth(Cutoff, rate);
        var bend = new float[poses.FrameCount * 4];
        for (var i = 0; i < HandPoses.Fingers; i++)
        {
            for (var f = 0; f < poses.FrameCount; f++)
            {
                var p = poses.Poses[(f * HandPoses.Fingers) + i];
                (bend[f * 4], bend[(f * 4) + 1], bend[(f * 4) + 2], bend[(f * 4) + 3]) = (p.Spread, p.First, p.Second, p.Third);
            }

            for (var k = 0; k < 4; k++)
            {
                filter.Apply(bend, k, 4, poses.FrameCount);
            }

            var limits = FingerLimits.Of(i % HandShape.FingerCount == 0);
            for (var f = 0; f < poses.FrameCount; f++)
            {
                poses.Poses[(f * HandPoses.Fingers) + i] = limits.Clamp(
                    new FingerPose(bend[f * 4], bend[(f * 4) + 1], bend[(f * 4) + 2], bend[(f * 4) + 3])
                );
            }
        }
    }

    private static IReadOnlyList<string> Warnings(HandPoses poses)
    {
        var warnings = new List<string>();
        for (var side = 0; side < 2; side++)
        {
            var seen = 0;
            for (var f = 0; f < poses.FrameCount; f++)
            {
                seen += Enumerable.Range(0, HandShape.FingerCount).Any(k => !float.IsNaN(poses.Residuals[HandPoses.At(f, side, k)]))
                    ? 1
                    : 0;
            }

            if (seen < poses.FrameCount / 2)
            {
                warnings.Add(
                    $"the {(side == 0 ? "left" : "right")} hand's fingers are seen in {100.0 * seen / Math.Max(1, poses.FrameCount):0} % of the frames only: "
                        + "between them they go on from one to the other"
                );
            }
        }

        return warnings;
    }

    /// <summary>Which column of a film is which point of a hand; −1 where the tracker does not know it.</summary>
    private sealed class Columns
    {
        private readonly int[] _fingers = new int[2 * HandShape.FingerCount * 4];
        private readonly int[] _wrist = new int[2];

        public Columns(FilmTake film)
        {
            for (var side = 0; side < 2; side++)
            {
                _wrist[side] = film.IndexOf("Wrist" + "LR"[side]);
                for (var k = 0; k < HandShape.FingerCount; k++)
                {
                    for (var j = 0; j < 4; j++)
                    {
                        _fingers[(((side * HandShape.FingerCount) + k) * 4) + j] = film.IndexOf($"{HandShape.Names[k]}{"LR"[side]}{j + 1}");
                    }
                }
            }
        }

        public bool Any => _fingers.Where((_, i) => i % 4 > 0).Any(c => c >= 0);

        public int Wrist(int side) => _wrist[side];

        /// <param name="joint">0 is the knuckle, 3 the tip.</param>
        public int Finger(int side, int finger, int joint) => _fingers[(((side * HandShape.FingerCount) + finger) * 4) + joint];
    }

    /// <summary>One film at a moment between two of its frames.</summary>
    private readonly struct Picture(FilmTake film, CameraModel camera, double at)
    {
        public CameraModel Camera => camera;

        /// <summary>Where a point is, pixels; null where the tracker is not sure of it.</summary>
        public (double U, double V)? At(int column)
        {
            var (f, share) = ((int)Math.Floor(at + 1e-6), (float)Math.Clamp(at - Math.Floor(at + 1e-6), 0, 1));
            if (column < 0 || f < 0 || f >= film.FrameCount)
            {
                return null;
            }

            var (a, b) = (film.At(f, column), film.At(Math.Min(f + (share < 1e-3 ? 0 : 1), film.FrameCount - 1), column));
            return a.Confidence < Sure || b.Confidence < Sure ? null : (a.U + ((b.U - a.U) * share), a.V + ((b.V - a.V) * share));
        }

        /// <summary>Unit direction in the world of a pixel.</summary>
        public Vector3 Ray(double u, double v)
        {
            var (x, y) = camera.Undistort(u, v);
            return (camera.Rotation.Transposed * new Vector3d(x, y, 1)).Normalised().ToSingle();
        }

        /// <summary>How far the palm's points are from where the body has them, mean, pixels; null when too few are seen.</summary>
        public (double U, double V)? Shift(Columns columns, HandShape shape, int side, Quaternion turn, Vector3 place)
        {
            var (du, dv, n) = (0.0, 0.0, 0);
            for (var k = -1; k < HandShape.FingerCount; k++)
            {
                var own = k < 0 ? default : shape.Fingers[k].Base;
                if (
                    At(k < 0 ? columns.Wrist(side) : columns.Finger(side, k, 0)) is { } p
                    && camera.TryProject(place + Vector3.Transform(own, turn), out var u, out var v)
                )
                {
                    (du, dv, n) = (du + (p.U - u), dv + (p.V - v), n + 1);
                }
            }

            return n >= LeastPalm ? (du / n, dv / n) : null;
        }
    }
}
