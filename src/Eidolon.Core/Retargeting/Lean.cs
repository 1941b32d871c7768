using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>
/// Shoulders, then the spine, go along with a hand that its arm alone does not bring to its place; the spine goes along with a held head.
/// </summary>
/// <remarks>
/// Each joint of the spine takes its share in turn (cyclic coordinate descent: Wang &amp; Chen 1991), so that no one of them bends by itself.
/// </remarks>
internal sealed class Lean
{
    /// <summary>
    /// A shoulder goes along by no more than this share of its collarbone, a body by no more than this share of the arm; its hips go along from the
    /// last one on.
    /// </summary>
    private const float ShoulderMost = 0.3f,
        BodyMost = 0.4f,
        EasyLean = 0.05f;

    private const int Rounds = 6;

    private readonly ArmOfBody[] _arms;
    private readonly Pivot[] _spine;
    private readonly Pivot _head;

    public Lean(Skeleton s)
    {
        Pivot Of(int joint) => new(joint, s.Branch(joint));
        _spine = [.. BodyRoles.Spine.Reverse().Select(s.IndexOf).Where(j => j >= 0).Select(Of)];
        _head = Of(s.IndexOf(BodyRole.Head));
        _arms =
        [
            .. LimbRoles.Arms.Select(a => new ArmOfBody(
                s.IndexOf(BodyRoles.Side(a.End) == 'L' ? BodyRole.ClavicleL : BodyRole.ClavicleR) is >= 0 and var clavicle
                    ? Of(clavicle)
                    : null,
                s.IndexOf(a.Upper),
                new LimbReach(s, a.Upper, a.Lower, a.End).Length(s.RestPositions)
            )),
        ];
    }

    /// <summary>How far a body goes along with an arm that is so much too short, metres.</summary>
    public float Most(BodyRole hand, float shortfall)
    {
        var most = BodyMost * Arm(hand).Length;
        return most * MathF.Tanh(shortfall / most);
    }

    /// <summary>How far a body leans before its hips go along, metres.</summary>
    public float Easily(BodyRole hand) => EasyLean * Arm(hand).Length;

    /// <summary>Brings both shoulders near enough to where their hands must be.</summary>
    /// <param name="goals">Left, right.</param>
    /// <param name="within">No farther than this, metres.</param>
    public void Shoulders(Span<Quaternion> turns, Span<Vector3> places, ReadOnlySpan<Vector3> goals, ReadOnlySpan<float> within)
    {
        for (var side = 0; side < 2; side++)
        {
            if (_arms[side].Clavicle is { } clavicle && Off(places, goals, within, side) is > 0 and var off)
            {
                var most = ShoulderMost * Vector3.Distance(places[_arms[side].Shoulder], places[clavicle.Joint]);
                Pull(turns, places, clavicle, _arms[side].Shoulder, goals[side], most * MathF.Tanh(off / MathF.Max(1e-5f, most)), 1);
            }
        }

        for (var round = 0; round < Rounds; round++)
        {
            foreach (var pivot in _spine)
            {
                for (var side = 0; side < 2; side++)
                {
                    if (Off(places, goals, within, side) is > 0 and var off)
                    {
                        Pull(turns, places, pivot, _arms[side].Shoulder, goals[side], off, 1f / _spine.Length);
                    }
                }
            }
        }
    }

    /// <summary>How much too far a shoulder is; never negative: an arm that asks for nothing must not hold the other one back.</summary>
    private float Off(ReadOnlySpan<Vector3> places, ReadOnlySpan<Vector3> goals, ReadOnlySpan<float> within, int side) =>
        MathF.Max(0, Vector3.Distance(goals[side], places[_arms[side].Shoulder]) - within[side]);

    /// <summary>Bends the spine so that the head comes to a place.</summary>
    /// <param name="share">0 not at all, 1 as near as it can.</param>
    public void Head(Span<Quaternion> turns, Span<Vector3> places, Vector3 goal, float share)
    {
        goal = Vector3.Lerp(places[_head.Joint], goal, share);
        for (var round = 0; round < 2 * Rounds; round++)
        {
            foreach (var pivot in _spine)
            {
                Pull(turns, places, pivot, _head.Joint, goal, Vector3.Distance(goal, places[_head.Joint]), 1);
            }
        }
    }

    /// <summary>Gives the head a turn in the world; what hangs from it goes along.</summary>
    public void Look(Span<Quaternion> turns, Span<Vector3> places, Quaternion turn) =>
        _head.Turn(turns, places, Quaternion.Normalize(turn * Quaternion.Conjugate(turns[_head.Joint])));

    /// <summary>Turns about a pivot so that a joint comes nearer to a goal by a share of a distance.</summary>
    private static void Pull(
        Span<Quaternion> turns,
        Span<Vector3> places,
        Pivot pivot,
        int joint,
        Vector3 goal,
        float distance,
        float share
    )
    {
        var r = places[joint] - places[pivot.Joint];
        var way = goal - places[joint];
        var (radius, length) = (r.LengthSquared(), way.Length());
        if (radius < 1e-8f || length < 1e-6f)
        {
            return;
        }

        var turn = Vector3.Cross(r, way * (distance / length)) * (share / radius);
        pivot.Turn(turns, places, Rotations.Exp(turn));
    }

    private ArmOfBody Arm(BodyRole hand) => _arms[BodyRoles.Side(hand) == 'L' ? 0 : 1];

    private sealed record ArmOfBody(Pivot? Clavicle, int Shoulder, float Length);

    /// <summary>A joint and all that hangs from it, itself first.</summary>
    private sealed record Pivot(int Joint, int[] Carried)
    {
        public void Turn(Span<Quaternion> turns, Span<Vector3> places, Quaternion turn)
        {
            var centre = places[Joint];
            foreach (var j in Carried)
            {
                turns[j] = Quaternion.Normalize(turn * turns[j]);
                places[j] = centre + Vector3.Transform(places[j] - centre, turn);
            }
        }
    }
}
