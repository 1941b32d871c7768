using System.Numerics;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Optical;

/// <summary>3D trajectories of a whole recorded take: stretches of frames on every core, joined where they meet.</summary>
public static class TakeReconstructor
{
    private const int ShortestStretch = 240;
    private const int LongestStretch = 2400;

    /// <summary>Stretches of a take that is long enough for them.</summary>
    private const int FewestParts = 4;

    /// <summary>Reconstructs all frames.</summary>
    /// <returns>Nameless trajectories Dot_001… and a report.</returns>
    /// <exception cref="InvalidInputException">The take and the ring have different numbers of cameras.</exception>
    public static (MarkerTake Take, ReconstructReport Report) Reconstruct(
        CentroidTake seen,
        CameraRing ring,
        ReconstructOptions? options = null,
        CancellationToken cancel = default,
        IProgress<double>? progress = null
    )
    {
        var settings = (options ?? new ReconstructOptions()).Checked();
        if (seen.CameraCount != ring.Count)
        {
            throw new InvalidInputException(
                "centroids",
                "cameras",
                $"the take has {seen.CameraCount} cameras, the calibration {ring.Count}; calibrate the ring that recorded it"
            );
        }

        // By the length of the take alone: the same take gives the same bytes however many cores there are.
        var parts = Math.Max(Math.Clamp(seen.FrameCount / ShortestStretch, 1, FewestParts), seen.FrameCount / LongestStretch);
        var stretches = new Stretch[parts];
        long done = 0;
        Parallel.For(0, parts, new ParallelOptions { CancellationToken = cancel }, i =>
        {
            int from = (int)((long)seen.FrameCount * i / parts),
                to = (int)((long)seen.FrameCount * (i + 1) / parts);
            stretches[i] = Run(seen, ring, settings, from, Math.Min(seen.FrameCount, to + (i < parts - 1 ? 1 : 0)), cancel, () =>
            {
                var now = Interlocked.Add(ref done, 60);
                progress?.Report(Math.Min(1, now / (double)seen.FrameCount));
            });
        });
        return Collect(seen, ring, settings, Join(stretches));
    }

    private static Stretch Run(
        CentroidTake seen,
        CameraRing ring,
        ReconstructOptions options,
        int from,
        int to,
        CancellationToken cancel,
        Action tick
    )
    {
        var reconstructor = new FrameReconstructor(ring, options);
        var tracks = new Dictionary<int, Trajectory>();
        for (var f = from; f < to; f++)
        {
            if ((f - from) % 60 == 59)
            {
                cancel.ThrowIfCancellationRequested();
                tick();
            }

            for (var c = 0; c < ring.Count; c++)
            {
                reconstructor.Load(c, seen.UAt(f, c), seen.VAt(f, c));
            }

            reconstructor.Step();
            foreach (var p in reconstructor.Points)
            {
                if (!tracks.TryGetValue(p.Id, out var t))
                {
                    tracks[p.Id] = t = new Trajectory();
                }

                t.Add(f, p);
            }
        }

        return new Stretch(to - 1, [.. tracks.Values], reconstructor.Health);
    }

    /// <summary>Neighbouring stretches share one frame: points at the same place there are the same.</summary>
    private static (List<Trajectory> Tracks, RingHealth[] Health) Join(Stretch[] stretches)
    {
        var all = new List<Trajectory>(stretches[0].Tracks);
        var open = stretches[0].Tracks;
        for (var i = 1; i < stretches.Length; i++)
        {
            var shared = stretches[i - 1].Last;
            var ends = open.Where(t => t.Frames[^1] == shared).ToList();
            var next = new List<Trajectory>();
            foreach (var t in stretches[i].Tracks)
            {
                var before = t.Frames[0] == shared ? ends.Find(e => (e.Places[^1] - t.Places[0]).LengthSquared() < 1e-6f) : null;
                if (before is null)
                {
                    all.Add(t);
                    next.Add(t);
                    continue;
                }

                ends.Remove(before);
                before.Append(t);
                next.Add(before);
            }

            // A point that the second stretch did not pick up in the shared frame ends one frame earlier or there; both are right.
            open = next;
        }

        return (all, [.. stretches.Select(s => s.Health)]);
    }

    private static (MarkerTake, ReconstructReport) Collect(
        CentroidTake seen,
        CameraRing ring,
        ReconstructOptions options,
        (List<Trajectory> Tracks, RingHealth[] Health) joined
    )
    {
        var kept = joined.Tracks.Where(t => t.Frames.Count >= options.MinimumFrames).OrderBy(t => t.Frames[0]).ToList();
        var slots = new SlotTable((int)(seen.FrameRate / 2), int.MaxValue);
        var placed = new int[kept.Count];
        // Columns are given in the order of frames, as they would be live.
        for (var i = 0; i < kept.Count; i++)
        {
            placed[i] = slots.SlotOf(i, kept[i].Frames[0]);
            slots.Hold(i, kept[i].Frames[^1]);
        }

        var take = new MarkerTake(
            [.. Enumerable.Range(1, slots.Count).Select(i => $"Dot_{i:000}")],
            (float)seen.FrameRate,
            seen.FrameCount
        );
        long points = 0,
            rays = 0;
        for (var i = 0; i < kept.Count; i++)
        {
            var t = kept[i];
            for (var k = 0; k < t.Frames.Count; k++)
            {
                take[t.Frames[k], placed[i]] = t.Places[k];
                rays += t.Rays[k];
            }

            points += t.Frames.Count;
        }

        var cameras = ring
            .Cameras.Select(
                (c, i) =>
                    (
                        c.Name,
                        joined.Health.Max(h => h.Residual(i)),
                        joined.Health.Average(h => h.Used(i)),
                        joined.Health.Any(h => h.Knocked(i))
                    )
            )
            .ToList();
        var warnings = cameras
            .Where(c => c.Item4)
            .Select(c => $"camera {c.Name} does not stand where it was calibrated: its rays were left out")
            .ToList();
        return (
            take,
            new ReconstructReport(
                points,
                kept.Count,
                joined.Tracks.Count - kept.Count,
                rays / (double)Math.Max(1, points),
                cameras,
                warnings
            )
        );
    }

    private sealed record Stretch(int Last, List<Trajectory> Tracks, RingHealth Health);

    private sealed class Trajectory
    {
        public List<int> Frames { get; } = [];

        public List<Vector3> Places { get; } = [];

        public List<byte> Rays { get; } = [];

        public void Add(int frame, TrackedPoint p)
        {
            Frames.Add(frame);
            Places.Add(p.Position);
            Rays.Add((byte)Math.Min(255, p.Rays));
        }

        /// <summary>Adds the other's frames after the one they share.</summary>
        public void Append(Trajectory next)
        {
            Frames.AddRange(next.Frames.Skip(1));
            Places.AddRange(next.Places.Skip(1));
            Rays.AddRange(next.Rays.Skip(1));
        }
    }
}
