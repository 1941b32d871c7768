using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Quality;

/// <summary>Two motions, or two takes, of one performance, joint by joint.</summary>
public sealed record Comparison
{
    /// <summary>Two motions are alike when they are no farther apart than this on the whole, millimetres and degrees.</summary>
    public const double AlikeMillimetres = 10,
        AlikeDegrees = 3;

    /// <summary>Both must go together for at least this share of the shorter one.</summary>
    private const double LeastOverlap = 0.5;

    /// <summary>Every shift of so many speeds is tried; longer curves are looked at coarsely first.</summary>
    private const int MostSpeeds = 4000;

    /// <summary>Joints in order of roles; markers in the order of the first take.</summary>
    public required IReadOnlyList<JointDifference> Joints { get; init; }

    /// <summary>The second's first frame goes with this frame of the first.</summary>
    public required int OffsetFrames { get; init; }

    /// <summary>Frames that both have.</summary>
    public required int Frames { get; init; }

    /// <summary>The first frame of the first one that both have.</summary>
    public required int Start { get; init; }

    /// <summary>[frame × joints + joint]: how far each is apart, millimetres, over the frames both have; NaN where one is not seen.</summary>
    public required float[] Apart { get; init; }

    /// <summary>The turn about the vertical that lays the second on the first, before the move.</summary>
    public required Quaternion Turn { get; init; }

    /// <summary>The move over the floor that lays the second on the first, metres; frame by frame where pelvis is laid on pelvis.</summary>
    public required Vector3 Move { get; init; }

    /// <summary>Mean over all joints, millimetres.</summary>
    public double MeanMillimetres => Joints.Average(j => j.MeanMillimetres);

    /// <summary>There is no difference worth a person's time.</summary>
    public bool Alike => MeanMillimetres <= AlikeMillimetres && Joints.All(j => !(j.MeanDegrees > 2 * AlikeDegrees));

    /// <summary>Compares two motions whose skeletons have roles; the second is brought to the first one's rate.</summary>
    /// <exception cref="RefusedException">They share no role, or no stretch of time.</exception>
    public static Comparison Of(Motion a, Motion b, Laying laying)
    {
        b = MotionEdits.Resample(b, a.FrameRate);
        var roles = Enum.GetValues<BodyRole>().Where(r => a.Skeleton.IndexOf(r) >= 0 && b.Skeleton.IndexOf(r) >= 0).ToArray();
        if (roles.Length == 0)
        {
            throw new RefusedException("the two motions have no role in common");
        }

        var (one, other) = (Track.Of(a, roles), Track.Of(b, roles));
        return Compare(one, other, laying, roles.IndexOf(BodyRole.Pelvis));
    }

    /// <summary>Compares the markers that two takes of one rate both name; where one is not seen nothing is compared.</summary>
    /// <exception cref="RefusedException">They share no marker, no rate or no stretch of time.</exception>
    public static Comparison Of(MarkerTake a, MarkerTake b, Laying laying)
    {
        if (Math.Abs(a.FrameRate - b.FrameRate) > 1e-3)
        {
            throw new RefusedException($"one take has {a.FrameRate:0.##} frames a second, the other {b.FrameRate:0.##}");
        }

        var names = a.Names.Where(b.Names.Contains).ToArray();
        return names.Length == 0 ? throw new RefusedException("the two takes have no marker in common")
            : laying == Laying.Pelvis ? throw new RefusedException("markers have no pelvis to lay on one another")
            : Compare(Track.Of(a, names), Track.Of(b, names), laying, -1);
    }

    private static Comparison Compare(Track a, Track b, Laying laying, int pelvis)
    {
        var offset = Offset(a.Speeds(), b.Speeds());
        var (start, end) = (Math.Max(0, offset), Math.Min(a.Frames, b.Frames + offset));
        if (end <= start)
        {
            throw new RefusedException("there is no stretch of time in which both go the same way");
        }

        var (turn, move) = laying == Laying.Floor ? Lay(a, b, offset, start, end) : (Quaternion.Identity, Vector3.Zero);
        var joints = new List<JointDifference>();
        var apart = new List<float[]>();
        for (var j = 0; j < a.Count; j++)
        {
            var own = new float[end - start];
            double sum = 0,
                most = 0,
                degrees = 0;
            var seen = 0;
            for (var f = start; f < end; f++)
            {
                var (p, q) = (a.Place(f, j), Vector3.Transform(b.Place(f - offset, j), turn) + move);
                if (pelvis >= 0 && laying == Laying.Pelvis)
                {
                    q += a.Place(f, pelvis) - b.Place(f - offset, pelvis);
                }

                var d = Vector3.Distance(p, q) * 1000.0;
                own[f - start] = double.IsFinite(d) ? (float)d : float.NaN;
                if (!double.IsFinite(d))
                {
                    continue;
                }

                (sum, most, seen) = (sum + d, Math.Max(most, d), seen + 1);
                degrees +=
                    a.Turns is { } turns && b.Turns is { } others
                        ? Rotations.Angle(turns[(f * a.Count) + j], turn * others[((f - offset) * b.Count) + j]) * 180 / Math.PI
                        : 0;
            }

            if (seen > 0)
            {
                joints.Add(new JointDifference(a.Names[j], sum / seen, most, a.Turns is null ? null : degrees / seen));
                apart.Add(own);
            }
        }

        return joints.Count == 0
            ? throw new RefusedException("nothing is seen in both at the same time")
            : new Comparison
            {
                Joints = joints,
                OffsetFrames = offset,
                Frames = end - start,
                Start = start,
                Apart = [.. Enumerable.Range(0, end - start).SelectMany(f => apart.Select(x => x[f]))],
                Turn = turn,
                Move = move,
            };
    }

    /// <summary>The shift at which the two speed curves go together best: of long ones first by the means of some frames, then to the frame.</summary>
    private static int Offset(float[] a, float[] b)
    {
        var step = (Math.Max(a.Length, b.Length) + MostSpeeds - 1) / MostSpeeds;
        var coarse = Best(Means(a, step), Means(b, step), int.MinValue, int.MaxValue);
        return step == 1 ? coarse : Best(a, b, (coarse - 1) * step, (coarse + 1) * step);
    }

    private static float[] Means(float[] values, int step) => step == 1 ? values : [.. values.Chunk(step).Select(c => c.Average())];

    /// <summary>The best shift between two.</summary>
    private static int Best(float[] a, float[] b, int from, int to)
    {
        var least = (int)Math.Max(1, LeastOverlap * Math.Min(a.Length, b.Length));
        var (best, at) = (double.NegativeInfinity, 0);
        for (var shift = Math.Max(from, least - b.Length); shift <= Math.Min(to, a.Length - least); shift++)
        {
            var score = Likeness(a, b, shift);
            // Of two shifts that do as well the smaller one: someone who stands still goes with anything.
            if (score > best + 1e-9 || (score > best - 1e-9 && Math.Abs(shift) < Math.Abs(at)))
            {
                (best, at) = (score, shift);
            }
        }

        return at;
    }

    /// <summary>Minus the mean absolute difference of speeds where both are.</summary>
    private static double Likeness(float[] a, float[] b, int shift)
    {
        var (start, end) = (Math.Max(0, shift), Math.Min(a.Length, b.Length + shift));
        double sum = 0;
        for (var f = start; f < end; f++)
        {
            sum += Math.Abs(a[f] - b[f - shift]);
        }

        return -sum / (end - start);
    }

    /// <summary>The turn about the vertical and the move over the floor that lay the other on the one, by what is seen in both.</summary>
    private static (Quaternion Turn, Vector3 Move) Lay(Track a, Track b, int offset, int start, int end)
    {
        var fit = default(FloorFit);
        for (var f = start; f < end; f++)
        {
            for (var j = 0; j < a.Count; j++)
            {
                var (p, q) = (a.Place(f, j), b.Place(f - offset, j));
                if (float.IsFinite(p.X + q.X))
                {
                    fit.Add([p], [q]);
                }
            }
        }

        return fit.Lay();
    }

    /// <summary>Places, [frame × count + joint], and turns away from rest where there are any.</summary>
    private sealed record Track(IReadOnlyList<string> Names, int Frames, double Rate, Vector3[] Places, Quaternion[]? Turns)
    {
        public int Count => Names.Count;

        public Vector3 Place(int frame, int joint) => Places[(frame * Count) + joint];

        public static Track Of(Motion m, BodyRole[] roles)
        {
            var turns = new Quaternion[m.Rotations.Length];
            var world = ForwardKinematics.WorldPositions(m, turns);
            var joints = roles.Select(m.Skeleton.IndexOf).ToArray();
            var (places, own) = (new Vector3[m.FrameCount * joints.Length], new Quaternion[m.FrameCount * joints.Length]);
            for (var k = 0; k < places.Length; k++)
            {
                var j = joints[k % joints.Length];
                var at = (k / joints.Length * m.Skeleton.Count) + j;
                (places[k], own[k]) = (world[at], turns[at] * Quaternion.Conjugate(m.Skeleton.RestRotations[j]));
            }

            return new Track([.. roles.Select(r => r.ToString())], m.FrameCount, m.FrameRate, places, own);
        }

        public static Track Of(MarkerTake take, string[] names)
        {
            var at = names.Select(n => take.Names.ToList().IndexOf(n)).ToArray();
            var places = new Vector3[take.FrameCount * at.Length];
            for (var k = 0; k < places.Length; k++)
            {
                var p = take[k / at.Length, at[k % at.Length]];
                places[k] = MarkerTake.Seen(p) ? p : new Vector3(float.NaN);
            }

            return new Track(names, take.FrameCount, take.FrameRate, places, null);
        }

        /// <summary>Mean speed of all, a frame each, m/s: the same wherever the performance lies and faces.</summary>
        public float[] Speeds()
        {
            var speeds = new float[Frames];
            for (var f = 1; f < Frames; f++)
            {
                var (sum, n) = (0f, 0);
                for (var j = 0; j < Count; j++)
                {
                    var d = Vector3.Distance(Place(f, j), Place(f - 1, j));
                    (sum, n) = float.IsFinite(d) ? (sum + d, n + 1) : (sum, n);
                }

                speeds[f] = n == 0 ? 0 : sum / n * (float)Rate;
            }

            if (Frames > 1)
            {
                speeds[0] = speeds[1];
            }

            return speeds;
        }
    }
}
