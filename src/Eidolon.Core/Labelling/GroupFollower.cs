using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Labelling;

/// <summary>
/// Finds all bodies of a take in its clearest frame and follows them together to both ends. A dot that no body holds goes to the body whose
/// foreseen marker is nearest, so that two people in contact do not take each other's. Who is lost is looked for again, and then followed back too.
/// </summary>
internal sealed class GroupFollower
{
    private const double Weakest = 0.25;
    private const int Candidates = 12;

    /// <summary>Frames whose dots differ by fewer than this are as good to begin with.</summary>
    private const int Few = 3;

    /// <summary>A body that was not seen for so long is lost; it is looked for this often, seconds.</summary>
    private const double Patience = 0.1,
        Again = 0.5;

    private readonly MarkerTake _take;
    private readonly IReadOnlyList<Fragment> _fragments;
    private readonly IReadOnlyList<LabelSubject> _subjects;
    private readonly int[][] _at;
    private readonly PoseFinder[] _finders;
    private readonly BodyFollower[] _followers;
    private readonly int[] _lost;
    private readonly int _patience;
    private readonly int _again;
    private readonly int[][] _held;
    private readonly List<int>[] _ids;
    private readonly List<Vector3>[] _points;

    public GroupFollower(MarkerTake take, IReadOnlyList<Fragment> fragments, IReadOnlyList<LabelSubject> subjects)
    {
        (_take, _fragments, _subjects) = (take, fragments, subjects);
        var lists = new List<int>[take.FrameCount];
        for (var f = 0; f < lists.Length; f++)
        {
            lists[f] = [];
        }

        foreach (var p in fragments)
        {
            for (var f = p.Start; f <= p.End; f++)
            {
                lists[f].Add(p.Index);
            }
        }

        _at = Array.ConvertAll(lists, l => l.ToArray());
        _finders = [.. subjects.Select(s => new PoseFinder(s.Performer, s.Poses))];
        _followers = [.. subjects.Select(s => new BodyFollower(BodyModel.Create(s.Performer), take.FrameRate))];
        _held = [.. subjects.Select(_ => new int[take.FrameCount])];
        _lost = new int[subjects.Count];
        _patience = Math.Max(3, (int)(Patience * take.FrameRate));
        _again = Math.Max(1, (int)(Again * take.FrameRate));
        _ids = [.. subjects.Select(_ => new List<int>())];
        _points = [.. subjects.Select(_ => new List<Vector3>())];
    }

    /// <summary>Where each body carries its markers, a take for each subject with the frames it was lost in hidden; and who was never found.</summary>
    public (MarkerTake[] Carried, IReadOnlyList<int> Missing) Run(CancellationToken cancel, Action<double> progress)
    {
        var carried = _subjects
            .Select(s => new MarkerTake([.. s.Performer.Markers.Select(m => m.Name)], _take.FrameRate, _take.FrameCount))
            .ToArray();
        var (start, poses) = Begin(cancel);
        var ever = poses.Select(p => p is not null).ToArray();
        var done = 0;
        foreach (var direction in new[] { 1, -1 })
        {
            for (var s = 0; s < _subjects.Count; s++)
            {
                _lost[s] = poses[s] is null ? 1 : 0;
                if (poses[s] is { } pose)
                {
                    _followers[s].Begin(pose);
                }
            }

            for (var f = direction > 0 ? start : start - 1; f >= 0 && f < _take.FrameCount; f += direction)
            {
                cancel.ThrowIfCancellationRequested();
                progress(++done / (double)_take.FrameCount);
                Step(f, carried);
                for (var s = 0; s < _subjects.Count; s++)
                {
                    if (_lost[s] >= _patience && (_lost[s] - _patience) % _again == 0 && Restart(s, f))
                    {
                        ever[s] = true;
                        Back(s, f, direction, carried[s]);
                        _lost[s] = 0;
                    }
                }
            }
        }

        new LimbRecovery(_take, _fragments, _subjects, _at, _finders).Repair(carried, _held, cancel);
        return (carried, [.. Enumerable.Range(0, ever.Length).Where(s => !ever[s])]);
    }

    private void Step(int f, MarkerTake[] carried)
    {
        Share(f);
        for (var s = 0; s < _subjects.Count; s++)
        {
            if (_lost[s] >= _patience)
            {
                _lost[s]++;
                continue;
            }

            var good = _followers[s].Step(_ids[s], _points[s], id => _fragments[id].Given is { } g && g.Subject == s ? g.Marker : -1);
            _lost[s] = good ? 0 : _lost[s] + 1;
            if (good)
            {
                Keep(_followers[s], carried[s], f);
                _held[s][f] = _followers[s].Held.Count;
            }
        }
    }

    private static void Keep(BodyFollower follower, MarkerTake carried, int f)
    {
        var markers = follower.Markers;
        for (var m = 0; m < markers.Length; m++)
        {
            carried[f, m] = markers[m].ToSingle();
        }
    }

    /// <summary>Deals the dots of a frame to the bodies.</summary>
    private void Share(int f)
    {
        for (var s = 0; s < _subjects.Count; s++)
        {
            _ids[s].Clear();
            _points[s].Clear();
            if (_lost[s] < _patience)
            {
                _followers[s].Foresee();
            }
        }

        foreach (var id in _at[f])
        {
            var place = _take[f, _fragments[id].Column];
            var owner = _fragments[id].Given is { } given ? given.Subject : Holder(id);
            if (owner < 0)
            {
                var least = double.PositiveInfinity;
                for (var s = 0; s < _subjects.Count; s++)
                {
                    if (_lost[s] < _patience && _followers[s].Nearest(place) is var d && d < least)
                    {
                        (owner, least) = (s, d);
                    }
                }
            }

            if (owner >= 0)
            {
                _ids[owner].Add(id);
                _points[owner].Add(place);
            }
        }
    }

    private int Holder(int id)
    {
        for (var s = 0; s < _followers.Length; s++)
        {
            if (_lost[s] < _patience && _followers[s].Held.ContainsKey(id))
            {
                return s;
            }
        }

        return -1;
    }

    /// <summary>A fit of all bodies, by body, that needs no second look; and one that is good enough once another frame was looked at too.</summary>
    private const double Certain = 0.955,
        Clear = 0.94;

    /// <summary>A dot this near to those of a body is one of its own, or a ghost; metres.</summary>
    private const float Beside = 0.12f;

    /// <summary>
    /// Tries a handful of frames with many dots, here and there in the take; the best fit is believed first, the others look among what it leaves.
    /// </summary>
    private (int Frame, ModelPose?[] Poses) Begin(CancellationToken cancel)
    {
        (int Frame, ModelPose?[] Poses, double Score) best = (0, new ModelPose?[_subjects.Count], double.NegativeInfinity);
        var fewest = _subjects.Min(s => s.Performer.Markers.Count);
        var spread = Enumerable.Range(0, 40).Select(i => i * 23 % 40 * (_take.FrameCount - 1) / 39).Distinct().ToArray();
        var most = spread.Max(f => _at[f].Length);
        var frames = spread
            .OrderByDescending(Pins)
            .ThenBy(f => (most - _at[f].Length) / Few)
            .Where(f => _at[f].Length >= Math.Min(8, fewest))
            .Take(Candidates);
        var tried = 0;
        foreach (var f in frames)
        {
            cancel.ThrowIfCancellationRequested();
            var (poses, fit, stray) = FindAll(f);
            var score = fit - (stray / (double)fewest);
            if (score > best.Score)
            {
                best = (f, poses, score);
            }

            tried++;
            if (score > Certain * _subjects.Count || (tried > 1 && best.Score > Clear * _subjects.Count))
            {
                break;
            }
        }

        return (best.Frame, best.Poses);
    }

    private int Pins(int f) => _at[f].Count(id => _fragments[id].Given is not null);

    /// <summary>All bodies in one frame, how well they fit together, and how many dots are left among theirs: a limb that lies wrong leaves some.</summary>
    private (ModelPose?[] Poses, double Fit, int Stray) FindAll(int f)
    {
        var poses = new ModelPose?[_subjects.Count];
        var left = _at[f].ToList();
        double sum = 0;
        var owned = new List<Vector3>();
        var tries = Enumerable.Range(0, _subjects.Count).Select(s => (Subject: s, Found: Find(s, f, left))).ToList();
        while (tries.Count > 0)
        {
            var (subject, found) = tries.MaxBy(t => t.Found.Fit);
            if (found.Fit < Weakest)
            {
                break;
            }

            poses[subject] = found.Pose;
            sum += found.Fit;
            var taken = found.Dots.Where(d => d >= 0).Select(d => found.Ids[d]).ToHashSet();
            left.RemoveAll(taken.Contains);
            owned.AddRange(taken.Select(Place));
            // Who lost dots to the better one looks again among the rest.
            tries =
            [
                .. tries
                    .Where(t => t.Subject != subject)
                    .Select(t =>
                        t.Found.Dots.Any(d => d >= 0 && taken.Contains(t.Found.Ids[d])) ? (t.Subject, Find(t.Subject, f, left)) : t
                    ),
            ];
        }

        return (poses, sum, left.Count(id => owned.Exists(o => (o - Place(id)).LengthSquared() < Beside * Beside)));

        Vector3 Place(int id) => _take[f, _fragments[id].Column];
    }

    private (ModelPose Pose, int[] Dots, double Fit, int[] Ids) Find(int s, int f, IReadOnlyList<int> ids)
    {
        int[] own = [.. ids.Where(id => _fragments[id].Given is not { } g || g.Subject == s)];
        if (own.Length < Math.Min(8, _subjects[s].Performer.Markers.Count))
        {
            return (null!, [], 0, own);
        }

        var pins = Enumerable
            .Range(0, own.Length)
            .Where(i => _fragments[own[i]].Given is not null)
            .Select(i => (Dot: i, _fragments[own[i]].Given!.Value.Marker))
            .ToArray();
        var (pose, dots, fit) = _finders[s].Find(Array.ConvertAll(own, id => _take[f, _fragments[id].Column]), pins);
        return (pose, dots, fit, own);
    }

    private bool Restart(int s, int f)
    {
        var (pose, _, fit, _) = Find(s, f, [.. _at[f].Where(id => Holder(id) is var h && (h < 0 || h == s))]);
        if (fit < 0.4)
        {
            return false;
        }

        _followers[s].Begin(pose);
        return true;
    }

    /// <summary>Follows a body that was found again back into the frames it was lost in.</summary>
    private void Back(int s, int f, int direction, MarkerTake carried)
    {
        var follower = new BodyFollower(BodyModel.Create(_subjects[s].Performer), _take.FrameRate);
        follower.Begin(_followers[s].Pose);
        var lost = 0;
        for (var g = f - direction; g >= 0 && g < _take.FrameCount && !MarkerTake.Seen(carried[g, 0]) && lost < _patience; g -= direction)
        {
            var ids = _at[g].Where(id => _fragments[id].Given is not { } given || given.Subject == s).ToArray();
            var good = follower.Step(ids, Array.ConvertAll(ids, id => _take[g, _fragments[id].Column]), id =>
                _fragments[id].Given?.Marker ?? -1
            );
            lost = good ? 0 : lost + 1;
            if (good)
            {
                Keep(follower, carried, g);
                _held[s][g] = follower.Held.Count;
            }
        }
    }
}
