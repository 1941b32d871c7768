using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>How a character follows a performer.</summary>
public sealed record RetargetSetup
{
    private static readonly Holding Free = new();

    private static readonly Holding Planted = new() { Place = 1 };

    /// <summary>True: travel is scaled to the character's legs; false: the performer's own footprints.</summary>
    public bool ScaleTravel { get; init; } = true;

    /// <summary>What is held, by role; what is not named here is held as <see cref="Hold"/> says.</summary>
    public IReadOnlyDictionary<BodyRole, Holding> Holds { get; init; } = new Dictionary<BodyRole, Holding>();

    /// <summary>What a person has decided about contacts; it stands over what is found.</summary>
    public IReadOnlyList<Cleaning.ContactEdit> Contacts { get; init; } = [];

    /// <summary>Raises (or lowers) the floor under the character, metres.</summary>
    public float FloorHeight { get; init; }

    /// <summary>A foot whose heel and toes both stand lies flat on what it stands on.</summary>
    public bool FeetFlat { get; init; } = true;

    /// <summary>0 to 1: how far shoulders and spine go along where an arm that is held is too short, or nearly straight.</summary>
    public float Lean { get; init; } = 1;

    /// <summary>
    /// -1 to 1: where the trunk bends. Below 0 more of it lower down, above 0 more of it higher up; 0 as the performer does. Its upper end turns the same.
    /// </summary>
    public float Spine { get; init; }

    /// <summary>0 to 2: how far collarbones go along with arms, times as far as the performer's.</summary>
    public float Shoulder { get; init; } = 1;

    /// <summary>0 to 1: how much of a hand's turn about the forearm its twist joint takes.</summary>
    public float Twist { get; init; } = 0.5f;

    /// <summary>Bones that take the performer's length, by the role they begin at; see <see cref="BonePolicy"/>.</summary>
    public IReadOnlySet<BodyRole> CopiedBones { get; init; } = new HashSet<BodyRole>();

    /// <summary>The parts that can be held, left above right.</summary>
    public static IReadOnlyList<BodyRole> Held { get; } =
    [
        BodyRole.HandL,
        BodyRole.HandR,
        BodyRole.ForearmL,
        BodyRole.ForearmR,
        BodyRole.ShinL,
        BodyRole.ShinR,
        BodyRole.FootL,
        BodyRole.FootR,
        BodyRole.Head,
    ];

    /// <summary>True when a motion onto its own skeleton is that motion.</summary>
    public bool ChangesNothing =>
        FloorHeight == 0
        && Spine == 0
        && Shoulder == 1
        && CopiedBones.Count == 0
        && Holds.Values.All(h => h.Offset == default && h is { Turn: >= 1 } && h.Keys.Count == 0);

    /// <summary>How a part is held; feet stand where they are planted, all else is free unless it is said.</summary>
    public Holding Hold(BodyRole role) =>
        Holds.TryGetValue(role, out var holding) ? holding
        : role is BodyRole.FootL or BodyRole.FootR ? Planted
        : Free;

    /// <summary>The same, with one part held to its place at a share.</summary>
    public RetargetSetup With(BodyRole role, float place) => With(role, Hold(role) with { Place = place });

    /// <summary>The same, with one part held so.</summary>
    public RetargetSetup With(BodyRole role, Holding holding) =>
        this with
        {
            Holds = new Dictionary<BodyRole, Holding>(Holds) { [role] = holding },
        };
}
