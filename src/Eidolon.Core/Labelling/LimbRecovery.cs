using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Solving;

namespace Eidolon.Core.Labelling;

/// <summary>
/// A body that is followed with a limb where it is not leaves dots beside itself that it does not hold, frame after frame. There it is looked for
/// anew, and where it then holds more dots than before it is followed both ways for as long as that is so.
/// </summary>
internal sealed class LimbRecovery(
    MarkerTake take,
    IReadOnlyList<Fragment> fragments,
    IReadOnlyList<LabelSubject> subjects,
    int[][] dotsAt,
    PoseFinder[] finders
)
{
    /// <summary>A stray dot for less than this is a ghost, seconds.</summary>
    private const double Shortest = 0.2;

    /// <summary>Nearer to a carried marker than this a stray dot may be one of the body's, metres.</summary>
    private const float Beside = 0.15f;

    /// <summary>So many stretches of a body are looked at anew, the longest first, in so many frames each.</summary>
    private const int Stretches = 6,
        Frames = 2;

    /// <summary>So many frames after which a body that holds no more dots than before is followed no further.</summary>
    private const double Patience = 0.1;

    /// <param name="carried">Where each body carries its markers; bettered in place.</param>
    /// <param name="held">Dots each body holds, by subject and frame; kept in step.</param>
    public void Repair(MarkerTake[] carried, int[][] held, CancellationToken cancel)
    {
        for (var s = 0; s < subjects.Count; s++)
        {
            foreach (var (start, end) in Strays(s, carried[s], held))
            {
                for (var k = 1; k <= Frames; k++)
                {
                    cancel.ThrowIfCancellationRequested();
                    var f = start + ((end - start) * k / (Frames + 1));
                    if (Anew(s, f, carried, held) is { } pose)
                    {
                        Follow(s, pose, f, 1, carried, held);
                        Follow(s, pose, f - 1, -1, carried, held);
                        break;
                    }
                }
            }
        }
    }

    /// <summary>Stretches in which dots beside the body are held by nobody, the longest first.</summary>
    private List<(int Start, int End)> Strays(int s, MarkerTake carried, int[][] held)
    {
        var runs = new List<(int Start, int End)>();
        var (start, last) = (-1, -1);
        var bridge = Math.Max(2, (int)(Patience * take.FrameRate));
        for (var f = 0; f <= take.FrameCount; f++)
        {
            var stray = f < take.FrameCount && dotsAt[f].Length > held.Sum(h => h[f]) && MarkerTake.Seen(carried[f, 0]);
            if (stray)
            {
                start = start < 0 ? f : start;
                last = f;
            }
            else if (start >= 0 && (f - last > bridge || f == take.FrameCount))
            {
                runs.Add((start, last));
                start = -1;
            }
        }

        return
        [
            .. runs.Where(r => r.End - r.Start + 1 >= Shortest * take.FrameRate)
                .Where(r => Near(carried, r.Start + ((r.End - r.Start) / 2)))
                .OrderByDescending(r => r.End - r.Start)
                .Take(Stretches),
        ];
    }

    /// <summary>Whether there are more dots close to the body than it has markers there: its own strays, not somebody's or a room's.</summary>
    private bool Near(MarkerTake carried, int f)
    {
        var dots = Array.ConvertAll(dotsAt[f], id => take[f, fragments[id].Column]);
        var markers = carried.At(f).ToArray();
        var match = DotMatch.Find([.. markers.Select(m => (Geometry.Vector3d)m)], dots, BodyFollower.Stray);
        return Enumerable.Range(0, dots.Length).Except(match).Any(d => markers.Any(m => (m - dots[d]).LengthSquared() < Beside * Beside));
    }

    /// <summary>The body found anew in a frame, among the dots no other holds; null where it takes no more of them than before.</summary>
    private ModelPose? Anew(int s, int f, MarkerTake[] carried, int[][] held)
    {
        var ids = Own(s, f, carried);
        var pins = Enumerable
            .Range(0, ids.Length)
            .Where(i => fragments[ids[i]].Given is not null)
            .Select(i => (Dot: i, fragments[ids[i]].Given!.Value.Marker))
            .ToArray();
        var (pose, dots, _) = finders[s].Find(Points(ids, f), pins);
        return dots.Count(d => d >= 0) > held[s][f] ? pose : null;
    }

    private void Follow(int s, ModelPose pose, int from, int direction, MarkerTake[] carried, int[][] held)
    {
        var follower = new BodyFollower(BodyModel.Create(subjects[s].Performer), take.FrameRate);
        follower.Begin(pose);
        var (same, patience) = (0, Math.Max(2, (int)(Patience * take.FrameRate)));
        for (var f = from; f >= 0 && f < take.FrameCount && same < patience; f += direction)
        {
            var ids = Own(s, f, carried);
            if (!follower.Step(ids, Points(ids, f), id => fragments[id].Given?.Marker ?? -1) || follower.Held.Count <= held[s][f])
            {
                same++;
                continue;
            }

            same = 0;
            held[s][f] = follower.Held.Count;
            var markers = follower.Markers;
            for (var m = 0; m < markers.Length; m++)
            {
                carried[s][f, m] = markers[m].ToSingle();
            }
        }
    }

    /// <summary>Dots that are not given to, nor lie nearer to, another body.</summary>
    private int[] Own(int s, int f, MarkerTake[] carried) =>
        subjects.Count == 1
            ? dotsAt[f]
            :
            [
                .. dotsAt[f]
                    .Where(id =>
                        fragments[id].Given is { } given ? given.Subject == s : Nearest(take[f, fragments[id].Column], f, carried) == s
                    ),
            ];

    private static int Nearest(Vector3 place, int f, MarkerTake[] carried)
    {
        var (best, least) = (-1, float.PositiveInfinity);
        for (var s = 0; s < carried.Length; s++)
        {
            foreach (var marker in carried[s].At(f))
            {
                var d = (marker - place).LengthSquared();
                (best, least) = d < least ? (s, d) : (best, least);
            }
        }

        return best;
    }

    private Vector3[] Points(int[] ids, int f) => Array.ConvertAll(ids, id => take[f, fragments[id].Column]);
}
