using System.Globalization;
using System.Numerics;
using Eidolon.Core.Clipping;
using Eidolon.Core.Retargeting;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters.Preparing;

/// <summary>A character as its draft makes it: its roles, its rest pose as it came and as proposed, and what is left to say of it.</summary>
/// <param name="Came">Its skeleton at its new size, with roles, in the pose it came in.</param>
/// <param name="Proposed">The same with the draft's remedies; <see cref="Came"/> itself where there are none.</param>
/// <param name="Before">Rest check of what came.</param>
/// <param name="After">Rest check of what is proposed.</param>
/// <param name="Lowest">Where the figure's lowest point stands as it came, metres; 0 is the floor.</param>
/// <param name="LowestAfter">The same as proposed.</param>
/// <param name="Height">Its stature, metres, hats left out: from its lowest point to the crown over its head's joint.</param>
/// <param name="Top">Where its highest point stands, hats and all, metres.</param>
public sealed record PreparedCharacter(
    CharacterDraft Draft,
    RoleSheet Sheet,
    Skeleton Came,
    Skeleton Proposed,
    RestReport Before,
    RestReport After,
    float Lowest,
    float LowestAfter,
    float Height,
    float Top
)
{
    /// <summary>A crown is so many times as high as the head's joint, where the skull sits on the neck; and as high as any other highest joint.</summary>
    private const float OverHead = 1.12f,
        OverTop = 1.06f;

    /// <summary>A figure that stands farther off the floor than this is told, metres.</summary>
    private const float OffFloor = 0.005f;

    /// <summary>Units a file may have been made in, metres each.</summary>
    private static readonly (double Metres, string Name)[] Units =
    [
        (0.01, "centimetres"),
        (0.0254, "inches"),
        (0.001, "millimetres"),
        (0.3048, "feet"),
        (0.1, "decimetres"),
        (10, "tenths of a metre too small"),
        (100, "hundredths of a metre too small"),
    ];

    /// <summary>Reasons of the rest check as proposed, and where it stands.</summary>
    public IReadOnlyList<RestReason> Reasons => [.. After.Reasons, .. Standing(LowestAfter)];

    /// <summary>What was a reason as it came and is none any more.</summary>
    public IReadOnlyList<RestReason> Mended =>
        [.. Before.Reasons.Concat(Standing(Lowest)).Where(r => r.Remedy is not null && Reasons.All(x => x.Remedy != r.Remedy))];

    /// <summary>Ready to be used: every needed role is played, none is in question, the rest pose suits.</summary>
    public bool Ready => Sheet.Complete && Sheet.Asked.Count == 0 && After.Verdict == RestVerdict.Ready;

    /// <summary>Sizes that would make it a person's, with the unit they mean; the likeliest first.</summary>
    public IReadOnlyList<(double Factor, string Unit, double Height)> Sizes =>
        Height is > 0.4f and < 3.5f
            ? []
            :
            [
                .. Units
                    .Select(u => (u.Metres, u.Name, Height * u.Metres))
                    .Where(u => u.Item3 is > 0.8 and < 2.6)
                    .OrderBy(u => Math.Abs(u.Item3 - 1.7)),
            ];

    /// <summary>What was done, in a few words; empty where nothing was.</summary>
    public string Words
    {
        get
        {
            var r = Draft.Remedies;
            var hands = Draft.Steps.Count(s => s is RoleStep or MirrorStep or SidesStep);
            string?[] words =
            [
                hands > 0 ? "roles put right" : null,
                Math.Abs(Draft.Size - 1) > 1e-9 ? string.Create(CultureInfo.InvariantCulture, $"set to {Height:0.00} m") : null,
                Draft.LeftOut.Count is > 0 and var n ? $"{n} mesh{(n == 1 ? string.Empty : "es")} left out" : null,
                Draft.Strokes.Count > 0 ? "weights painted" : null,
                r.Contains(RestRemedy.TurnToFace) ? "turned to face" : null,
                r.Contains(RestRemedy.ArmL) && r.Contains(RestRemedy.ArmR) ? "arms straightened"
                : r.Contains(RestRemedy.ArmL) ? "left arm straightened"
                : r.Contains(RestRemedy.ArmR) ? "right arm straightened"
                : null,
                r.Contains(RestRemedy.Legs) ? "legs straightened" : null,
                r.Contains(RestRemedy.Collarbones) ? "collarbones levelled" : null,
                r.Contains(RestRemedy.Alike) ? "sides made alike" : null,
                r.Contains(RestRemedy.Floor) ? "stood on the floor" : null,
            ];
            return string.Join(", ", words.OfType<string>());
        }
    }

    /// <summary>A character with a draft.</summary>
    /// <param name="skeleton">As it stands in its file, metres.</param>
    /// <param name="skin">Points of its skin at rest; empty where it has none.</param>
    /// <param name="known">Roles from a map that was kept; null where they are to be found.</param>
    /// <exception cref="RefusedException">A step of the draft cannot be done.</exception>
    public static PreparedCharacter Of(
        Skeleton skeleton,
        SkinPoints skin,
        CharacterDraft draft,
        IReadOnlyDictionary<BodyRole, string>? known = null
    )
    {
        var sheet = RoleSheet.Of(skeleton, known, draft.Steps);
        var size = (float)draft.Size;
        var came = Sized(skeleton, size).WithRoles(sheet.Roles);
        Vector3[] points = [.. skin.Places.Select(p => p * size)];
        var low = Bottom(came, points);
        var tall = Stature(came, low);
        var top = points.Length > 0 ? points.Max(p => p.Y) : low + tall;
        var before = RestCheck.Check(came);
        if (!sheet.Complete || draft.Remedies.Count == 0)
        {
            return new PreparedCharacter(draft, sheet, came, came, before, before, low, low, tall, top);
        }

        var posed = RestStraightening.Apply(came, draft.Remedies);
        var soles = posed.RestPositions.Min(p => p.Y) - Bottom(posed, Carried(came, posed, points, skin.Joints));
        if (draft.Remedies.Contains(RestRemedy.Floor))
        {
            posed = RestStraightening.Apply(came, draft.Remedies, soles);
        }

        return new PreparedCharacter(
            draft,
            sheet,
            came,
            posed,
            before,
            RestCheck.Check(posed),
            low,
            posed.RestPositions.Min(p => p.Y) - soles,
            tall,
            top
        );
    }

    /// <summary>The same skeleton so many times as large.</summary>
    private static Skeleton Sized(Skeleton s, float factor) =>
        new(s.Joints.Select(j => j with { Offset = j.Offset * factor, EndSite = j.EndSite * factor }));

    /// <summary>Each point where its joint carries it into another rest pose.</summary>
    private static Vector3[] Carried(Skeleton from, Skeleton to, Vector3[] points, IReadOnlyList<int> joints)
    {
        var turns = from.RestRotations.Select((r, j) => Quaternion.Normalize(to.RestRotations[j] * Quaternion.Conjugate(r))).ToArray();
        return
        [
            .. points.Select(
                (p, k) => to.RestPositions[joints[k]] + Vector3.Transform(p - from.RestPositions[joints[k]], turns[joints[k]])
            ),
        ];
    }

    private static float Stature(Skeleton s, float low) =>
        s.IndexOf(BodyRole.Head) is >= 0 and var head
            ? (s.RestPositions[head].Y - low) * OverHead
            : (s.RestPositions.Max(p => p.Y) - low) * OverTop;

    private static float Bottom(Skeleton s, Vector3[] points) => points.Length > 0 ? points.Min(p => p.Y) : s.RestPositions.Min(p => p.Y);

    private static IEnumerable<RestReason> Standing(float lowest)
    {
        if (MathF.Abs(lowest) <= OffFloor)
        {
            yield break;
        }

        var far = MathF.Abs(lowest * 100).ToString("0.0", CultureInfo.InvariantCulture);
        yield return new RestReason(
            string.Empty,
            lowest < 0 ? $"stands {far} cm in the floor" : $"stands {far} cm above the floor",
            Centimetres: MathF.Abs(lowest * 100)
        )
        {
            Remedy = RestRemedy.Floor,
        };
    }
}
