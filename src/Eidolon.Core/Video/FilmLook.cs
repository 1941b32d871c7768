using System.Numerics;
using Eidolon.Core.Optical;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Video;

/// <summary>A solved motion seen through one of the cameras that filmed it: where its points should be in the picture, and how far the tracker's are.</summary>
public sealed class FilmLook
{
    /// <summary>A tracker less sure of a point guesses where it is behind something: its guess says nothing of the solve.</summary>
    private const float Guess = 0.5f;

    private readonly FilmTake _film;
    private readonly CameraModel _camera;
    private readonly double _offset;
    private readonly Motion _motion;
    private readonly FilmPoint[] _points;
    private readonly int[] _joints;
    private readonly Vector3[] _places;

    /// <param name="camera">Placed.</param>
    /// <param name="offset">The film's first frame on the motion's clock, seconds.</param>
    /// <param name="motion">Its frames are those of the first film; a trimmed one knows its first frame.</param>
    public FilmLook(FilmTake film, CameraModel camera, double offset, Motion motion)
    {
        (_film, _camera, _offset, _motion) = (film, camera, offset, motion);
        var body = new FilmBody(motion.Skeleton);
        _points = [.. body.Points.Where(p => film.IndexOf(p.Name) >= 0)];
        _joints = [.. _points.Select(p => motion.Skeleton.IndexOf(p.Joint))];
        var turns = new Quaternion[motion.Rotations.Length];
        var world = ForwardKinematics.WorldPositions(motion, turns);
        _places = new Vector3[motion.FrameCount * _points.Length];
        for (var k = 0; k < _places.Length; k++)
        {
            var (f, p) = (k / _points.Length, k % _points.Length);
            var j = (f * motion.Skeleton.Count) + _joints[p];
            _places[k] = world[j] + Vector3.Transform(_points[p].Place * body.Stature, turns[j]);
        }
    }

    /// <summary>Points of the film that the body carries too.</summary>
    public IReadOnlyList<string> Names => [.. _points.Select(p => p.Name)];

    /// <summary>Pixels of every point at a frame of the film; NaN where the motion has no such moment or the point is behind the camera.</summary>
    /// <param name="into">As long as <see cref="Names"/>.</param>
    public void Project(int frame, Span<Vector2> into)
    {
        var at = (((frame / _film.FrameRate) + _offset) * _motion.FrameRate) - _motion.FirstFrame;
        var before = (int)Math.Floor(at + 1e-6);
        if (before < 0 || before >= _motion.FrameCount)
        {
            into.Fill(new Vector2(float.NaN));
            return;
        }

        var (after, share) = (Math.Min(before + 1, _motion.FrameCount - 1), (float)Math.Clamp(at - before, 0, 1));
        for (var p = 0; p < _points.Length; p++)
        {
            var place = Vector3.Lerp(_places[(before * _points.Length) + p], _places[(after * _points.Length) + p], share);
            _camera.TryProject(place, out var u, out var v);
            into[p] = new Vector2((float)u, (float)v);
        }
    }

    /// <summary>Mean distance of the tracker's points from where the body has them, frame by frame, pixels; null where nothing is sure.</summary>
    /// <param name="points">Only these; all when left out.</param>
    public double?[] Misses(IReadOnlySet<string>? points = null)
    {
        var result = new double?[_film.FrameCount];
        var places = new Vector2[_points.Length];
        var columns = _points.Select(p => _film.IndexOf(p.Name)).ToArray();
        for (var f = 0; f < result.Length; f++)
        {
            Project(f, places);
            var (sum, n) = (0.0, 0);
            for (var p = 0; p < places.Length; p++)
            {
                var (u, v, confidence) = _film.At(f, columns[p]);
                if (confidence >= Guess && float.IsFinite(places[p].X) && (points is null || points.Contains(_points[p].Name)))
                {
                    (sum, n) = (sum + Vector2.Distance(places[p], new Vector2(u, v)), n + 1);
                }
            }

            result[f] = n == 0 ? null : sum / n;
        }

        return result;
    }
}
