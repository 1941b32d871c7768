using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters.Binding;

/// <summary>A standard skeleton placed in a mesh.</summary>
/// <param name="Places">Where each role's joint is, metres, in the mesh's own axes.</param>
/// <param name="Ends">Where the last bones of head, hands and toes end.</param>
/// <param name="Doubts">What was guessed by average proportions, in words.</param>
public sealed record PlacedSkeleton(
    IReadOnlyDictionary<BodyRole, Vector3> Places,
    IReadOnlyDictionary<BodyRole, Vector3> Ends,
    IReadOnlyList<string> Doubts
)
{
    /// <summary>The joints of a standard skeleton, each with what it hangs on; parents first.</summary>
    public static IReadOnlyList<(BodyRole Role, BodyRole? Parent)> Joints { get; } =
    [
        (BodyRole.Pelvis, null),
        (BodyRole.SpineLower, BodyRole.Pelvis),
        (BodyRole.SpineUpper, BodyRole.SpineLower),
        (BodyRole.Chest, BodyRole.SpineUpper),
        (BodyRole.Neck, BodyRole.Chest),
        (BodyRole.Head, BodyRole.Neck),
        .. "LR".SelectMany(side =>
            new (string Role, string Parent)[]
            {
                ("Clavicle", "Chest"),
                ("UpperArm", "Clavicle"),
                ("Forearm", "UpperArm"),
                ("Hand", "Forearm"),
                ("Thigh", "Pelvis"),
                ("Shin", "Thigh"),
                ("Foot", "Shin"),
                ("Toes", "Foot"),
            }.Select(j =>
                (Role(j.Role, side), (BodyRole?)(j.Parent is "Chest" or "Pelvis" ? Enum.Parse<BodyRole>(j.Parent) : Role(j.Parent, side)))
            )
        ),
    ];

    /// <summary>A skeleton whose joints are all known; the last bones go on the way those before them go.</summary>
    public static PlacedSkeleton Of(IReadOnlyDictionary<BodyRole, Vector3> places)
    {
        Vector3 Beyond(BodyRole role, BodyRole above, float share) => places[role] + ((places[role] - places[above]) * share);
        return new PlacedSkeleton(
            places,
            new Dictionary<BodyRole, Vector3>
            {
                [BodyRole.Head] = Beyond(BodyRole.Head, BodyRole.Neck, 1.9f),
                [BodyRole.HandL] = Beyond(BodyRole.HandL, BodyRole.ForearmL, .64f),
                [BodyRole.HandR] = Beyond(BodyRole.HandR, BodyRole.ForearmR, .64f),
                [BodyRole.ToesL] = Beyond(BodyRole.ToesL, BodyRole.FootL, .5f) with { Y = places[BodyRole.ToesL].Y },
                [BodyRole.ToesR] = Beyond(BodyRole.ToesR, BodyRole.FootR, .5f) with { Y = places[BodyRole.ToesR].Y },
            },
            []
        );
    }

    /// <summary>Moved joints in place of the found ones.</summary>
    /// <exception cref="RefusedException">A joint is none of a standard skeleton's.</exception>
    public PlacedSkeleton With(IReadOnlyDictionary<BodyRole, Vector3> moved)
    {
        var places = new Dictionary<BodyRole, Vector3>(Places);
        var ends = new Dictionary<BodyRole, Vector3>(Ends);
        foreach (var (role, place) in moved)
        {
            if (!places.TryGetValue(role, out var before))
            {
                throw new RefusedException($"{role} is no joint of a standard skeleton");
            }

            places[role] = place;
            if (ends.TryGetValue(role, out var end))
            {
                ends[role] = end + (place - before);
            }
        }

        return new PlacedSkeleton(places, ends, Doubts);
    }

    /// <summary>Joints named by their roles, their axes those of the mesh.</summary>
    public Skeleton ToSkeleton()
    {
        var index = Joints.Select((j, i) => (j.Role, i)).ToDictionary(j => j.Role, j => j.i);
        return new Skeleton(
            Joints.Select(j => new Joint(
                j.Role.ToString(),
                j.Parent is { } p ? index[p] : -1,
                j.Parent is { } above ? Places[j.Role] - Places[above] : Places[j.Role]
            )
            {
                Role = j.Role,
                EndSite = Ends.TryGetValue(j.Role, out var end) ? end - Places[j.Role] : null,
            })
        );
    }

    /// <summary>The bones that carry skin: of each joint the stretches from it to what follows, or to its end.</summary>
    internal IReadOnlyList<(int Joint, Vector3 From, Vector3 To)> Bones()
    {
        var bones = new List<(int, Vector3, Vector3)>();
        for (var j = 0; j < Joints.Count; j++)
        {
            var role = Joints[j].Role;
            var at = Places[role];
            if (Ends.TryGetValue(role, out var end))
            {
                bones.Add((j, at, end));
            }

            foreach (var child in Joints.Where(c => c.Parent == role).Select(c => c.Role))
            {
                // The hips are the pelvis's as far as the thighs do not begin, the breast the chest's as far as the collarbones do not rise.
                var (from, to) = BodyRoles.Stem(child) switch
                {
                    "Thigh" => (at, Vector3.Lerp(at, Places[child], .7f)),
                    "Clavicle" => (at, Vector3.Lerp(at, Places[child], .75f)),
                    "UpperArm" => (Vector3.Lerp(at, Places[child], .35f), Places[child]),
                    _ => (at, Places[child]),
                };
                if (from != to)
                {
                    bones.Add((j, from, to));
                }
            }
        }

        return bones;
    }

    private static BodyRole Role(string stem, char side) => Enum.Parse<BodyRole>(stem + side);
}
