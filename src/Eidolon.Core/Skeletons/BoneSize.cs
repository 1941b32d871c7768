namespace Eidolon.Core.Skeletons;

/// <summary>A bone by its own name, with its length on both sides.</summary>
/// <param name="Name">The bone's, not the joint's it ends at: upper arm, thigh.</param>
/// <param name="Left">Metres; null where the body has none. Bones of the middle have only this.</param>
/// <param name="Right">Metres; null where the body has none, and for bones of the middle.</param>
public sealed record BoneSize(string Name, double? Left, double? Right)
{
    /// <summary>Sides differ by less than this and are called alike, metres.</summary>
    public const double Alike = 0.0007;

    private static readonly string[] Sided = ["UpperArm", "Forearm", "Hand", "Thigh", "Shin", "Foot", "Toes"];

    /// <summary>The bones of a body at rest, from joint to joint, whatever helpers lie between them; in the order a person reads them.</summary>
    /// <param name="s">With roles.</param>
    public static IReadOnlyList<BoneSize> Of(Skeleton s)
    {
        var bones = new List<BoneSize>();
        if (s.Between(BodyRole.Pelvis, BodyRole.Neck) is { } trunk)
        {
            bones.Add(new BoneSize("trunk", trunk, null));
        }

        if (s.Between(BodyRole.Neck, BodyRole.Head) is { } neck)
        {
            bones.Add(new BoneSize("neck", neck, null));
        }

        foreach (var stem in Sided)
        {
            var (left, right) = (Length(s, stem, 'L'), Length(s, stem, 'R'));
            if (left is not null || right is not null)
            {
                bones.Add(new BoneSize(BodyRoles.BoneTo(stem), left, right));
            }
        }

        return bones;
    }

    /// <summary>How much longer another body's bone is, in per cent of this one; the mean of both sides. Null where one of them has none.</summary>
    public double? PerCentOf(BoneSize? other) =>
        Mean(this) is { } own && other is not null && Mean(other) is { } its && own > 0 ? ((its / own) - 1) * 100 : null;

    private static double? Mean(BoneSize b) =>
        (b.Left, b.Right) switch
        {
            ({ } l, { } r) => (l + r) / 2,
            var (l, r) => l ?? r,
        };

    private static double? Length(Skeleton s, string stem, char side)
    {
        BodyRole Role(string name) => Enum.Parse<BodyRole>(name + side);
        return stem switch
        {
            "UpperArm" => s.Between(Role("Clavicle"), Role("UpperArm")),
            "Forearm" => s.Between(Role("UpperArm"), Role("Forearm")),
            "Hand" => s.Between(Role("Forearm"), Role("Hand")),
            "Thigh" => s.Between(BodyRole.ThighL, BodyRole.ThighR) / 2,
            "Shin" => s.Between(Role("Thigh"), Role("Shin")),
            "Foot" => s.Between(Role("Shin"), Role("Foot")),
            _ => s.Between(Role("Foot"), Role("Toes")),
        };
    }
}
