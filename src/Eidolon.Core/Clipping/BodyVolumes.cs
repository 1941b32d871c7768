using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Clipping;

/// <summary>The volumes of a body: what may not go into one another.</summary>
public sealed class BodyVolumes
{
    /// <summary>Radii of a body nobody has seen, as shares of a size in which the thigh is <see cref="ThighShare"/>.</summary>
    private const float ThighShare = 0.245f;

    private static readonly string[] TrunkParts = ["Pelvis", "Chest", "Head", "ThighL", "ThighR"];

    private static readonly string[] ArmParts = ["ForearmL", "ForearmR", "HandL", "HandR"];

    /// <summary>Of volumes that are known.</summary>
    public BodyVolumes(IReadOnlyList<BodyVolume> all) => All = all;

    /// <summary>Every volume, of trunk and arms.</summary>
    public IReadOnlyList<BodyVolume> All { get; }

    /// <summary>What arms may not go into.</summary>
    public IEnumerable<BodyVolume> Trunk => All.Where(v => TrunkParts.Contains(v.Part));

    /// <summary>What of the arms may not go into the rest.</summary>
    public IEnumerable<BodyVolume> Arms => All.Where(v => ArmParts.Contains(v.Part));

    /// <summary>By average proportions: for a skeleton without a skin.</summary>
    /// <returns>No volumes when roles are missing.</returns>
    public static BodyVolumes OfProportions(Skeleton s)
    {
        if (BodyRoles.Required.Any(r => s.IndexOf(r) < 0))
        {
            return new([]);
        }

        var size = (s.RestPositions[s.IndexOf(BodyRole.ShinL)] - s.RestPositions[s.IndexOf(BodyRole.ThighL)]).Length() / ThighShare;
        BodyVolume Of(string part, BodyRole a, BodyRole b, float radius) =>
            new(part, s.IndexOf(a), Vector3.Zero, s.IndexOf(b), Vector3.Zero, radius * size);
        var spine = Spine(s);
        return new([
            Of("Pelvis", BodyRole.Pelvis, spine, .072f),
            Of("Chest", spine, NeckOf(s), .070f),
            Of("Head", BodyRole.Head, BodyRole.Head, .045f),
            Of("ThighL", BodyRole.ThighL, BodyRole.ShinL, .036f),
            Of("ThighR", BodyRole.ThighR, BodyRole.ShinR, .036f),
            Of("ForearmL", BodyRole.ForearmL, BodyRole.HandL, .016f),
            Of("ForearmR", BodyRole.ForearmR, BodyRole.HandR, .016f),
            Of("HandL", BodyRole.HandL, BodyRole.HandL, .022f),
            Of("HandR", BodyRole.HandR, BodyRole.HandR, .022f),
        ]);
    }

    internal static BodyRole Spine(Skeleton s) => BodyRoles.Spine.First(r => s.IndexOf(r) >= 0);

    internal static BodyRole NeckOf(Skeleton s) => s.IndexOf(BodyRole.Neck) >= 0 ? BodyRole.Neck : BodyRole.Head;
}
