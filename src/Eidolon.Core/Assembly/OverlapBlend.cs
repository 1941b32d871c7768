using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>The frames of one overlap: turns by slerp under a smooth weight, the pelvis in the world, each foot by its own way.</summary>
internal sealed class OverlapBlend
{
    private static readonly (BodyRole Thigh, BodyRole Shin, BodyRole Foot)[] Legs =
    [
        (BodyRole.ThighL, BodyRole.ShinL, BodyRole.FootL),
        (BodyRole.ThighR, BodyRole.ShinR, BodyRole.FootR),
    ];

    private readonly Motion _a;
    private readonly Motion _b;
    private readonly int _start;
    private readonly int _length;
    private readonly int _pelvis;
    private readonly Vector3[] _placesA;
    private readonly Vector3[] _placesB;
    private readonly Quaternion[] _turnsA;
    private readonly Quaternion[] _turnsB;

    /// <param name="a">The earlier motion; the overlap is its frames from <paramref name="start"/>.</param>
    /// <param name="b">The later one, laid; the overlap is its first frames.</param>
    public OverlapBlend(Motion a, int start, Motion b, int length)
    {
        (_a, _b, _start, _length) = (a, b, start, length);
        _pelvis = Math.Max(0, a.Skeleton.IndexOf(BodyRole.Pelvis));
        (_turnsA, _placesA) = World(a, start, length);
        (_turnsB, _placesB) = World(b, 0, length);
    }

    /// <summary>Writes the frames of the overlap.</summary>
    /// <param name="feetA">When the feet of the whole earlier motion stand; null where the body has no legs.</param>
    /// <param name="feetB">The same of the later one.</param>
    /// <returns>Sides whose foot was set anew.</returns>
    public string Into(Motion result, int at, PlantedFeet? feetA, PlantedFeet? feetB)
    {
        var s = _a.Skeleton;
        var n = s.Count;
        var paths = feetA is null || feetB is null ? [] : Legs.Select(l => Path(l.Foot, feetA, feetB)).ToArray();
        var (turns, places) = (new Quaternion[n], new Vector3[n]);
        for (var k = 0; k < _length; k++)
        {
            var w = CubicSpline.MinimumJerk((k + 1) / (float)(_length + 1));
            Body(result, at + k, k, w, turns, places);
            if (paths.Length == 0)
            {
                continue;
            }

            ForwardKinematics.World(result, at + k, turns, places);
            Lower(result, at + k, k, paths, turns, places);
            for (var leg = 0; leg < Legs.Length; leg++)
            {
                Reach(result, at + k, k, Legs[leg], paths[leg], turns, places);
            }
        }

        return string.Concat("LR".Where((_, leg) => leg < paths.Length && paths[leg].Stepped));
    }

    private static (Quaternion[] Turns, Vector3[] Places) World(Motion motion, int start, int length)
    {
        var n = motion.Skeleton.Count;
        var (turns, places) = (new Quaternion[length * n], new Vector3[length * n]);
        for (var k = 0; k < length; k++)
        {
            ForwardKinematics.World(motion, start + k, turns.AsSpan(k * n, n), places.AsSpan(k * n, n));
        }

        return (turns, places);
    }

    private FootPath Path(BodyRole foot, PlantedFeet feetA, PlantedFeet feetB)
    {
        var n = _a.Skeleton.Count;
        var j = _a.Skeleton.IndexOf(foot);
        var toes = _a.Skeleton.IndexOf(foot == BodyRole.FootL ? BodyRole.ToesL : BodyRole.ToesR) is >= 0 and var t ? t : j;
        Vector3[] Of(Vector3[] places, int joint) => [.. Enumerable.Range(0, _length).Select(k => places[(k * n) + joint])];
        var side = BodyRoles.Side(foot);
        return new FootPath(
            Of(_placesA, j),
            Of(_placesB, j),
            Of(_placesA, toes),
            Of(_placesB, toes),
            feetA.Of(side).AsSpan(_start, _length),
            feetB.Of(side).AsSpan(0, _length),
            _a.FrameRate
        );
    }

    /// <summary>Everything but the feet.</summary>
    private void Body(Motion result, int frame, int k, float w, Quaternion[] turns, Vector3[] places)
    {
        var s = _a.Skeleton;
        var n = s.Count;
        Span<Quaternion> r = result.RotationsAt(frame),
            ra = _a.RotationsAt(_start + k),
            rb = _b.RotationsAt(k);
        Span<Vector3> t = result.TranslationsAt(frame),
            ta = _a.TranslationsAt(_start + k),
            tb = _b.TranslationsAt(k);
        for (var j = 0; j < n; j++)
        {
            r[j] = Quaternion.Normalize(Rotations.Slerp(ra[j], rb[j], w));
            t[j] = Vector3.Lerp(ta[j], tb[j], w);
        }

        // The pelvis goes straight in the world, also where a root far away turns it.
        var turn = Quaternion.Normalize(Rotations.Slerp(_turnsA[(k * n) + _pelvis], _turnsB[(k * n) + _pelvis], w));
        var place = Vector3.Lerp(_placesA[(k * n) + _pelvis], _placesB[(k * n) + _pelvis], w);
        if (s.Parents[_pelvis] is >= 0 and var above)
        {
            ForwardKinematics.World(result, frame, turns, places);
            var back = Quaternion.Conjugate(turns[above]);
            (r[_pelvis], t[_pelvis]) = (Quaternion.Normalize(back * turn), Vector3.Transform(place - places[above], back));
        }
        else
        {
            (r[_pelvis], t[_pelvis]) = (turn, place);
        }
    }

    private Vector3 Goal(int k, BodyRole foot, FootPath path)
    {
        var at = (k * _a.Skeleton.Count) + _a.Skeleton.IndexOf(foot);
        return Vector3.Lerp(_placesA[at], _placesB[at], path.Share(k)) + (Vector3.UnitY * path.Lift(k));
    }

    /// <summary>The pelvis comes down as far as both legs need to reach.</summary>
    private void Lower(Motion result, int frame, int k, FootPath[] paths, Quaternion[] turns, Vector3[] places)
    {
        var s = _a.Skeleton;
        var down = 0f;
        for (var leg = 0; leg < Legs.Length; leg++)
        {
            var limb = new LimbReach(s, Legs[leg].Thigh, Legs[leg].Shin, Legs[leg].Foot);
            var longest = limb.Length(places) * .9995f;
            var to = Goal(k, Legs[leg].Foot, paths[leg]) - places[limb.Root];
            var flat = (to.X * to.X) + (to.Z * to.Z);
            if (to.LengthSquared() > longest * longest && flat < longest * longest)
            {
                down = MathF.Max(down, -to.Y - MathF.Sqrt((longest * longest) - flat));
            }
        }

        if (down <= 0)
        {
            return;
        }

        var above = s.Parents[_pelvis] is >= 0 and var p ? Quaternion.Conjugate(turns[p]) : Quaternion.Identity;
        result.TranslationsAt(frame)[_pelvis] -= Vector3.Transform(Vector3.UnitY * down, above);
        ForwardKinematics.World(result, frame, turns, places);
    }

    private void Reach(
        Motion result,
        int frame,
        int k,
        (BodyRole Thigh, BodyRole Shin, BodyRole Foot) leg,
        FootPath path,
        Quaternion[] turns,
        Vector3[] places
    )
    {
        var s = _a.Skeleton;
        var limb = new LimbReach(s, leg.Thigh, leg.Shin, leg.Foot);
        limb.Reach(turns, places, Goal(k, leg.Foot, path));
        var (upper, lower, foot) = limb.Joints;
        var at = (k * s.Count) + foot;
        turns[foot] = Quaternion.Normalize(Rotations.Slerp(_turnsA[at], _turnsB[at], path.Share(k)));
        var r = result.RotationsAt(frame);
        foreach (var j in new[] { upper, lower, foot })
        {
            r[j] = Quaternion.Normalize(Quaternion.Conjugate(turns[s.Parents[j]]) * turns[j]);
        }

        if (s.IndexOf(leg.Foot == BodyRole.FootL ? BodyRole.ToesL : BodyRole.ToesR) is >= 0 and var toes)
        {
            r[toes] = Quaternion.Normalize(Rotations.Slerp(_a.RotationsAt(_start + k)[toes], _b.RotationsAt(k)[toes], path.Share(k)));
        }
    }
}
