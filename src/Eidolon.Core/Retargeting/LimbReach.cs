using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>Moves the end of an arm or leg to a goal by two-bone inverse kinematics, keeping the swivel the limb has.</summary>
internal readonly struct LimbReach
{
    private readonly int _upper;
    private readonly int _lower;
    private readonly int _end;

    public LimbReach(Skeleton s, BodyRole upper, BodyRole lower, BodyRole end) =>
        (_upper, _lower, _end) = (s.IndexOf(upper), s.IndexOf(lower), s.IndexOf(end));

    public float Length(ReadOnlySpan<Vector3> p) => (p[_lower] - p[_upper]).Length() + (p[_end] - p[_lower]).Length();

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
        var line = Vector3.Normalize(c - a);
        var bend = (b - a) - (line * Vector3.Dot(b - a, line));
        // The pole turns along with the limb, so that the knee keeps looking where it looked.
        var swing = Rotations.Between(c - a, goal - a);
        var pole = bend.LengthSquared() > 1e-9f ? Vector3.Transform(bend, swing) : Vector3.Transform(Vector3.UnitZ, turns[_upper]);
        var middle = TwoBoneIk.Middle(a, goal, pole, l1, l2, out var reached);
        var first = Rotations.Between(b - a, middle - a);
        turns[_upper] = Quaternion.Normalize(first * turns[_upper]);
        var carried = Vector3.Transform(c - b, first);
        turns[_lower] = Quaternion.Normalize(Rotations.Between(carried, reached - middle) * first * turns[_lower]);
        (places[_lower], places[_end]) = (middle, reached);
        return (goal - reached).Length();
    }

    public (int Upper, int Lower, int End) Joints => (_upper, _lower, _end);
}
