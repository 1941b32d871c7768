using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>How a character follows a performer.</summary>
public sealed record RetargetSetup
{
    /// <summary>True: travel is scaled to the character's legs; false: the performer's own footprints.</summary>
    public bool ScaleTravel { get; init; } = true;

    /// <summary>0 to 1 for hands and feet: how strongly each is held to the source's place.</summary>
    public IReadOnlyDictionary<BodyRole, float> Place { get; init; } =
        new Dictionary<BodyRole, float>
        {
            [BodyRole.FootL] = 1,
            [BodyRole.FootR] = 1,
            [BodyRole.HandL] = 0,
            [BodyRole.HandR] = 0,
        };

    /// <summary>What a person has decided about contacts; it stands over what is found.</summary>
    public IReadOnlyList<Cleaning.ContactEdit> Contacts { get; init; } = [];

    /// <summary>Raises (or lowers) the floor under the character, metres.</summary>
    public float FloorHeight { get; init; }
}
