using System.Numerics;
using Eidolon.Core.Geometry;

namespace Eidolon.Core.Markers;

/// <summary>Follows one prop through frames of nameless points: recognised by its shape, then looked for where it should be.</summary>
public sealed class RigidBodyTracker(RigidBody body)
{
    private const float Gate = 0.04f;
    private const float Tolerance = 0.004f;
    private const int SearchEvery = 12;
    private readonly int[] _ids = NoIds(body.Markers.Count);
    private Vector3 _velocity;
    private int _sinceSearch = SearchEvery;

    /// <summary>Markers that must fit before a prop is recognised: three points fit somewhere in any crowd, so small props want all of theirs.</summary>
    private int Least => body.Markers.Count <= 4 ? body.Markers.Count : body.Markers.Count - 1;

    /// <summary>What is looked for.</summary>
    public RigidBody Body => body;

    /// <summary>Where it was last; <see cref="RigidPose.Lost"/> when it was not found.</summary>
    public RigidPose Pose { get; private set; } = RigidPose.Lost;

    /// <summary>The id of the point each marker was seen as in the last frame, −1 when hidden.</summary>
    public IReadOnlyList<int> Ids => _ids;

    /// <summary>One frame.</summary>
    /// <param name="points">Places of all points that are seen.</param>
    /// <param name="ids">What each point is known as from frame to frame.</param>
    /// <param name="free">Points that nobody else has; the rest are only kept where they were this prop's before.</param>
    public RigidPose Step(IReadOnlyList<Vector3> points, IReadOnlyList<int> ids, Func<int, bool>? free = null)
    {
        var pick = Follow(points, ids, free);
        if (pick.Count(i => i >= 0) < 3 && ++_sinceSearch >= SearchEvery)
        {
            _sinceSearch = 0;
            var open = Enumerable.Range(0, points.Count).Where(i => free?.Invoke(i) ?? true).ToArray();
            var found = ShapeMatcher.Find([.. open.Select(i => points[i])], body.Markers, Tolerance, Least);
            pick = found is null ? pick : Array.ConvertAll(found, i => i < 0 ? -1 : open[i]);
        }

        return Pose = Fit(points, ids, pick);
    }

    private int[] Follow(IReadOnlyList<Vector3> points, IReadOnlyList<int> ids, Func<int, bool>? free)
    {
        var pick = NoIds(body.Markers.Count);
        for (var m = 0; m < pick.Length; m++)
        {
            for (var i = 0; i < points.Count && _ids[m] >= 0; i++)
            {
                if (ids[i] == _ids[m])
                {
                    pick[m] = i;
                    break;
                }
            }
        }

        if (!Pose.Trusted)
        {
            return pick;
        }

        // Markers that come back under another id are where the rest say they should be.
        var (turn, move) = (Pose.Rotation, Pose.Position + _velocity);
        if (pick.Count(i => i >= 0) >= 3)
        {
            var seen = Enumerable.Range(0, pick.Length).Where(m => pick[m] >= 0).ToArray();
            (turn, move, _) = Kabsch.Fit([.. seen.Select(m => body.Markers[m])], [.. seen.Select(m => points[pick[m]])]);
        }

        for (var m = 0; m < pick.Length; m++)
        {
            if (pick[m] >= 0)
            {
                continue;
            }

            var due = move + Vector3.Transform(body.Markers[m], turn);
            var best = pick.Count(i => i >= 0) >= 3 ? 0.012f : Gate;
            for (var i = 0; i < points.Count; i++)
            {
                var d = Vector3.Distance(points[i], due);
                if (d < best && Array.IndexOf(pick, i) < 0 && (free?.Invoke(i) ?? true))
                {
                    (best, pick[m]) = (d, i);
                }
            }
        }

        return pick;
    }

    private RigidPose Fit(IReadOnlyList<Vector3> points, IReadOnlyList<int> ids, int[] pick)
    {
        var seen = Enumerable.Range(0, pick.Length).Where(m => pick[m] >= 0).ToList();
        while (seen.Count >= 3)
        {
            var (turn, move, rms) = Kabsch.Fit([.. seen.Select(m => body.Markers[m])], [.. seen.Select(m => points[pick[m]])]);
            var worst = seen.MaxBy(m => Vector3.Distance(move + Vector3.Transform(body.Markers[m], turn), points[pick[m]]));
            if (Vector3.Distance(move + Vector3.Transform(body.Markers[worst], turn), points[pick[worst]]) > 0.008f)
            {
                // A point that does not keep the shape belongs to something else.
                seen.Remove(worst);
                pick[worst] = -1;
                continue;
            }

            _velocity = Pose.Trusted ? move - Pose.Position : default;
            for (var m = 0; m < pick.Length; m++)
            {
                _ids[m] = pick[m] < 0 ? -1 : ids[pick[m]];
            }

            var share = (seen.Count - 2) / (float)Math.Max(1, body.Markers.Count - 2);
            return new RigidPose(move, turn, seen.Count, rms * 1000, Math.Clamp(share * (1 - (rms / 0.006f)), 0, 1));
        }

        Array.Fill(_ids, -1);
        return RigidPose.Lost;
    }

    private static int[] NoIds(int n)
    {
        var ids = new int[n];
        Array.Fill(ids, -1);
        return ids;
    }
}
