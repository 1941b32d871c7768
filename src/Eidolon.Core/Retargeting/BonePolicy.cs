using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>
/// Which of a character's bones take the performer's length instead of keeping their own. What comes of it stretches the figure's skin: it is to look at,
/// not to hand off.
/// </summary>
public static class BonePolicy
{
    /// <summary>Bones by the role they begin at, each with the role it ends at; the trunk is one bone.</summary>
    public static IReadOnlyList<(BodyRole Bone, BodyRole End)> Bones { get; } =
    [
        (BodyRole.Pelvis, BodyRole.Neck),
        (BodyRole.Neck, BodyRole.Head),
        (BodyRole.ClavicleL, BodyRole.UpperArmL),
        (BodyRole.ClavicleR, BodyRole.UpperArmR),
        (BodyRole.UpperArmL, BodyRole.ForearmL),
        (BodyRole.UpperArmR, BodyRole.ForearmR),
        (BodyRole.ForearmL, BodyRole.HandL),
        (BodyRole.ForearmR, BodyRole.HandR),
        (BodyRole.ThighL, BodyRole.ShinL),
        (BodyRole.ThighR, BodyRole.ShinR),
        (BodyRole.ShinL, BodyRole.FootL),
        (BodyRole.ShinR, BodyRole.FootR),
        (BodyRole.FootL, BodyRole.ToesL),
        (BodyRole.FootR, BodyRole.ToesR),
    ];

    /// <summary>Branches that are chosen whole, by the bones they have.</summary>
    public static IReadOnlyList<(string Name, IReadOnlyList<BodyRole> Bones)> Branches { get; } =
    [
        ("trunk", [BodyRole.Pelvis, BodyRole.Neck]),
        ("arms", [BodyRole.ClavicleL, BodyRole.ClavicleR, BodyRole.UpperArmL, BodyRole.UpperArmR, BodyRole.ForearmL, BodyRole.ForearmR]),
        ("legs", [BodyRole.ThighL, BodyRole.ThighR, BodyRole.ShinL, BodyRole.ShinR, BodyRole.FootL, BodyRole.FootR]),
    ];

    /// <summary>The character with some bones as long as the performer's.</summary>
    /// <param name="copied">By the role they begin at; a bone that one of the two has not keeps its length.</param>
    public static Skeleton Apply(Skeleton source, Skeleton target, IReadOnlySet<BodyRole> copied)
    {
        if (copied.Count == 0)
        {
            return target;
        }

        var scale = new float[target.Count];
        Array.Fill(scale, 1);
        foreach (var (bone, end) in Bones.Where(b => copied.Contains(b.Bone)))
        {
            if (source.Between(bone, end) is not { } wanted || target.Between(bone, end) is not ({ } own and > 1e-4f))
            {
                continue;
            }

            // Whatever lies between the two joints, twist joints or a spine of five, is stretched alike.
            for (var j = target.IndexOf(end); j >= 0 && target[j].Role != bone; j = target.Parents[j])
            {
                scale[j] = wanted / own;
            }
        }

        return new Skeleton(target.Joints.Select((j, i) => scale[i] == 1 ? j : j with { Offset = j.Offset * scale[i] }));
    }

    /// <summary>How much longer or shorter a bone is made at the most, per cent; 0 where none is.</summary>
    public static double MostStretched(Skeleton source, Skeleton target, IReadOnlySet<BodyRole> copied) =>
        Bones
            .Where(b => copied.Contains(b.Bone))
            .Select(b =>
                source.Between(b.Bone, b.End) is { } wanted && target.Between(b.Bone, b.End) is ({ } own and > 1e-4f)
                    ? Math.Abs((wanted / own) - 1) * 100.0
                    : 0
            )
            .DefaultIfEmpty(0)
            .Max();
}
