using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>Carries turns from one rig to another between T-pose-aligned frames, and the hips' travel, scaled.</summary>
internal sealed class TurnTransfer
{
    private readonly Skeleton _source;
    private readonly Skeleton _target;
    private readonly TPose _sourcePose;
    private readonly TPose _targetPose;
    private readonly (int Source, int Target)[] _pairs;
    private readonly ChainMap?[] _chains;
    private readonly (int Twist, int From, int To, Vector3 Axis)[] _twists;
    private readonly int[] _known;
    private readonly Quaternion[] _sourceDelta;
    private readonly Quaternion[] _targetDelta;

    private readonly (int Clavicle, int Chest)[] _collarbones;
    private readonly float _shoulder;
    private readonly float _twist;

    /// <param name="setup">How trunk, collarbones and twist joints share what is turned.</param>
    public TurnTransfer(Skeleton source, Skeleton target, RetargetSetup setup)
    {
        (_source, _target, _shoulder, _twist) = (source, target, setup.Shoulder, setup.Twist);
        _sourcePose = TPose.Of(source);
        _targetPose = TPose.Of(target);
        _sourceDelta = new Quaternion[source.Count];
        _targetDelta = new Quaternion[target.Count];
        var (sTop, tTop) = (Top(source), Top(target));
        _chains =
        [
            ChainMap.Create(source, target, source.IndexOf(BodyRole.Pelvis), sTop, target.IndexOf(BodyRole.Pelvis), tTop, setup.Spine),
            ChainMap.Create(source, target, sTop, source.IndexOf(BodyRole.Head), tTop, target.IndexOf(BodyRole.Head)),
        ];
        var chained = _chains.SelectMany(c => c?.Target ?? []).ToHashSet();
        _pairs =
        [
            .. Enum.GetValues<BodyRole>()
                .Select(r => (Source: source.IndexOf(r), Target: target.IndexOf(r), Role: r))
                .Where(p =>
                    p.Source >= 0
                    && p.Target >= 0
                    && !chained.Contains(p.Target)
                    && p.Role != BodyRole.Root
                    && !p.Role.ToString().Contains("Twist", StringComparison.Ordinal)
                )
                .Select(p => (p.Source, p.Target)),
        ];
        _known = new int[target.Count];
        foreach (var p in _pairs)
        {
            _known[p.Target] = 1;
        }

        foreach (var j in chained)
        {
            _known[j] = 1;
        }

        _collarbones =
        [
            .. new[] { BodyRole.ClavicleL, BodyRole.ClavicleR }
                .Where(r => source.IndexOf(r) >= 0 && target.IndexOf(r) >= 0)
                .Select(r => (target.IndexOf(r), tTop)),
        ];
        _twists = [.. Twists(target)];
        foreach (var t in _twists)
        {
            _known[t.Twist] = 2;
        }

        SourceLeg = Leg(source);
        TargetLeg = Leg(target);
    }

    public float SourceLeg { get; }

    public float TargetLeg { get; }

    /// <summary>World turns of the target for a frame of the source.</summary>
    public void Apply(ReadOnlySpan<Quaternion> sourceWorld, Span<Quaternion> targetWorld)
    {
        for (var j = 0; j < _source.Count; j++)
        {
            _sourceDelta[j] = sourceWorld[j] * Quaternion.Conjugate(_sourcePose.Turns[j]);
        }

        foreach (var (s, t) in _pairs)
        {
            _targetDelta[t] = _sourceDelta[s];
        }

        foreach (var c in _chains)
        {
            c?.Apply(_sourceDelta, _targetDelta);
        }

        if (_shoulder != 1)
        {
            foreach (var (clavicle, chest) in _collarbones)
            {
                var own = Quaternion.Conjugate(_targetDelta[chest]) * _targetDelta[clavicle];
                _targetDelta[clavicle] = Quaternion.Normalize(_targetDelta[chest] * Rotations.Exp(Rotations.Log(own) * _shoulder));
            }
        }

        var pelvis = _target.IndexOf(BodyRole.Pelvis);
        for (var j = 0; j < _target.Count; j++)
        {
            if (_known[j] == 1)
            {
                targetWorld[j] = Quaternion.Normalize(_targetDelta[j] * _targetPose.Turns[j]);
            }
            else
            {
                // No role: rigid with the joint above; joints above the pelvis stay at rest.
                var p = _target.Parents[j];
                targetWorld[j] =
                    p < 0 || j < pelvis ? _target.RestRotations[j] : Quaternion.Normalize(targetWorld[p] * _target[j].RestRotation);
            }
        }

        foreach (var (twist, from, to, axis) in _twists)
        {
            var local =
                Quaternion.Conjugate(targetWorld[from])
                * targetWorld[to]
                * Quaternion.Conjugate(Quaternion.Conjugate(_targetPose.Turns[from]) * _targetPose.Turns[to]);
            var half = Rotations.Slerp(Quaternion.Identity, Rotations.Twist(local, axis), _twist);
            targetWorld[twist] = Quaternion.Normalize(
                targetWorld[from] * half * Quaternion.Conjugate(_targetPose.Turns[from]) * _targetPose.Turns[twist]
            );
        }
    }

    private static int Top(Skeleton s) => BodyRoles.Spine.Reverse().Select(r => s.IndexOf(r)).First(j => j >= 0);

    /// <summary>A forearm's twist joint takes a share of the hand's turn about the bone.</summary>
    private static IEnumerable<(int, int, int, Vector3)> Twists(Skeleton s)
    {
        foreach (
            var (twist, from, to) in new[]
            {
                (BodyRole.ForearmTwistL, BodyRole.ForearmL, BodyRole.HandL),
                (BodyRole.ForearmTwistR, BodyRole.ForearmR, BodyRole.HandR),
            }
        )
        {
            if (s.IndexOf(twist) is >= 0 and var t && s.IndexOf(from) is >= 0 and var f && s.IndexOf(to) is >= 0 and var h)
            {
                var bone = Vector3.Transform(s.RestPositions[h] - s.RestPositions[f], Quaternion.Conjugate(s.RestRotations[f]));
                yield return (t, f, h, Vector3.Normalize(bone));
            }
        }
    }

    /// <summary>Length of a leg, hip to ankle, the mean of both, metres.</summary>
    internal static float Leg(Skeleton s)
    {
        float Side(BodyRole thigh, BodyRole shin, BodyRole foot) =>
            (s.RestPositions[s.IndexOf(shin)] - s.RestPositions[s.IndexOf(thigh)]).Length()
            + (s.RestPositions[s.IndexOf(foot)] - s.RestPositions[s.IndexOf(shin)]).Length();
        return (Side(BodyRole.ThighL, BodyRole.ShinL, BodyRole.FootL) + Side(BodyRole.ThighR, BodyRole.ShinR, BodyRole.FootR)) / 2;
    }
}
