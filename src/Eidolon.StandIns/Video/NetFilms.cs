using System.Numerics;
using Eidolon.Core.Inertial;
using Eidolon.Core.Operations;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Video;
using Eidolon.Devices;
using Eidolon.StandIns.Inertial;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.StandIns.Video;

/// <summary>The films of mending the net: three witness cameras that were started by hand, with everything trackers get wrong.</summary>
public static class NetFilms
{
    /// <summary>Frames a second that are acted, so that films can begin between their own.</summary>
    private const double Fine = 120;

    /// <summary>Fine frames after which each camera was started: the first is the clock.</summary>
    private static readonly int[] Starts = [10, 0, 31];

    /// <summary>From here to there, in frames of the first film, two trackers take a corner of the net for the right hand.</summary>
    public const int MistakeStart = 398,
        MistakeEnd = 432;

    private static readonly string[] Hand = ["WristR", "KnuckleR", "IndexR1", "LittleR1"];

    /// <summary>What was shot.</summary>
    /// <param name="Pictures">Strokes of each film's picture, [frame × strokes × 5].</param>
    /// <param name="Truth">What was acted, at 120 frames a second.</param>
    public sealed record Shot(FilmValue Films, IReadOnlyList<float[]> Pictures, Performance Truth)
    {
        /// <summary>The acted frame that a film's frame shows.</summary>
        public int Fine(int film, int frame) => Starts[film] + (frame * (int)(NetFilms.Fine / WitnessPoints.Rate));

        /// <summary>What the suit measured that was worn under the net, its poses before the work.</summary>
        public SuitTake Suit(Person person) => SuitSimulator.WithPoses(Truth.Actors[0].Motion, person.Seed);

        /// <summary>When the suit's first sample was, seconds after the first picture of the first film: long before it.</summary>
        public double SuitLate => -CalibratingPoses.Seconds - (Starts[0] / NetFilms.Fine);

        /// <summary>Where a film truly sees a joint, pixels.</summary>
        public (double U, double V) Seen(int film, int frame, BodyRole role)
        {
            var motion = Truth.Actors[0].Motion;
            var (turns, places) = (new Quaternion[motion.Skeleton.Count], new Vector3[motion.Skeleton.Count]);
            ForwardKinematics.World(motion, Fine(film, frame), turns, places);
            Films.Cameras[film].TryProject(places[motion.Skeleton.IndexOf(role)], out var u, out var v);
            return (u, v);
        }
    }

    public static Shot Shoot(Person person)
    {
        var acted = SceneCatalog.Perform("cam-mend-net", person, 1, Fine);
        var step = (int)(Fine / WitnessPoints.Rate);
        var (films, pictures) = (new List<FilmTake>(), new List<float[]>());
        for (var c = 0; c < WitnessSimulator.Cameras.Count; c++)
        {
            var seen = WitnessSimulator.See(acted, c, 400 + c);
            var frames = ((acted.FrameCount - 1 - Starts[c]) / step) + 1;
            var rows = new float[frames * WitnessPoints.Values];
            for (var f = 0; f < frames; f++)
            {
                seen.AsSpan((Starts[c] + (f * step)) * WitnessPoints.Values, WitnessPoints.Values)
                    .CopyTo(rows.AsSpan(f * WitnessPoints.Values));
            }

            rows = TrackerFaults.Add(rows, WitnessPoints.Rate, 0.05f, 2, 70 + c);
            Mistake(rows, c, step);
            films.Add(new FilmTake(WitnessPoints.Rate, WitnessPoints.Names, Part(rows, frames, 0, WitnessPoints.Count * 3)));
            pictures.Add(Part(rows, frames, WitnessPoints.Count * 3, WitnessPoints.Strokes * WitnessPoints.StrokeValues));
        }

        return new Shot(new FilmValue(films, WitnessSimulator.Cameras), pictures, acted);
    }

    /// <summary>The first two cameras see the net's corner where the hand is behind it; the third sees the hand only now and then.</summary>
    private static void Mistake(float[] rows, int camera, int step)
    {
        var shift = (Starts[0] - Starts[camera]) / step;
        var (start, end) = (MistakeStart + shift, MistakeEnd + shift);
        var wrist = WitnessPoints.Names.ToList().IndexOf(Hand[0]) * 3;
        var at = (start * WitnessPoints.Values) + wrist;
        if (camera < 2)
        {
            var (u, v) = (rows[at] + (camera == 0 ? -150 : 160), rows[at + 1] - (camera == 0 ? 150 : -70));
            TrackerFaults.Mistake(rows, Hand, start, end, u, v, 9 + camera);
            return;
        }

        for (var f = start; f <= end; f++)
        {
            foreach (var point in Hand)
            {
                rows[(f * WitnessPoints.Values) + (WitnessPoints.Names.ToList().IndexOf(point) * 3) + 2] = 0;
            }
        }
    }

    private static float[] Part(float[] rows, int frames, int from, int count)
    {
        var part = new float[frames * count];
        for (var f = 0; f < frames; f++)
        {
            rows.AsSpan((f * WitnessPoints.Values) + from, count).CopyTo(part.AsSpan(f * count));
        }

        return part;
    }
}
