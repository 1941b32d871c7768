using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>World turns and places of a character over all frames while they are worked on, and the motion they come to.</summary>
internal sealed class BodyFrames
{
    private readonly Skeleton _skeleton;
    private readonly int _n;
    private readonly Quaternion[] _turns;
    private readonly Vector3[] _places;
    private readonly Quaternion[] _before;
    private readonly int _pelvis;
    private readonly int[] _body;
    private readonly int _hipL;
    private readonly int _hipR;

    public BodyFrames(Skeleton skeleton, int count)
    {
        (_skeleton, _n, Count) = (skeleton, skeleton.Count, count);
        _turns = new Quaternion[count * _n];
        _places = new Vector3[count * _n];
        _before = new Quaternion[_n];
        _pelvis = skeleton.IndexOf(BodyRole.Pelvis);
        _body = skeleton.Branch(_pelvis);
        (_hipL, _hipR) = (skeleton.IndexOf(BodyRole.ThighL), skeleton.IndexOf(BodyRole.ThighR));
    }

    /// <summary>Frames.</summary>
    public int Count { get; }

    /// <summary>World turns of a frame.</summary>
    public Span<Quaternion> Turns(int f) => _turns.AsSpan(f * _n, _n);

    /// <summary>World places of a frame, metres.</summary>
    public Span<Vector3> Places(int f) => _places.AsSpan(f * _n, _n);

    /// <summary>The way of a joint, a frame each.</summary>
    public Vector3[] Path(int joint) => [.. Enumerable.Range(0, Count).Select(f => _places[(f * _n) + joint])];

    /// <summary>The turns of a joint, a frame each.</summary>
    public Quaternion[] TurnsOf(int joint) => [.. Enumerable.Range(0, Count).Select(f => _turns[(f * _n) + joint])];

    /// <summary>Places from turns, the middle of the hips at a place.</summary>
    public void Stand(int f, Vector3 hips)
    {
        var turns = Turns(f);
        var places = Places(f);
        for (var j = 0; j < _n; j++)
        {
            var p = _skeleton.Parents[j];
            places[j] = p < 0 ? _skeleton[j].Offset : places[p] + Vector3.Transform(_skeleton[j].Offset, turns[p]);
        }

        var shift = hips - ((places[_hipL] + places[_hipR]) / 2);
        foreach (var j in _body)
        {
            places[j] += shift;
        }
    }

    /// <summary>Keeps the turns of a frame before a limb of it is moved.</summary>
    public void Remember(int f) => Turns(f).CopyTo(_before);

    /// <summary>The turn of a limb's end between what its moved bones carry it to and what it was.</summary>
    /// <param name="original">The turn at a share of 1.</param>
    public Quaternion Kept(int f, Limb limb, Quaternion original, float share)
    {
        if (share >= 1)
        {
            return original;
        }

        var (_, lower, end) = limb.Reach.Joints;
        var carried = Turns(f)[lower] * Quaternion.Conjugate(_before[lower]) * _before[end];
        return Geometry.Rotations.Slerp(Quaternion.Normalize(carried), original, share);
    }

    /// <summary>
    /// Joints that hang from a moved bone (twist joints, helpers, fingers) keep their turn against it, toes keep theirs in the world; everything below
    /// the limb is placed anew.
    /// </summary>
    public void FollowThrough(int f, Limb limb)
    {
        var turns = Turns(f);
        var places = Places(f);
        foreach (var (j, carried) in limb.Hanging)
        {
            var p = _skeleton.Parents[j];
            if (carried)
            {
                turns[j] = Quaternion.Normalize(turns[p] * (Quaternion.Conjugate(_before[p]) * _before[j]));
            }

            places[j] = places[p] + Vector3.Transform(_skeleton[j].Offset, turns[p]);
        }
    }

    /// <summary>The motion: lengths as the skeleton has them, the pelvis where it is, no turn that flips its sign.</summary>
    /// <param name="like">Rate, first frame and face are as there.</param>
    public Motion ToMotion(Motion like)
    {
        var motion = new Motion(_skeleton, like.FrameRate, Count) { FirstFrame = like.FirstFrame, Morphs = like.Morphs };
        var above = _skeleton.Parents[_pelvis];
        for (var f = 0; f < Count; f++)
        {
            ForwardKinematics.Local(_skeleton, Turns(f), motion.RotationsAt(f));
            var t = motion.TranslationsAt(f);
            var places = Places(f);
            for (var j = 0; j < _n; j++)
            {
                t[j] = _skeleton[j].Offset;
            }

            t[_pelvis] =
                above < 0 ? places[_pelvis] : Vector3.Transform(places[_pelvis] - places[above], Quaternion.Conjugate(Turns(f)[above]));
            for (var j = 0; f > 0 && j < _n; j++)
            {
                if (Quaternion.Dot(motion.Rotations[((f - 1) * _n) + j], motion.Rotations[(f * _n) + j]) < 0)
                {
                    motion.Rotations[(f * _n) + j] = -motion.Rotations[(f * _n) + j];
                }
            }
        }

        return motion;
    }
}
