using System.Numerics;
using Eidolon.Core.Markers;
using Eidolon.Core.Optical;
using Eidolon.StandIns.Optical;
using Eidolon.StandIns.People;
using Eidolon.StandIns.Scenes;

namespace Eidolon.StandIns.Devices;

/// <summary>The stand-in camera ring: performs a scene again and again; each of its twelve cameras sends its 2D centroids.</summary>
public sealed class RingStandIn : StandInDevice
{
    /// <summary>What the ring can play besides the scenes: a wand is waved, the ground frame lies still.</summary>
    public const string WandScene = "wand-wave";
    public const string GroundScene = "ground-frame";
    private const int KnockedCamera = 3;
    private const int LostCamera = 6;
    private readonly Lock _lock = new();
    private readonly CameraRing _ring;
    private readonly CameraModel _knocked;
    private CentroidTake? _pictures;
    private double _seconds;
    private (string Scene, Person Person, int Take) _playing = (string.Empty, HarbourCast.Ines, 1);

    /// <param name="rate">Frames a second of every camera; scenes last whole beats, and so does a frame count of 30, 60, 100, 120 or 240.</param>
    public RingStandIn(int seed = 5, double rate = 120)
    {
        Rate = rate;
        _ring = HarbourRing.True(seed);
        _knocked = HarbourRing.Knock(_ring.Cameras[KnockedCamera], 0.35);
    }

    public override DeviceKind Kind => DeviceKind.Ring;

    public override double Rate { get; }

    public override int Sources => _ring.Count;

    /// <summary>The cameras as they truly are; only tests may look.</summary>
    public CameraRing Truth => _ring;

    public string Scene => _playing.Scene;

    /// <summary>Changes scene.</summary>
    public void Perform(string scene, Person person, int take)
    {
        var (pictures, seconds) = Pictures(scene, person, take, Broken("marker-off"));
        lock (_lock)
        {
            (_pictures, _seconds) = (pictures, seconds);
            _playing = (scene, person, take);
        }
    }

    public override int Payload(int source, double time, Span<byte> payload)
    {
        CentroidTake? pictures;
        int frame;
        lock (_lock)
        {
            pictures = _pictures;
            if (pictures is null)
            {
                return -1;
            }

            frame = Scenes.Frame(time, _seconds, Rate, pictures.FrameCount);
        }

        if (source == LostCamera && Broken("camera-lost"))
        {
            return -1;
        }

        ReadOnlySpan<float> u = pictures.UAt(frame, source),
            v = pictures.VAt(frame, source);
        return source == KnockedCamera && Broken("camera-knocked") ? Knocked(payload, u, v) : RingPayload.Write(payload, u, v);
    }

    protected override void OnFault(string fault)
    {
        if (fault == "marker-off" && _playing.Scene.Length > 0)
        {
            var (scene, person, take) = _playing;
            Perform(scene, person, take);
        }
    }

    protected override void OnMend() => OnFault("marker-off");

    /// <summary>The pictures of a scene as the ring takes them.</summary>
    public CentroidTake Pictures(string scene, Person person, int take) => Pictures(scene, person, take, false).Pictures;

    /// <summary>The same, and how long the scene lasts in seconds.</summary>
    private (CentroidTake Pictures, double Seconds) Pictures(string scene, Person person, int take, bool markerOff)
    {
        if (scene is WandScene or GroundScene)
        {
            var seconds = scene == WandScene ? 60 : 2;
            return (
                PictureSimulator.See(scene == WandScene ? WandWave.Wave(seconds, take, Rate) : WandWave.Ground(seconds, Rate), _ring, take),
                seconds
            );
        }

        var performance = SceneCatalog.Perform(scene, person, take, Rate);
        var truth = MarkerSimulator.TruthWithProps(performance, 0.006f);
        if (markerOff)
        {
            // The right elbow's outer marker has dropped to the floor.
            var m = Enumerable.Range(0, truth.MarkerCount).First(i => truth.Names[i].EndsWith("ElbowOutR", StringComparison.Ordinal));
            for (var f = 0; f < truth.FrameCount; f++)
            {
                truth[f, m] = truth[0, m] with { Y = 0.007f };
            }
        }

        return (PictureSimulator.See(performance, truth, _ring), performance.Seconds);
    }

    /// <summary>The same rays in the picture of the camera as it hangs after the knock.</summary>
    private int Knocked(Span<byte> payload, ReadOnlySpan<float> u, ReadOnlySpan<float> v)
    {
        var before = _ring.Cameras[KnockedCamera];
        Span<float> nu = stackalloc float[u.Length],
            nv = stackalloc float[u.Length];
        var n = 0;
        for (var k = 0; k < u.Length; k++)
        {
            var (x, y) = before.Undistort(u[k], v[k]);
            var d = _knocked.Rotation * (before.Rotation.Transposed * new Core.Geometry.Vector3d(x, y, 1));
            var (pu, pv) = _knocked.Distort(d.X / d.Z, d.Y / d.Z);
            if (pu >= 0 && pv >= 0 && pu < _knocked.Width && pv < _knocked.Height)
            {
                (nu[n], nv[n]) = ((float)pu, (float)pv);
                n++;
            }
        }

        return RingPayload.Write(payload, nu[..n], nv[..n]);
    }
}
