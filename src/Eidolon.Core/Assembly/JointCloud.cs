using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>Where the compared joints of a motion are in the world, frame by frame.</summary>
internal sealed class JointCloud
{
    private static readonly BodyRole[] Compared =
    [
        BodyRole.Pelvis,
        BodyRole.Chest,
        BodyRole.Head,
        .. "LR".SelectMany(side =>
            new[] { "UpperArm", "Forearm", "Hand", "Thigh", "Shin", "Foot", "Toes" }.Select(stem => Enum.Parse<BodyRole>(stem + side))
        ),
    ];

    private readonly Vector3[] _at;
    private readonly int _count;

    public JointCloud(Motion motion, BodyRole[] roles)
    {
        _count = roles.Length;
        _at = new Vector3[motion.FrameCount * _count];
        var world = ForwardKinematics.WorldPositions(motion);
        var joints = roles.Select(motion.Skeleton.IndexOf).ToArray();
        for (var k = 0; k < _at.Length; k++)
        {
            _at[k] = world[(k / _count * motion.Skeleton.Count) + joints[k % _count]];
        }
    }

    /// <summary>The compared roles that both have.</summary>
    public static BodyRole[] Shared(Skeleton a, Skeleton b) => [.. Compared.Where(r => a.IndexOf(r) >= 0 && b.IndexOf(r) >= 0)];

    public ReadOnlySpan<Vector3> Of(int frame) => _at.AsSpan(frame * _count, _count);
}
