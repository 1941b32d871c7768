using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>The frames of one overlap: turns by slerp under a smooth weight, the pelvis in the world, each foot by its own way.</summary>
internal sealed class OverlapBlend
{
    private readonly Motion _a;
    private readonly Motion _b;
    private readonly int _start;
    private readonly int _length;
    private readonly int _pelvis;
    private readonly OverlapShape _shape;
    private readonly BlendPart[] _parts;
    private readonly bool[] _far;
    private readonly Vector3[] _placesA;
    private readonly Vector3[] _placesB;
    private readonly Quaternion[] _turnsA;
    private readonly Quaternion[] _turnsB;

    /// <param name="a">The earlier motion; the overlap is its frames from <paramref name="start"/>.</param>
    /// <param name="b">The later one, laid; the overlap is its first frames.</param>
    public OverlapBlend(Motion a, int start, Motion b, int length, OverlapShape? shape = null)
    {
        (_a, _b, _start, _length) = (a, b, start, length);
        (_shape, _parts) = (shape ?? OverlapShape.Usual, OverlapShape.PartsOf(a.Skeleton));
        _pelvis = Math.Max(0, a.Skeleton.IndexOf(BodyRole.Pelvis));
        (_turnsA, _placesA) = World(a, start, length);
        (_turnsB, _placesB) = World(b, 0, length);
        _far = Ways();
    }

    /// <summary>
    /// Where a later turn has to change its sign so that a joint goes the same way round through the whole overlap: the shorter one in its middle. A way
    /// chosen frame by frame jumps where both clips are half a turn apart.
    /// </summary>
    private bool[] Ways()
    {
        var n = _a.Skeleton.Count;
        var far = new bool[_length * n];
        for (var j = 0; j < n && _length > 0; j++)
        {
            Quaternion Apart(int k) => Quaternion.Conjugate(_a.Rotations[((_start + k) * n) + j]) * _b.Rotations[(k * n) + j];
            var middle = _length / 2;
            for (var (k, last) = (middle, Quaternion.Identity); k < _length; k++)
            {
                last = Kept(k, last, Apart(k));
            }

            for (var (k, last) = (middle - 1, far[(middle * n) + j] ? -Apart(middle) : Apart(middle)); k >= 0; k--)
            {
                last = Kept(k, last, Apart(k));
            }

            Quaternion Kept(int k, Quaternion last, Quaternion apart)
            {
                far[(k * n) + j] = Quaternion.Dot(apart, last) < 0;
                return far[(k * n) + j] ? -apart : apart;
            }
        }

        return far;
    }

    /// <summary>Writes the frames of the overlap.</summary>
    /// <param name="feetA">When the feet of the whole earlier motion stand; null where the body has no legs.</param>
    /// <param name="feetB">The same of the later one.</param>
    /// <param name="seen">When they stand in what was written before, frames of the overlap; null: feet go as they are blended, also where they stand.</param>
    /// <param name="rest">How long a foot takes to come to rest, seconds.</param>
    /// <returns>Sides whose foot was set anew.</returns>
    public string Into(Motion result, int at, PlantedFeet? feetA, PlantedFeet? feetB, PlantedFeet? seen, double rest)
    {
        var s = _a.Skeleton;
        var n = s.Count;
        var paths = feetA is null || feetB is null ? [] : LimbRoles.WithToes.Select(l => Path(l.Foot, feetA, feetB)).ToArray();
        var feet = paths
            .Select(
                (p, leg) =>
                    Steady(LimbRoles.WithToes[leg].Foot, LimbRoles.WithToes[leg].Toes, p, (feetA!, feetB!, seen), rest * _a.FrameRate)
            )
            .ToArray();
        var (turns, places) = (new Quaternion[n], new Vector3[n]);
        for (var k = 0; k < _length; k++)
        {
            Body(result, at + k, k, turns, places);
            if (paths.Length == 0)
            {
                continue;
            }

            ForwardKinematics.World(result, at + k, turns, places);
            Lower(result, at + k, k, feet, turns, places);
            for (var leg = 0; leg < LimbRoles.WithToes.Length; leg++)
            {
                Reach(result, at + k, k, LimbRoles.WithToes[leg], paths[leg], feet[leg], turns, places);
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
    private void Body(Motion result, int frame, int k, Quaternion[] turns, Vector3[] places)
    {
        var along = (k + 1) / (float)(_length + 1);
        var trunk = _shape.Weight(BlendPart.Trunk, along);
        Span<float> weights =
        [
            trunk,
            _shape.Weight(BlendPart.Head, along),
            _shape.Weight(BlendPart.ArmL, along),
            _shape.Weight(BlendPart.ArmR, along),
        ];
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
            var w = weights[(int)_parts[j]];
            r[j] = Rotations.SlerpAlong(ra[j], _far[(k * n) + j] ? -rb[j] : rb[j], w);
            t[j] = Vector3.Lerp(ta[j], tb[j], w);
        }

        // The pelvis goes straight in the world, also where a root far away turns it.
        var turn = Quaternion.Normalize(Rotations.Slerp(_turnsA[(k * n) + _pelvis], _turnsB[(k * n) + _pelvis], trunk));
        var place = Vector3.Lerp(_placesA[(k * n) + _pelvis], _placesB[(k * n) + _pelvis], trunk);
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

    private SteadyFoot Steady(
        BodyRole foot,
        BodyRole toes,
        FootPath path,
        (PlantedFeet A, PlantedFeet B, PlantedFeet? Seen) feet,
        double rest
    )
    {
        var (s, n) = (_a.Skeleton, _a.Skeleton.Count);
        var (j, t) = (s.IndexOf(foot), s.IndexOf(toes));
        var (ankle, turn) = (new Vector3[_length], new Quaternion[_length]);
        for (var k = 0; k < _length; k++)
        {
            var at = (k * n) + j;
            ankle[k] = Vector3.Lerp(_placesA[at], _placesB[at], path.Share(k)) + (Vector3.UnitY * path.Lift(k));
            turn[k] = Quaternion.Normalize(Rotations.Slerp(_turnsA[at], _turnsB[at], path.Share(k)));
        }

        if (feet.Seen is not { } seen)
        {
            return SteadyFoot.As(ankle, turn);
        }

        SteadyFoot.End? At(Motion motion, int frame, PlantedFeet stands)
        {
            if (frame < 0 || frame >= motion.FrameCount)
            {
                return null;
            }

            var (_, places) = World(motion, frame, 1);
            return new SteadyFoot.End(places[j], places[t < 0 ? j : t], stands.Of(foot)[frame], stands.Of(toes)[frame]);
        }

        (bool[] A, bool[] B, bool[] Seen) Stands(BodyRole role) =>
            (feet.A.Of(role)[_start..(_start + _length)], feet.B.Of(role)[.._length], seen.Of(role));
        return SteadyFoot.Of(
            path,
            ankle,
            turn,
            t < 0 ? Vector3.Zero : s[t].Offset,
            Stands(foot),
            Stands(toes),
            At(_a, _start - 1, feet.A),
            At(_b, _length, feet.B),
            rest,
            _a.FrameRate
        );
    }

    /// <summary>The pelvis comes down as far as both legs need to reach.</summary>
    private void Lower(Motion result, int frame, int k, SteadyFoot[] feet, Quaternion[] turns, Vector3[] places)
    {
        var s = _a.Skeleton;
        var down = 0f;
        for (var leg = 0; leg < LimbRoles.WithToes.Length; leg++)
        {
            var limb = new LimbReach(s, LimbRoles.WithToes[leg].Thigh, LimbRoles.WithToes[leg].Shin, LimbRoles.WithToes[leg].Foot);
            var longest = limb.Length(places) * .9995f;
            var to = feet[leg].Ankle(k) - places[limb.Root];
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
        (BodyRole Thigh, BodyRole Shin, BodyRole Foot, BodyRole Toes) leg,
        FootPath path,
        SteadyFoot steady,
        Quaternion[] turns,
        Vector3[] places
    )
    {
        var s = _a.Skeleton;
        var limb = new LimbReach(s, leg.Thigh, leg.Shin, leg.Foot);
        limb.Reach(turns, places, steady.Ankle(k));
        var (upper, lower, foot) = limb.Joints;
        turns[foot] = steady.Turn(k);
        var r = result.RotationsAt(frame);
        foreach (var j in new[] { upper, lower, foot })
        {
            r[j] = Quaternion.Normalize(Quaternion.Conjugate(turns[s.Parents[j]]) * turns[j]);
        }

        if (s.IndexOf(leg.Toes) is >= 0 and var toes)
        {
            r[toes] = Quaternion.Normalize(Rotations.Slerp(_a.RotationsAt(_start + k)[toes], _b.RotationsAt(k)[toes], path.Share(k)));
        }
    }
}
