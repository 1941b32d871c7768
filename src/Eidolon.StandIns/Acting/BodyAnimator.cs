using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;
using Eidolon.StandIns.People;

namespace Eidolon.StandIns.Acting;

/// <summary>Turns a choreography into joint angles of a person's true skeleton.</summary>
internal sealed class BodyAnimator
{
    private const float Degree = MathF.PI / 180;
    private readonly Person _person;
    private readonly Skeleton _body;
    private readonly Choreography _c;
    private readonly float _rate;
    private readonly FootMotion[] _feet;
    private readonly HipPath _hips;
    private readonly Quaternion[] _world;
    private readonly Vector3[] _places;
    private readonly float[] _phase;
    private readonly float[][] _rise;
    private readonly float[] _drop;
    private float _time;

    public BodyAnimator(Person person, Choreography choreography, float rate)
    {
        (_person, _body, _c, _rate) = (person, person.Skeleton, choreography, rate);
        _feet =
        [
            .. "LR".Select(
                (s, i) => new FootMotion(_body, s, choreography.Feet[i], choreography.Lift[i], choreography.FootTurn[i], person.Stature)
            ),
        ];
        _hips = new HipPath(choreography, _feet, _body, rate);
        _world = new Quaternion[_body.Count];
        _places = new Vector3[_body.Count];
        var random = new Random(person.Seed * 31);
        _phase = [.. Enumerable.Range(0, 12).Select(_ => random.NextSingle() * MathF.Tau)];
        var n = _hips.Position.Length;
        _rise = [new float[n], new float[n]];
        _drop = new float[n];
        PlanReach();
    }

    public IReadOnlyList<FootMotion> Feet => _feet;

    public Motion Render()
    {
        var n = _hips.Position.Length;
        var motion = new Motion(_body, _rate, n);
        for (var f = 0; f < n; f++)
        {
            Pose(f);
            ForwardKinematics.Local(_body, _world, motion.RotationsAt(f));
            var t = motion.TranslationsAt(f);
            for (var j = 0; j < _body.Count; j++)
            {
                t[j] = j == 0 ? _places[0] : _body[j].Offset;
            }
        }

        return motion;
    }

    private int Index(BodyRole role) => _body.IndexOf(role);

    private void Place(BodyRole role, Quaternion world)
    {
        var j = Index(role);
        var p = _body.Parents[j];
        _world[j] = world;
        _places[j] = _places[p] + Vector3.Transform(_body[j].Offset, _world[p]);
    }

    private static Quaternion Euler(Vector3 degrees) =>
        Rotations.AboutAxis(1, degrees.Y * Degree)
        * Rotations.AboutAxis(0, degrees.X * Degree)
        * Rotations.AboutAxis(2, degrees.Z * Degree);

    private void Pose(int frame)
    {
        var t = frame / _rate;
        var (feet, pelvis, pelvisTurn, heading, stride) = Hips(frame);
        pelvis.Y -= _drop[frame];
        var sway = Sway(t);
        _world[0] = pelvisTurn;
        _places[0] = pelvis;
        _time = t;
        Trunk(t, stride, sway);
        Arm(0, t, -stride, heading);
        Arm(1, t, stride, heading);
        for (var i = 0; i < 2; i++)
        {
            PlaceLeg(i, feet[i], heading);
        }
    }

    /// <summary>The free side of the hips drops a few degrees; smoothed over the change of feet.</summary>
    private float LoadTilt(int frame)
    {
        float sum = 0,
            weight = 0;
        for (var k = -8; k <= 8; k++)
        {
            var t = Math.Max(0, (frame + (k * _rate / 80)) / _rate);
            var w = 9 - Math.Abs(k);
            sum += w * ((_feet[0].IsPlanted(t) ? 1 : 0) - (_feet[1].IsPlanted(t) ? 1 : 0));
            weight += w;
        }

        return sum / weight * 3.2f;
    }

    private Vector3 Sway(float t)
    {
        var l = _c.Liveliness;
        return new Vector3(
                (0.7f * MathF.Sin((0.31f * MathF.Tau * t) + _phase[0])) + (0.4f * MathF.Sin((0.83f * t) + _phase[1])),
                (0.9f * MathF.Sin((0.9f * t) + _phase[2])) + (0.5f * MathF.Sin((2.1f * t) + _phase[3])),
                (0.7f * MathF.Sin((1.3f * t) + _phase[4])) + (0.4f * MathF.Sin((0.57f * t) + _phase[5]))
            ) * l;
    }

    /// <summary>Feet, hips and heading of a frame before the hips are lowered into reach.</summary>
    private (FootState[] Feet, Vector3 Pelvis, Quaternion Turn, Quaternion Heading, float Stride) Hips(int frame)
    {
        var t = frame / _rate;
        FootState[] feet = [_feet[0].At(t, _rise[0][frame]), _feet[1].At(t, _rise[1][frame])];
        var heading = Rotations.AboutAxis(1, _hips.Yaw[frame]);
        var stride = Vector3.Transform(feet[0].Ankle - feet[1].Ankle, Quaternion.Conjugate(heading)).Z / (_person.Stature * 0.42f);
        stride = 1.2f * MathF.Tanh(stride / 1.2f);
        var hips = _c.Hips.At(t);
        var turn =
            heading
            * Euler(_c.HipTurn.At(t))
            * Euler(new Vector3(1.5f + (stride * stride * 0.8f), stride * -5, LoadTilt(frame)) + (Sway(t) * 0.5f));
        var pelvis = _hips.Position[frame] + Vector3.Transform(new Vector3(hips.X, 0, hips.Z), heading) + new Vector3(0, hips.Y, 0);
        return (feet, pelvis, turn, heading, stride);
    }

    /// <summary>
    /// Where a standing leg would not reach: late in the stance the heel rises for it, otherwise the hips sink; both smoothly and before they
    /// are needed.
    /// </summary>
    private void PlanReach()
    {
        var n = _drop.Length;
        for (var f = 0; f < n; f++)
        {
            var (feet, pelvis, turn, _, _) = Hips(f);
            for (var i = 0; i < 2; i++)
            {
                var fall = _feet[i].Current(f / _rate);
                if (
                    feet[i].Planted
                    && fall.ToeLast
                    && fall.Up - (f / _rate) < 0.45f * (fall.Up - MathF.Max(0, fall.Down))
                    && Over(i, feet[i], pelvis, turn) > 0
                )
                {
                    float low = 0,
                        high = 0.6f;
                    for (var k = 0; k < 18; k++)
                    {
                        var mid = (low + high) / 2;
                        (low, high) = Over(i, _feet[i].At(f / _rate, mid), pelvis, turn) > 0 ? (mid, high) : (low, mid);
                    }

                    _rise[i][f] = high;
                }
            }
        }

        _rise[0] = Envelope(_rise[0], 5);
        _rise[1] = Envelope(_rise[1], 5);
        for (var f = 0; f < n; f++)
        {
            var (feet, pelvis, turn, _, _) = Hips(f);
            for (var i = 0; i < 2; i++)
            {
                if (feet[i].Planted && Over(i, feet[i], pelvis, turn) > 0)
                {
                    var hip = pelvis + Vector3.Transform(_body[Thigh(i)].Offset, turn);
                    var line = feet[i].Ankle - hip;
                    var flat = (line.X * line.X) + (line.Z * line.Z);
                    var reach = Leg(i) * 0.9965f;
                    _drop[f] = MathF.Max(_drop[f], -line.Y - MathF.Sqrt(MathF.Max(0.01f, (reach * reach) - flat)));
                }
            }
        }

        var plan = Envelope(_drop, 9);
        plan.CopyTo(_drop, 0);
    }

    private int Thigh(int side) => Index(side == 0 ? BodyRole.ThighL : BodyRole.ThighR);

    private float Leg(int side) => _body[Thigh(side) + 1].Offset.Length() + _body[Thigh(side) + 2].Offset.Length();

    private float Over(int side, FootState foot, Vector3 pelvis, Quaternion turn) =>
        (foot.Ankle - (pelvis + Vector3.Transform(_body[Thigh(side)].Offset, turn))).Length() - (Leg(side) * 0.9965f);

    /// <summary>A smooth curve nowhere below the given one.</summary>
    private static float[] Envelope(float[] values, int radius)
    {
        var max = new Vector3[values.Length];
        for (var i = 0; i < values.Length; i++)
        {
            for (var k = Math.Max(0, i - (2 * radius)); k <= Math.Min(values.Length - 1, i + (2 * radius)); k++)
            {
                max[i].X = MathF.Max(max[i].X, values[k]);
            }
        }

        return Array.ConvertAll(HipPath.Smooth(max, radius * 0.7f), v => v.X);
    }

    private void Trunk(float t, float stride, Vector3 sway)
    {
        var spine =
            _c.Spine.At(t)
            + new Vector3(1 + (0.8f * MathF.Sin((0.25f * MathF.Tau * t) + _phase[6]) * _c.Liveliness), stride * 11, 0)
            + sway;
        spine.Z -= LoadTilt((int)(t * _rate)) * 1.1f;
        Place(BodyRole.SpineLower, _world[0] * Euler(spine * 0.3f));
        Place(BodyRole.SpineUpper, _world[Index(BodyRole.SpineLower)] * Euler(spine * 0.32f));
        Place(BodyRole.Chest, _world[Index(BodyRole.SpineUpper)] * Euler(spine * 0.38f));
        var head = _c.Head.At(t) - new Vector3(spine.X * 0.35f, stride * 6, spine.Z * 0.5f) - (sway * 0.6f);
        Place(BodyRole.Neck, _world[Index(BodyRole.Chest)] * Euler((head * 0.45f) + new Vector3(4, 0, 0)));
        Place(BodyRole.Head, _world[Index(BodyRole.Neck)] * Euler((head * 0.55f) - new Vector3(4, 0, 0)));
    }

    private void Arm(int side, float t, float swing, Quaternion heading)
    {
        var act = _c.Arms[side];
        var sign = side == 0 ? 1f : -1f;
        BodyRole Role(string stem) => Enum.Parse<BodyRole>(stem + (side == 0 ? "L" : "R"));
        var chest = _world[Index(BodyRole.Chest)];
        var bend = act.Bend.At(t);
        var wrist = act.Wrist.At(t);
        var direction = act.Direction.At(t);
        var walk = swing * act.Swing;
        direction += new Vector3(0, 0, 0.46f * walk);
        bend.X += MathF.Max(0, walk) * 16 * MathF.Min(1, MathF.Abs(act.Swing));
        direction.X *= sign;
        direction = Vector3.Normalize(direction);
        var raise = MathF.Max(0, direction.Y + 0.2f);
        Place(Role("Clavicle"), chest * Euler(new Vector3(0, sign * -8 * direction.Z, sign * ((14 * raise) + wrist.Z))));
        var upper = chest * Rotations.Between(new Vector3(sign, 0, 0), direction) * Rotations.AboutAxis(0, bend.Z * Degree);
        Place(Role("UpperArm"), upper);
        var shoulder = _places[Index(Role("UpperArm"))];
        var forearmTurn = upper * Rotations.AboutAxis(1, -sign * bend.X * Degree);
        var weight = act.GoalAt is null ? act.GoalWeight.Value(t) : Math.Max(act.GoalWeight.Value(t), 0);
        if (weight > 0.001f)
        {
            var goal = act.GoalAt?.Invoke(t) ?? act.Goal.At(t);
            (upper, forearmTurn) = Reach(
                side,
                upper,
                forearmTurn,
                shoulder,
                goal,
                weight,
                Vector3.Transform(act.ElbowPole * new Vector3(sign, 1, 1), heading)
            );
        }

        Place(Role("UpperArm"), upper);
        Place(Role("Forearm"), forearmTurn * Rotations.AboutAxis(0, bend.Y * Degree));
        var fore = _world[Index(Role("Forearm"))];
        Place(Role("Hand"), fore * Rotations.AboutAxis(2, -sign * wrist.X * Degree) * Rotations.AboutAxis(1, -sign * wrist.Y * Degree));
    }

    /// <summary>Both arm turns that bring the wrist towards its goal.</summary>
    private (Quaternion Upper, Quaternion Forearm) Reach(
        int side,
        Quaternion upper,
        Quaternion forearm,
        Vector3 shoulder,
        Vector3 goal,
        float weight,
        Vector3 pole
    )
    {
        var sign = side == 0 ? 1f : -1f;
        var a = _body[Index(side == 0 ? BodyRole.ForearmL : BodyRole.ForearmR)].Offset;
        var b = _body[Index(side == 0 ? BodyRole.HandL : BodyRole.HandR)].Offset;
        var limit = (a.Length() + b.Length()) * 0.992f;
        var line = goal - shoulder;
        var target = goal;
        // The elbow never snaps straight: near full length the goal is approached ever more slowly.
        const float from = 0.90f;
        var share = line.Length() / limit;
        target = share > from ? shoulder + (line * ((from + ((1 - from) * MathF.Tanh((share - from) / (1 - from)))) / share)) : target;
        var hint = Vector3.Normalize(pole);
        var elbow = TwoBoneIk.Middle(shoulder, target, hint, a.Length(), b.Length(), out var hand);
        Vector3 x1 = Vector3.Normalize(elbow - shoulder) * sign,
            x2 = Vector3.Normalize(hand - elbow) * sign;
        var u = Vector3.Normalize(hand - shoulder);
        var ahead = -(hint - (u * Vector3.Dot(hint, u)));
        var y = Vector3.Normalize(Vector3.Cross(Vector3.Normalize(ahead), u * sign));
        // Turns fade from the free arm to the reaching one, so that the elbow never has to choose a side half-way.
        var reachUpper = Rotations.FromAxes(x1, y, Vector3.Normalize(Vector3.Cross(x1, y)));
        var reachFore = Rotations.FromAxes(x2, y, Vector3.Normalize(Vector3.Cross(x2, y)));
        var newUpper = Rotations.Slerp(upper, reachUpper, weight);
        return (
            newUpper,
            newUpper * Rotations.Slerp(Quaternion.Conjugate(upper) * forearm, Quaternion.Conjugate(reachUpper) * reachFore, weight)
        );
    }

    /// <summary>A free leg never snaps straight: near its full length the goal is approached ever more slowly.</summary>
    private static Vector3 Soften(Vector3 hip, Vector3 ankle, float leg)
    {
        const float from = 0.985f;
        var line = ankle - hip;
        var share = line.Length() / leg;
        return share <= from ? ankle : hip + (line * ((from + (0.0145f * MathF.Tanh((share - from) / 0.0145f))) / share));
    }

    private void PlaceLeg(int side, FootState foot, Quaternion heading)
    {
        BodyRole Role(string stem) => Enum.Parse<BodyRole>(stem + (side == 0 ? "L" : "R"));
        var thigh = Index(Role("Thigh"));
        var hip = _places[0] + Vector3.Transform(_body[thigh].Offset, _world[0]);
        float l1 = _body[thigh + 1].Offset.Length(),
            l2 = _body[thigh + 2].Offset.Length();
        var toes = Vector3.Transform(Vector3.UnitZ, foot.Turn);
        var pole =
            Vector3.Transform(new Vector3(side == 0 ? 0.10f : -0.10f, 0, 1), heading)
            + (new Vector3(toes.X, MathF.Max(0, toes.Y), toes.Z) * 0.8f)
            + new Vector3(0, 0.15f, 0);
        var goal = Vector3.Lerp(foot.Ankle, Soften(hip, foot.Ankle, l1 + l2), _feet[side].Free(_time));
        var knee = TwoBoneIk.Middle(hip, goal, pole, l1, l2, out var ankle);
        var up = Vector3.Normalize(hip - ankle);
        var x = Vector3.Normalize(Vector3.Cross(up, pole));
        Quaternion Frame(Vector3 y) => Rotations.FromAxes(x, y, Vector3.Normalize(Vector3.Cross(x, y)));
        Place(Role("Thigh"), Frame(Vector3.Normalize(hip - knee)));
        Place(Role("Shin"), Frame(Vector3.Normalize(knee - ankle)));
        Place(Role("Foot"), foot.Turn);
        Place(Role("Toes"), foot.Turn * Rotations.AboutAxis(0, foot.Toes));
    }
}
