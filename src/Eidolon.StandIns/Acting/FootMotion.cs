using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.StandIns.Acting;

/// <summary>Ankle, turn and toe bend of one foot over time: planted feet roll over heel and ball and never slide.</summary>
internal sealed class FootMotion
{
    private const float StrikePitch = -0.34f;
    private const float ToeOffPitch = 0.72f;
    private readonly List<Footfall> _falls;
    private readonly Track _lift;
    private readonly Track _turn;
    private readonly float _ankle;
    private readonly Vector3 _ball;
    private readonly Vector3 _heel;

    public FootMotion(Skeleton body, char side, List<Footfall> falls, Track lift, Track turn, float stature)
    {
        (_falls, _lift, _turn) = (falls, lift, turn);
        _ankle = body.RestPositions[body.IndexOf(side == 'L' ? BodyRole.FootL : BodyRole.FootR)].Y;
        var toes = body[body.IndexOf(side == 'L' ? BodyRole.ToesL : BodyRole.ToesR)].Offset;
        // Pivots in the foot's frame: the ball's joint, which stays put while the heel rises, and the heel's underside.
        _ball = toes;
        _heel = new Vector3(0, -_ankle, -0.034f * stature);
    }

    /// <summary>State at a time; <paramref name="extraRise"/> lifts the heel of a planted foot further (radians) when the leg would not reach.</summary>
    public FootState At(float t, float extraRise = 0)
    {
        var i = _falls.FindLastIndex(f => f.Down <= t);
        i = Math.Max(0, i);
        var fall = _falls[i];
        return t <= fall.Up
            ? Planted(fall, t, extraRise)
            : Swing(fall, i + 1 < _falls.Count ? _falls[i + 1] : fall with { Down = fall.Up + 0.4f }, t);
    }

    /// <summary>0 while standing, rising to 1 in the middle of a swing.</summary>
    public float Free(float t)
    {
        var i = Math.Max(0, _falls.FindLastIndex(f => f.Down <= t));
        if (t <= _falls[i].Up)
        {
            return 0;
        }

        var next = i + 1 < _falls.Count ? _falls[i + 1].Down : float.PositiveInfinity;
        return CubicSpline.MinimumJerk(MathF.Min(t - _falls[i].Up, next - t) / 0.14f);
    }

    public bool IsPlanted(float t) => _falls.Exists(f => f.Down <= t && t <= f.Up);

    public Footfall Current(float t) => _falls[Math.Max(0, _falls.FindLastIndex(f => f.Down <= t))];

    public IReadOnlyList<Footfall> Falls => _falls;

    private FootState Planted(Footfall fall, float t, float extraRise)
    {
        var since = t - fall.Down;
        var left = fall.Up - t;
        var yaw = Rotations.AboutAxis(1, fall.Yaw);
        if (fall.HeelFirst && since < 0.10f)
        {
            var pitch = StrikePitch * (1 - CubicSpline.MinimumJerk(since / 0.10f));
            return Pivot(fall, yaw, pitch, _heel, 0);
        }

        var rise = fall.ToeLast && left < 0.24f ? ToeOffPitch * CubicSpline.MinimumJerk(1 - (left / 0.24f)) : 0;
        rise = MathF.Max(rise, extraRise);
        return rise > 0 ? Pivot(fall, yaw, rise, _ball, -rise) : Pivot(fall, yaw, 0, _heel, 0);
    }

    private FootState Pivot(Footfall fall, Quaternion yaw, float pitch, Vector3 pivot, float toes)
    {
        var world = fall.At + new Vector3(0, _ankle, 0) + Vector3.Transform(pivot, yaw);
        var turn = yaw * Rotations.AboutAxis(0, pitch);
        return new FootState(world - Vector3.Transform(pivot, turn), turn, toes, true);
    }

    private FootState Swing(Footfall from, Footfall to, float t)
    {
        var a = Planted(from, from.Up, 0);
        var b = Planted(to, to.Down, 0);
        var u = Math.Clamp((t - from.Up) / MathF.Max(0.02f, to.Down - from.Up), 0, 1);
        var ease = CubicSpline.MinimumJerk(u) * 0.6f + (u * u * (3 - (2 * u))) * 0.4f;
        var p = Vector3.Lerp(a.Ankle, b.Ankle, ease);
        var distance = (b.Ankle - a.Ankle).Length();
        var bump = MathF.Sin(MathF.PI * MathF.Pow(u, 0.8f));
        var climb = MathF.Abs(to.At.Y - from.At.Y);
        p.Y += bump * bump * (MathF.Min(0.05f, distance * 0.09f) + (climb * 0.75f));
        var lift = _lift.At(t);
        var yaw = Rotations.Slerp(Rotations.AboutAxis(1, from.Yaw), Rotations.AboutAxis(1, to.Yaw), ease);
        p += Vector3.Transform(lift, yaw);
        float Pitch(FootState s, Footfall f) => Rotations.Log(Quaternion.Conjugate(Rotations.AboutAxis(1, f.Yaw)) * s.Turn).X;
        // Toes clear the floor: the ankle straightens early in the swing.
        var pitch = float.Lerp(Pitch(a, from), Pitch(b, to), CubicSpline.MinimumJerk(MathF.Min(1, u * 1.5f)));
        var turn = _turn.At(t) * (MathF.PI / 180);
        var q = yaw * Rotations.AboutAxis(0, pitch + turn.X) * Rotations.AboutAxis(1, turn.Y) * Rotations.AboutAxis(2, turn.Z);
        return new FootState(p, q, a.Toes * (1 - CubicSpline.MinimumJerk(MathF.Min(1, u * 2.5f))), false);
    }
}
