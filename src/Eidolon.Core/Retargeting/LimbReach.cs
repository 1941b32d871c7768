using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>Moves the end of an arm or leg to a goal by two-bone inverse kinematics, keeping the swivel the limb has.</summary>
internal readonly struct LimbReach
{
    /// <summary>
    /// A limb bent out of its line by less than the first share of its length tells nothing of where its elbow or knee looks; by more than the
    /// other it does.
    /// </summary>
    private const float Straight = 0.01f,
        Bent = 0.06f;

    private readonly int _upper;
    private readonly int _lower;
    private readonly int _end;
    private readonly Vector3 _looks;

    public LimbReach(Skeleton s, BodyRole upper, BodyRole lower, BodyRole end)
    {
        (_upper, _lower, _end) = (s.IndexOf(upper), s.IndexOf(lower), s.IndexOf(end));
        var ahead = upper is BodyRole.ThighL or BodyRole.ThighR ? Vector3.UnitZ : -Vector3.UnitZ;
        _looks = _upper < 0 ? ahead : Vector3.Transform(ahead, Quaternion.Conjugate(TPose.Of(s).Turns[_upper]));
    }

    public float Length(ReadOnlySpan<Vector3> p) => (p[_lower] - p[_upper]).Length() + (p[_end] - p[_lower]).Length();

    public (float Upper, float Lower) Lengths(ReadOnlySpan<Vector3> p) =>
        ((p[_lower] - p[_upper]).Length(), (p[_end] - p[_lower]).Length());

    public int Root => _upper;

    public int End => _end;

    /// <summary>
    /// Turns upper and lower bone in world space so that the end comes to <paramref name="goal"/>; returns how far it stays short, metres. Turn
    /// of the end joint itself is kept.
    /// </summary>
    public float Reach(Span<Quaternion> turns, Span<Vector3> places, Vector3 goal)
    {
        Vector3 a = places[_upper],
            b = places[_lower],
            c = places[_end];
        float l1 = (b - a).Length(),
            l2 = (c - b).Length();
        // The pole turns along with the limb, so that the knee keeps looking where it looked.
        var pole = Vector3.Transform(Pole(turns, places), Rotations.Between(c - a, goal - a));
        var middle = TwoBoneIk.Middle(a, goal, pole, l1, l2, out var reached);
        Turn(turns, places, middle, reached);
        return (goal - reached).Length();
    }

    /// <summary>Turns the limb about the line from its root to its end, so that elbow or knee comes nearer to a place; the end stays.</summary>
    /// <param name="share">0 not at all, 1 as near as it can.</param>
    public void Swivel(Span<Quaternion> turns, Span<Vector3> places, Vector3 goal, float share)
    {
        Vector3 a = places[_upper],
            b = places[_lower],
            c = places[_end];
        var length = (b - a).Length() + (c - b).Length();
        if ((c - a).LengthSquared() < 1e-8f)
        {
            return;
        }

        var line = Vector3.Normalize(c - a);
        var (from, to) = (Aside(b - a, line), Aside(goal - a, line));
        // On the line itself there is no side to turn to: near it the wish grows weak.
        share *= Ease(from.Length() / (length * Bent)) * Ease(to.Length() / (length * Bent));
        if (share <= 0)
        {
            return;
        }

        var angle = MathF.Atan2(Vector3.Dot(line, Vector3.Cross(from, to)), Vector3.Dot(from, to));
        var turn = Quaternion.CreateFromAxisAngle(line, angle * share);
        Turn(turns, places, a + Vector3.Transform(b - a, turn), c);
    }

    /// <summary>Draws elbow or knee itself to a place; what hangs below keeps its turns and is carried.</summary>
    public void Draw(Span<Quaternion> turns, Span<Vector3> places, Vector3 goal, float share)
    {
        Vector3 a = places[_upper],
            b = places[_lower],
            c = places[_end];
        var turn = Rotations.Slerp(Quaternion.Identity, Rotations.Between(b - a, goal - a), share);
        turns[_upper] = Quaternion.Normalize(turn * turns[_upper]);
        places[_lower] = a + Vector3.Transform(b - a, turn);
        places[_end] = places[_lower] + (c - b);
    }

    /// <summary>Local turns from the limb's new ones in the world; its end keeps its turn in the world, what else hangs from it goes along.</summary>
    /// <param name="carried">Everything from the limb's root down, parents first.</param>
    public void Settle(Skeleton s, ReadOnlySpan<int> carried, Span<Quaternion> turns, Span<Vector3> places, Span<Quaternion> local)
    {
        foreach (var j in carried)
        {
            var parent = s.Parents[j];
            var led = j == _upper || j == _lower || j == _end;
            turns[j] = led ? turns[j] : Quaternion.Normalize(turns[parent] * local[j]);
            local[j] = led ? Quaternion.Normalize(Quaternion.Conjugate(turns[parent]) * turns[j]) : local[j];
            places[j] = j == _upper ? places[j] : places[parent] + Vector3.Transform(s[j].Offset, turns[parent]);
        }
    }

    public (int Upper, int Lower, int End) Joints => (_upper, _lower, _end);

    private void Turn(Span<Quaternion> turns, Span<Vector3> places, Vector3 middle, Vector3 end)
    {
        Vector3 a = places[_upper],
            b = places[_lower],
            c = places[_end];
        var first = Rotations.Between(b - a, middle - a);
        turns[_upper] = Quaternion.Normalize(first * turns[_upper]);
        var carried = Vector3.Transform(c - b, first);
        turns[_lower] = Quaternion.Normalize(Rotations.Between(carried, end - middle) * first * turns[_lower]);
        (places[_lower], places[_end]) = (middle, end);
    }

    /// <summary>Where elbow or knee looks: where it is bent to, and where it would bend to the straighter the limb is.</summary>
    private Vector3 Pole(ReadOnlySpan<Quaternion> turns, ReadOnlySpan<Vector3> places)
    {
        Vector3 a = places[_upper],
            b = places[_lower],
            c = places[_end];
        var line = (c - a).LengthSquared() > 1e-10f ? Vector3.Normalize(c - a) : -Vector3.UnitY;
        var bend = Aside(b - a, line);
        var own = Aside(Vector3.Transform(_looks, turns[_upper]), line);
        own = own.LengthSquared() > 1e-8f ? Vector3.Normalize(own) : own;
        var length = (b - a).Length() + (c - b).Length();
        var share = Ease(((bend.Length() / length) - Straight) / (Bent - Straight));
        return bend.LengthSquared() < 1e-12f ? own : (Vector3.Normalize(bend) * share) + (own * (1 - share));
    }

    private static Vector3 Aside(Vector3 v, Vector3 line) => v - (line * Vector3.Dot(v, line));

    private static float Ease(float t)
    {
        t = Math.Clamp(t, 0, 1);
        return t * t * (3 - (2 * t));
    }
}
