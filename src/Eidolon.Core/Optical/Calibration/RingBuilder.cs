using Eidolon.Core.Geometry;

namespace Eidolon.Core.Optical.Calibration;

/// <summary>Puts a ring together: the best pair first, then whoever shares most with those that stand.</summary>
/// <remarks>Incremental structure from motion, Snavely et al. 2006.</remarks>
internal sealed class RingBuilder
{
    private readonly CameraModel[] _nominal;
    private readonly Wand _wand;
    private readonly List<WandSighting> _all;
    private readonly Dictionary<int, WandSighting>[] _byFrame;

    public RingBuilder(IReadOnlyList<CameraModel> nominal, Wand wand, List<WandSighting> all)
    {
        (_nominal, _wand, _all) = ([.. nominal], wand, all);
        _byFrame = [.. nominal.Select((_, c) => all.Where(s => s.Camera == c).ToDictionary(s => s.Frame))];
    }

    /// <summary>All cameras in one world, metres; the lens still roughly known.</summary>
    public CameraModel[] Assemble(int wands, CancellationToken cancel, Action<double> progress)
    {
        var cameras = (CameraModel[])_nominal.Clone();
        var known = new bool[cameras.Length];
        FirstPair(cameras, known);
        Refine(cameras, known, wands, cancel);
        for (var n = 2; n < cameras.Length; n++)
        {
            cancel.ThrowIfCancellationRequested();
            progress(n / (double)cameras.Length);
            AddOne(cameras, known, wands);
            Refine(cameras, known, wands, cancel);
        }

        return cameras;
    }

    private void FirstPair(CameraModel[] cameras, bool[] known)
    {
        var pairs =
            from a in Enumerable.Range(0, cameras.Length)
            from b in Enumerable.Range(a + 1, cameras.Length - a - 1)
            select (A: a, B: b, Shared: _byFrame[a].Keys.Count(_byFrame[b].ContainsKey));
        (double Score, int A, int B, Matrix3d R, Vector3d T) best = (0, -1, -1, default, default);
        foreach (var (a, b, shared) in pairs.OrderByDescending(p => p.Shared).Take(14))
        {
            if (shared < 40)
            {
                continue;
            }

            var (x1, x2) = Common(a, b);
            if (TwoViews.Pose(x1, x2, 10 / _nominal[a].Focal, (a * 100) + b) is not var (r, t, inliers))
            {
                continue;
            }

            // Cameras that look along or against each other tell little about depth.
            var axis = r.Transposed * new Vector3d(0, 0, 1);
            var sine = Math.Sqrt(Math.Max(0, 1 - (axis.Z * axis.Z)));
            var score = inliers * sine * inliers / x1.Count;
            if (score > best.Score)
            {
                best = (score, a, b, r, t);
            }
        }

        if (best.A < 0)
        {
            throw new InvalidInputException(
                "wand",
                "cameras",
                "no two cameras saw enough of the wand together; wave it where the views overlap"
            );
        }

        var scale = Scale(best.A, best.B, best.R, best.T);
        cameras[best.A] = cameras[best.A] with { Rotation = Matrix3d.Identity, Translation = default };
        cameras[best.B] = cameras[best.B] with { Rotation = best.R, Translation = best.T * scale };
        (known[best.A], known[best.B]) = (true, true);
    }

    private (List<(double X, double Y)> A, List<(double X, double Y)> B) Common(int a, int b)
    {
        var (x1, x2) = (new List<(double, double)>(), new List<(double, double)>());
        foreach (var (frame, s) in _byFrame[a])
        {
            if (!_byFrame[b].TryGetValue(frame, out var o))
            {
                continue;
            }

            for (var m = 0; m < 3; m++)
            {
                x1.Add(_nominal[a].Undistort(s.Of(m).U, s.Of(m).V));
                x2.Add(_nominal[b].Undistort(o.Of(m).U, o.Of(m).V));
            }
        }

        return (x1, x2);
    }

    private double Scale(int a, int b, Matrix3d r, Vector3d t)
    {
        var (x1, x2) = Common(a, b);
        var lengths = new List<double>();
        for (var i = 0; i + 2 < x1.Count; i += 3)
        {
            var first = TwoViews.Depths(r, t, x1[i], x2[i]).A;
            var last = TwoViews.Depths(r, t, x1[i + 2], x2[i + 2]).A;
            if (first > 0 && last > 0)
            {
                lengths.Add(((new Vector3d(x1[i].X, x1[i].Y, 1) * first) - (new Vector3d(x1[i + 2].X, x1[i + 2].Y, 1) * last)).Length);
            }
        }

        lengths.Sort();
        return lengths.Count == 0 ? 1 : _wand.Length / lengths[lengths.Count / 2];
    }

    private void AddOne(CameraModel[] cameras, bool[] known, int wands)
    {
        var (places, sightings) = WandPlacer.Place(_all, cameras, _wand, wands * 3, 25, out _, known);
        var next = Enumerable
            .Range(0, cameras.Length)
            .Where(c => !known[c])
            .MaxBy(c => sightings.Count(w => _byFrame[c].ContainsKey(w[0].Frame)));
        var (points, picture) = (new List<Vector3d>(), new List<(double, double)>());
        for (var w = 0; w < places.Length; w++)
        {
            if (_byFrame[next].TryGetValue(sightings[w][0].Frame, out var s))
            {
                for (var m = 0; m < 3; m++)
                {
                    points.Add(places[w].At(_wand.Offsets[m]));
                    picture.Add(_nominal[next].Undistort(s.Of(m).U, s.Of(m).V));
                }
            }
        }

        if (Resection.Pose(points, picture, 30 / _nominal[next].Focal, next) is not var (r, t))
        {
            throw new InvalidInputException(
                "wand",
                $"camera {_nominal[next].Name}",
                $"shares too few pictures of the wand with the other cameras ({points.Count / 3}); wave it where its view overlaps theirs"
            );
        }

        cameras[next] = cameras[next] with { Rotation = r, Translation = t };
        known[next] = true;
    }

    /// <summary>Bundle adjustment of those that stand, in a list of their own.</summary>
    private void Refine(CameraModel[] cameras, bool[] known, int wands, CancellationToken cancel)
    {
        var index = Enumerable.Range(0, cameras.Length).Where(c => known[c]).ToArray();
        var (places, sightings) = WandPlacer.Place(_all, cameras, _wand, wands, 25, out _, known);
        var own = sightings.Select(w => w.Select(s => s with { Camera = Array.IndexOf(index, s.Camera) }).ToArray()).ToArray();
        CameraModel[] mine = [.. index.Select(c => cameras[c])],
            nominal = [.. index.Select(c => _nominal[c])];
        new RingBundle(_wand, nominal, mine, places, own, lens: index.Length > 2, huber: 4).Solve(10, cancel);
        for (var i = 0; i < index.Length; i++)
        {
            cameras[index[i]] = mine[i];
        }
    }
}
