using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Optical;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.Scenes;

namespace Eidolon.StandIns.Optical;

/// <summary>What each camera sees: centroids with noise; markers hidden by bodies, missed, merged with a neighbour; false ones.</summary>
public static class PictureSimulator
{
    /// <summary>How well the cameras see.</summary>
    /// <param name="NoisePixels">Spread of a coordinate.</param>
    /// <param name="Missed">Share of markers a camera misses for no reason.</param>
    /// <param name="False">Mean number of false centroids a picture.</param>
    /// <param name="MergePixels">Two dots nearer than this become one between them.</param>
    public sealed record Settings(
        double NoisePixels = 0.2,
        double Missed = 0.004,
        double False = 0.15,
        double MergePixels = 3,
        bool Occlusion = true
    );

    /// <summary>The pictures of a whole performance.</summary>
    public static CentroidTake See(Performance performance, MarkerTake truth, CameraRing ring, Settings? settings = null)
    {
        var volumes = performance.Actors.Select(a => new BodyVolume(a.Motion.Skeleton, a.Person.Stature)).ToArray();
        var bodies = volumes.Sum(v => v.Count);
        return See(
            truth,
            ring,
            performance.Actors.Sum(a => a.Seed),
            bodies,
            (f, capsules) =>
            {
                Span<Quaternion> turns = stackalloc Quaternion[64];
                Span<Vector3> places = stackalloc Vector3[64];
                var at = 0;
                for (var a = 0; a < volumes.Length; a++)
                {
                    var motion = performance.Actors[a].Motion;
                    ForwardKinematics.World(motion, f, turns[..motion.Skeleton.Count], places[..motion.Skeleton.Count]);
                    volumes[a].Place(turns, places, capsules.AsSpan(at));
                    at += volumes[a].Count;
                }
            },
            settings ?? new Settings()
        );
    }

    /// <summary>The pictures of markers with nobody in the way.</summary>
    public static CentroidTake See(MarkerTake truth, CameraRing ring, int seed, Settings? settings = null) =>
        See(truth, ring, seed, 0, (_, _) => { }, settings ?? new Settings());

    private static CentroidTake See(
        MarkerTake truth,
        CameraRing ring,
        int seed,
        int bodies,
        Action<int, (Vector3, Vector3, float)[]> place,
        Settings settings
    )
    {
        var pictures = new (float[] U, float[] V)[truth.FrameCount * ring.Count];
        var eyes = ring.Cameras.Select(c => c.Position.ToSingle()).ToArray();
        Parallel.For(
            0,
            truth.FrameCount,
            () => (new (Vector3, Vector3, float)[bodies], new List<(double U, double V)>()),
            (f, _, scratch) =>
            {
                var random = new Random((seed * 65537) + f);
                place(f, scratch.Item1);
                for (var c = 0; c < ring.Count; c++)
                {
                    pictures[(f * ring.Count) + c] = One(
                        truth.At(f),
                        ring.Cameras[c],
                        eyes[c],
                        scratch.Item1,
                        scratch.Item2,
                        settings,
                        random
                    );
                }

                return scratch;
            },
            _ => { }
        );
        var builder = new CentroidTakeBuilder(ring.Count, truth.FrameRate);
        foreach (var (u, v) in pictures)
        {
            builder.Add(u, v);
        }

        return builder.Build();
    }

    private static (float[] U, float[] V) One(
        ReadOnlySpan<Vector3> markers,
        CameraModel camera,
        Vector3 eye,
        (Vector3, Vector3, float)[] capsules,
        List<(double U, double V)> dots,
        Settings settings,
        Random random
    )
    {
        dots.Clear();
        foreach (var p in markers)
        {
            if (
                !MarkerTake.Seen(p)
                || !camera.TryProject(p, out var u, out var v)
                || (settings.Occlusion && BodyVolume.Hides(capsules, eye, p))
                || random.NextDouble() < settings.Missed
            )
            {
                continue;
            }

            dots.Add((u, v));
        }

        Merge(dots, settings.MergePixels);
        for (var i = 0; i < dots.Count; i++)
        {
            var noisy = (
                dots[i].U + (MarkerSimulator.Gauss(random) * settings.NoisePixels),
                dots[i].V + (MarkerSimulator.Gauss(random) * settings.NoisePixels)
            );
            dots[i] = noisy;
        }

        for (var chance = settings.False; random.NextDouble() < chance; chance -= 1)
        {
            dots.Add((random.NextDouble() * camera.Width, random.NextDouble() * camera.Height));
        }

        return ([.. dots.Select(d => (float)d.U)], [.. dots.Select(d => (float)d.V)]);
    }

    private static void Merge(List<(double U, double V)> dots, double gate)
    {
        for (var i = 0; i < dots.Count; i++)
        {
            for (var k = dots.Count - 1; k > i; k--)
            {
                double du = dots[i].U - dots[k].U,
                    dv = dots[i].V - dots[k].V;
                if ((du * du) + (dv * dv) < gate * gate)
                {
                    dots[i] = ((dots[i].U + dots[k].U) / 2, (dots[i].V + dots[k].V) / 2);
                    dots.RemoveAt(k);
                }
            }
        }
    }
}
