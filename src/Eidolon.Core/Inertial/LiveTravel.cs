using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Inertial;

/// <summary>
/// Carries a posed body through the room while it happens: the lowest part of the feet stands where it stood; ground near in height to ground
/// stood on before is the same.
/// </summary>
internal sealed class LiveTravel
{
    /// <summary>Another part of the feet takes over when it is lower by so much, metres.</summary>
    private const float Lower = 0.006f;

    /// <summary>A foot that turns is as good as so much higher, metres a rad/s; its toes, about which it rolls, by that share.</summary>
    private const float Turning = 0.015f,
        Rolling = 0.4f;

    /// <summary>Ground within this height of the ground that is stood on is the same ground, metres.</summary>
    private const float SameGround = 0.07f;

    /// <summary>How fast heights follow when the ground changes, seconds.</summary>
    private const double HeightSeconds = 0.08;

    private readonly Skeleton _body;
    private readonly (int Joint, int Side, float Turning)[] _joints;
    private int _support = -1;
    private Vector3 _anchor;
    private float _ground;
    private float _lift;

    public LiveTravel(Skeleton body)
    {
        _body = body;
        _joints =
        [
            .. new[]
            {
                (body.IndexOf(BodyRole.FootL), 0, Turning),
                (body.IndexOf(BodyRole.FootR), 1, Turning),
                (body.IndexOf(BodyRole.ToesL), 0, Turning * Rolling),
                (body.IndexOf(BodyRole.ToesR), 1, Turning * Rolling),
            }.Where(j => j.Item1 >= 0),
        ];
        Root = body.RestPositions[0];
    }

    /// <summary>Where the first joint is, metres.</summary>
    public Vector3 Root { get; private set; }

    /// <param name="places">World places of all joints with the first one at the origin.</param>
    /// <param name="spins">How fast the left and the right foot turn, rad/s.</param>
    /// <param name="seconds">Since the last frame.</param>
    public void Step(ReadOnlySpan<Vector3> places, (double Left, double Right) spins, double seconds)
    {
        if (_joints.Length == 0)
        {
            return;
        }

        float High(int k, ReadOnlySpan<Vector3> at) => at[_joints[k].Joint].Y - _body.RestPositions[_joints[k].Joint].Y;
        float Loose(int k, ReadOnlySpan<Vector3> at) =>
            High(k, at) + (_joints[k].Turning * (float)(_joints[k].Side == 0 ? spins.Left : spins.Right));
        var best = 0;
        for (var k = 1; k < _joints.Length; k++)
        {
            best = Loose(k, places) < Loose(best, places) ? k : best;
        }

        if (_support < 0)
        {
            (_support, _anchor) = (best, _body.RestPositions[_joints[best].Joint]);
        }
        else if (best != _support && Loose(best, places) < Loose(_support, places) - Lower)
        {
            // It stands where it is now, on the ground that is there.
            var root = _anchor - places[_joints[_support].Joint];
            var here = root.Y + High(best, places);
            var ground = MathF.Abs(here - _ground) < SameGround ? _ground : here;
            _lift += here - ground;
            _ground = ground;
            _support = best;
            _anchor = root + places[_joints[best].Joint];
            _anchor.Y = ground + _body.RestPositions[_joints[best].Joint].Y;
        }

        // What the height jumped by is taken back little by little.
        _lift -= _lift * (float)Math.Min(1, seconds / HeightSeconds);
        Root = _anchor - places[_joints[_support].Joint] + new Vector3(0, _lift, 0);
    }
}
