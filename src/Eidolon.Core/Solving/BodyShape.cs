using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Solving;

/// <summary>
/// The unknowns of a body: joint offsets (a length along a fixed direction for limbs, three numbers elsewhere) and marker offsets,
/// with what is likely about them: average proportions, left like right, markers near where they were seen.
/// </summary>
internal sealed class BodyShape
{
    /// <summary>How much left and right bones differ, metres.</summary>
    private const double SidesSpread = 0.004;

    /// <summary>How far from a hinge's axis the middle of two markers beside it lies, metres.</summary>
    private const double FlankSpread = 0.010;

    /// <summary>
    /// The same at the wrist: a hand turns about the head of the capitate, a finger's width beyond the two knobs of the forearm (Neu, Crisco and
    /// Wolfe 2001), so that they say little where the hand's own turns can be told.
    /// </summary>
    private const double WristFlankSpread = 0.030;

    /// <summary>The same at the ball of the foot, which turns too little in most takes to be found otherwise.</summary>
    private const double ToesFlankSpread = 0.004;

    /// <summary>How far the far joint of a limb's bone lies off the plane square to its bend, metres.</summary>
    private const double AsideSpread = 0.03;

    private readonly List<Term> _terms = [];
    private readonly List<(int A, int B, double Sign, double Weight)> _pairs = [];
    private readonly List<(int Joint, int A, int B, double Sign, double Weight)> _flanks = [];
    private readonly Skeleton _skeleton;
    private readonly double[] _mean;
    private readonly double[] _weight;

    public BodyShape(Skeleton skeleton, IReadOnlyList<PerformerMarker> markers, IReadOnlyList<double> markerSpread, double markerSigma)
    {
        _skeleton = skeleton;
        var firstOf = new int[skeleton.Count];
        for (var j = 0; j < skeleton.Count; j++)
        {
            firstOf[j] = _terms.Count;
            if (j == 0)
            {
                continue;
            }

            if (BodyRoles.EndsLongBone(skeleton[j].Role))
            {
                var (along, aside) = LimbAxes(skeleton[j].Offset);
                _terms.Add(new Term(j, -1, Rotations.Axis(along) * MathF.Sign(skeleton[j].Offset[along])));
                _terms.Add(new Term(j, -1, Rotations.Axis(aside)));
                continue;
            }

            for (var a = 0; a < 3; a++)
            {
                _terms.Add(new Term(j, -1, Rotations.Axis(a)));
            }
        }

        JointTerms = _terms.Count;
        for (var i = 0; i < markers.Count; i++)
        {
            for (var a = 0; a < 3; a++)
            {
                _terms.Add(new Term(-1, i, Rotations.Axis(a)));
            }
        }

        Count = _terms.Count;
        Values = new double[Count];
        _mean = new double[Count];
        _weight = new double[Count];
        SetPriors(skeleton, markers, markerSpread, markerSigma);
        PairSides(skeleton, firstOf, markerSigma);
        FindFlanks(skeleton, markers, firstOf, markerSigma);
    }

    public int Count { get; }

    public int JointTerms { get; }

    public double[] Values { get; }

    public ReadOnlySpan<Term> Terms => System.Runtime.InteropServices.CollectionsMarshal.AsSpan(_terms);

    public BodyRole RoleOf(int joint) => _skeleton[joint].Role ?? BodyRole.Root;

    public void ApplyTo(ArticulatedModel model)
    {
        for (var j = 1; j < model.JointCount; j++)
        {
            model.Offsets[j] = default;
        }

        Array.Clear(model.MarkerOffsets);
        for (var k = 0; k < Count; k++)
        {
            var t = _terms[k];
            var v = (Vector3d)t.Direction * Values[k];
            if (t.Joint >= 0)
            {
                model.Offsets[t.Joint] += v;
            }
            else
            {
                model.MarkerOffsets[t.Marker] += v;
            }
        }
    }

    /// <summary>Cost of the shape alone; adds its equations when asked.</summary>
    public double Prior(double scale, double[]? hessian, double[]? gradient)
    {
        double cost = 0;
        for (var k = 0; k < Count; k++)
        {
            var e = Values[k] - _mean[k];
            var w = _weight[k] * scale;
            cost += w * e * e;
            if (hessian is not null)
            {
                hessian[(k * Count) + k] += w;
                gradient![k] += w * e;
            }
        }

        foreach (var (a, b, sign, weight) in _pairs)
        {
            var e = Values[a] - (sign * Values[b]);
            var w = weight * scale;
            cost += w * e * e;
            if (hessian is not null)
            {
                hessian[(a * Count) + a] += w;
                hessian[(b * Count) + b] += w;
                hessian[(Math.Max(a, b) * Count) + Math.Min(a, b)] -= w * sign;
                gradient![a] += w * e;
                gradient[b] -= w * sign * e;
            }
        }

        foreach (var (joint, a, b, sign, weight) in _flanks)
        {
            var e = Values[joint] - (0.5 * sign * (Values[a] + Values[b]));
            var w = weight * scale;
            cost += w * e * e;
            if (hessian is not null)
            {
                Span<(int Term, double Slope)> slopes = [(joint, 1), (a, -0.5 * sign), (b, -0.5 * sign)];
                foreach (var (i, si) in slopes)
                {
                    gradient![i] += w * e * si;
                    foreach (var (k, sk) in slopes)
                    {
                        if (k <= i)
                        {
                            hessian[(i * Count) + k] += w * si * sk;
                        }
                    }
                }
            }
        }

        return 0.5 * cost;
    }

    private void SetPriors(
        Skeleton skeleton,
        IReadOnlyList<PerformerMarker> markers,
        IReadOnlyList<double> markerSpread,
        double markerSigma
    )
    {
        double Weight(double spread) => markerSigma / spread * (markerSigma / spread);
        for (var k = 0; k < Count; k++)
        {
            var t = _terms[k];
            if (t.Joint >= 0)
            {
                var offset = skeleton[t.Joint].Offset;
                Values[k] = Vector3.Dot(offset, t.Direction);
                _weight[k] = Weight(Spread(RoleOf(t.Joint), offset, t.Direction));
            }
            else
            {
                Values[k] = Vector3.Dot(markers[t.Marker].Offset, t.Direction);
                _weight[k] = Weight(markerSpread[t.Marker]);
            }

            _mean[k] = Values[k];
        }
    }

    /// <summary>
    /// Which way a limb's bone runs in the T-pose, and the axis its far joint bends about. A bone need not stand square to that axis: knees of real
    /// people are a few degrees off it (Hsu, Himeno, Coventry and Chao 1990). The third way is where the T-pose's zero of turns lies.
    /// </summary>
    private static (int Along, int Aside) LimbAxes(Vector3 offset) => MathF.Abs(offset.X) > MathF.Abs(offset.Y) ? (0, 1) : (1, 0);

    /// <summary>How far a joint lies from where average proportions put it, metres.</summary>
    /// <param name="offset">Its average place in its parent's frame, metres.</param>
    /// <param name="direction">The axis that is asked for.</param>
    private static double Spread(BodyRole role, Vector3 offset, Vector3 direction)
    {
        var along = Math.Abs(Vector3.Dot(offset, direction)) > 0.5 * offset.Length();
        return BodyRoles.EndsLongBone(role)
            ? (along ? 0.30 * offset.Length() : AsideSpread)
            : BodyRoles.Stem(role) switch
            {
                // Where the pelvis itself is, between the hips and the spine, no marker tells: the hips say it. How wide they are is found.
                "Thigh" => direction.X == 0 ? 0.004 : 0.02,
                "UpperArm" => 0.02,
                "Neck" or "Head" => 0.02,
                "Toes" or "Clavicle" or "SpineLower" => 0.01,
                _ => along ? Math.Max(0.01, 0.10 * offset.Length()) : 0.008,
            };
    }

    private void PairSides(Skeleton skeleton, int[] firstOf, double markerSigma)
    {
        for (var j = 1; j < skeleton.Count; j++)
        {
            if (skeleton[j].Role is not { } role || BodyRoles.Side(role) != 'L')
            {
                continue;
            }

            var other = skeleton.IndexOf(BodyRoles.Mirror(role));
            for (var k = 0; other >= 0 && firstOf[j] + k < JointTerms && _terms[firstOf[j] + k].Joint == j; k++)
            {
                var d = _terms[firstOf[j] + k].Direction;
                var e = _terms[firstOf[other] + k].Direction;
                var sign = Vector3.Dot(new Vector3(-d.X, d.Y, d.Z), e) >= 0 ? 1 : -1;
                _pairs.Add((firstOf[j] + k, firstOf[other] + k, sign, markerSigma / SidesSpread * (markerSigma / SidesSpread)));
            }
        }
    }

    /// <summary>
    /// Two markers taped on either side of a hinge stand level with its axis: where a bone carries such a pair at its far end,
    /// their mean is a measurement of the bone's length.
    /// </summary>
    private void FindFlanks(Skeleton skeleton, IReadOnlyList<PerformerMarker> markers, int[] firstOf, double markerSigma)
    {
        for (var j = 1; j < skeleton.Count; j++)
        {
            var along = skeleton[j].Offset;
            var length = along.Length();
            var (lengthways, aside) = LimbAxes(along);
            var axis = RoleOf(j) is BodyRole.ToesL or BodyRole.ToesR ? 2 : lengthways;
            var limb = BodyRoles.EndsLongBone(skeleton[j].Role);
            if (!limb && axis != 2)
            {
                continue;
            }

            var parent = skeleton[j].Parent;
            var sign = MathF.Sign(along[axis]);
            var far = Enumerable
                .Range(0, markers.Count)
                .Where(i => markers[i].Joint == parent)
                .OrderByDescending(i => markers[i].Offset[axis] * sign)
                .Take(2)
                .ToArray();
            if (far.Length < 2)
            {
                continue;
            }

            var (a, b) = (markers[far[0]].Offset, markers[far[1]].Offset);
            var between = a - b;
            var level = MathF.Abs(between[axis]) < 0.025f && MathF.Abs(a[axis]) > 0.6f * MathF.Abs(along[axis]);
            var (sideA, sideB) = (a, b);
            sideA[axis] = sideB[axis] = 0;
            var apart = between.Length() > 0.03f && Vector3.Dot(sideA, sideB) < 0.35f * sideA.Length() * sideB.Length();
            if (level && (apart || axis == 2) && length > 0.05f)
            {
                var spread =
                    axis == 2 ? ToesFlankSpread
                    : RoleOf(j) is BodyRole.HandL or BodyRole.HandR && markers.Count(m => m.Joint == j) > 1 ? WristFlankSpread
                    : FlankSpread;
                var weight = markerSigma / spread * (markerSigma / spread);
                var term = limb ? firstOf[j] : firstOf[j] + axis;
                // A limb's unknown is a length along its own direction, which may point against the axis.
                _flanks.Add((term, Marker(far[0], axis), Marker(far[1], axis), limb ? sign : 1, weight));
                if (limb)
                {
                    _flanks.Add((firstOf[j] + 1, Marker(far[0], aside), Marker(far[1], aside), 1, weight));
                }
            }
        }

        int Marker(int i, int a) => JointTerms + (i * 3) + a;
    }

    /// <summary>One unknown: a joint's or a marker's offset along a direction of its frame.</summary>
    public readonly record struct Term(int Joint, int Marker, Vector3 Direction);
}
