using System.Collections.Concurrent;
using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Hands;
using Eidolon.Core.Markers;
using Eidolon.Core.Skeletons;
using Eidolon.Core.Solving;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.Core.Tests.Hands;

/// <summary>The scene of hands and face by several people, solved once a test run.</summary>
internal sealed class Signals
{
    private static readonly ConcurrentDictionary<string, Lazy<Signals>> Known = new();

    private Signals(Person person)
    {
        Scene = Acts.Perform("signal-wave", person, 1, 60);
        Set = HarbourMarkers.Set(hands: true);
        Seen = Acts.Labelled(Scene);
        var rom = Acts.Labelled(Acts.Perform("rom", person, 1, 60));
        Performer = PerformerCalibration.Calibrate(person.Name, rom, Set).Performer;
        Body = TakeSolver.Solve(Performer, Seen).Motion;
    }

    public Performance Scene { get; }

    public MarkerSet Set { get; }

    public MarkerTake Seen { get; }

    public Performer Performer { get; }

    public Motion Body { get; }

    public Motion Truth => Scene.Actors[0].Motion;

    public static Signals By(Person person) => Known.GetOrAdd(person.Name, _ => new(() => new Signals(person))).Value;

    /// <summary>Bends of a finger's joints in a motion, degrees, as its own chain has them.</summary>
    public static FingerPose PoseOf(Motion motion, HandShape shape, int finger, int frame)
    {
        var s = motion.Skeleton;
        var r = motion.RotationsAt(frame);
        int At(int k) => s.IndexOf(HandShape.Joint(shape.Side, finger, k));
        return shape.Fingers[finger].Nearest(r[At(1)], r[At(2)], r[At(3)]);
    }

    /// <summary>RMS of all fingers' joint turns against the truth, degrees; and the worst finger's, and of the tips in the hand, millimetres.</summary>
    public (double All, double Worst, double Tip) Against(Motion found)
    {
        var sums = new double[HandPoses.Fingers];
        double tips = 0;
        var n = 0;
        Span<Vector3> a = new Vector3[4],
            b = new Vector3[4];
        for (var f = 0; f < Truth.FrameCount; f += 3, n++)
        {
            for (var i = 0; i < HandPoses.Fingers; i++)
            {
                var (side, finger) = ("LR"[i / 5], i % 5);
                for (var k = 1; k <= 3; k++)
                {
                    var role = HandShape.Joint(side, finger, k);
                    var angle = Rotations.Angle(
                        Truth.RotationsAt(f)[Truth.Skeleton.IndexOf(role)],
                        found.RotationsAt(f)[found.Skeleton.IndexOf(role)]
                    );
                    sums[i] += angle * angle / 3;
                }

                Tips(Truth, side, finger, f, a);
                Tips(found, side, finger, f, b);
                tips += (a[3] - b[3]).LengthSquared();
            }
        }

        double Degrees(double sum, int count) => Math.Sqrt(sum / count) * 180 / Math.PI;
        return (Degrees(sums.Sum(), n * HandPoses.Fingers), Degrees(sums.Max(), n), Math.Sqrt(tips / (n * HandPoses.Fingers)) * 1000);
    }

    /// <summary>RMS of every finger's joint turns, degrees: left thumb first.</summary>
    public string PerFinger(Motion found) =>
        string.Join(
            " ",
            Enumerable
                .Range(0, HandPoses.Fingers)
                .Select(i =>
                {
                    var words = new List<string>();
                    for (var k = 1; k <= 3; k++)
                    {
                        var role = HandShape.Joint("LR"[i / 5], i % 5, k);
                        int a = Truth.Skeleton.IndexOf(role),
                            b = found.Skeleton.IndexOf(role);
                        var rms = Math.Sqrt(
                            Enumerable
                                .Range(0, Truth.FrameCount)
                                .Average(f => Math.Pow(Rotations.Angle(Truth.RotationsAt(f)[a], found.RotationsAt(f)[b]), 2))
                        );
                        words.Add($"{rms * 180 / Math.PI:0}");
                    }

                    return $"{HandShape.Names[i % 5]} {string.Join('/', words)}";
                })
        );

    private static void Tips(Motion m, char side, int finger, int frame, Span<Vector3> four)
    {
        var (s, turn, at) = (m.Skeleton, Quaternion.Identity, Vector3.Zero);
        for (var k = 1; k <= 3; k++)
        {
            var j = s.IndexOf(HandShape.Joint(side, finger, k));
            at += Vector3.Transform(s[j].Offset, turn);
            turn *= m.RotationsAt(frame)[j];
            four[3] = at + Vector3.Transform(s[j].EndSite ?? Vector3.Zero, turn);
        }
    }
}
