using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters;

/// <summary>Roles read from joint names, with the ambiguous words settled by which others are there.</summary>
internal static class RolesByName
{
    public static Dictionary<BodyRole, int> Find(Skeleton s)
    {
        var meanings = s.Joints.Select(j => NameTokens.Read(j.Name)).ToArray();
        var roles = new Dictionary<BodyRole, int>();
        int First(string stem, char side) => Array.FindIndex(meanings, m => m.Stem == stem && m.Side == side && !m.Aside);
        void Set(string role, int joint)
        {
            if (joint >= 0 && Enum.TryParse<BodyRole>(role, out var r) && !roles.ContainsValue(joint))
            {
                roles.TryAdd(r, joint);
            }
        }

        Set("Pelvis", First("Pelvis", 'C') is >= 0 and var p ? p : First("Hip", 'C'));
        foreach (var side in "LR")
        {
            int Pick(params string[] stems) => stems.Select(x => First(x, side)).FirstOrDefault(i => i >= 0, -1);
            var upper = Pick("UpperArm", "Arm");
            Set($"UpperArm{side}", upper >= 0 ? upper : Pick("Shoulder"));
            Set(
                $"Clavicle{side}",
                Pick("Clavicle") is >= 0 and var c ? c
                    : upper >= 0 ? Pick("Shoulder")
                    : -1
            );
            Set($"Forearm{side}", Pick("Forearm"));
            Set($"Hand{side}", Pick("Hand"));
            var thigh = Pick("Thigh");
            var shin = Pick("Shin");
            Set(
                $"Thigh{side}",
                thigh >= 0 ? thigh
                    : Pick("Hip") is >= 0 and var h ? h
                    : shin >= 0 ? Pick("Leg")
                    : -1
            );
            Set($"Shin{side}", shin >= 0 ? shin : Pick("Leg"));
            Set($"Foot{side}", Pick("Foot"));
            Set($"Toes{side}", Pick("Toes"));
            Set($"Eye{side}", Pick("Eye"));
            Fingers(meanings, side, Set);
            foreach (var limb in new[] { "UpperArm", "Forearm" })
            {
                Set(
                    $"{limb}Twist{side}",
                    Array.FindIndex(meanings, m => m.Twist && m.Side == side && (m.Stem == limb || (limb == "UpperArm" && m.Stem == "Arm")))
                );
            }
        }

        Set("Head", First("Head", 'C'));
        Set("Jaw", First("Jaw", 'C'));
        SpineAndNeck(meanings, Set, roles);
        if (First("Root", 'C') is >= 0 and var root && s.Parents[root] < 0)
        {
            Set("Root", root);
        }

        return roles;
    }

    private static void Fingers(NameTokens.NameMeaning[] meanings, char side, Action<string, int> set)
    {
        foreach (var finger in new[] { "Thumb", "Index", "Middle", "Ring", "Little" })
        {
            var joints = Enumerable
                .Range(0, meanings.Length)
                .Where(i => meanings[i].Stem == finger && meanings[i].Side == side && !meanings[i].Aside)
                .ToArray();
            for (var k = 0; k < Math.Min(3, joints.Length); k++)
            {
                set($"{finger}{side}{k + 1}", joints[k]);
            }
        }
    }

    private static void SpineAndNeck(NameTokens.NameMeaning[] meanings, Action<string, int> set, Dictionary<BodyRole, int> roles)
    {
        var spine = Enumerable
            .Range(0, meanings.Length)
            .Where(i => meanings[i] is { Stem: "Spine" or "Chest", Side: 'C', Aside: false } && !roles.ContainsValue(i))
            .ToArray();
        foreach (var (role, joint) in SpineRoles.Spread(spine))
        {
            set(role.ToString(), joint);
        }

        var necks = Enumerable.Range(0, meanings.Length).Where(i => meanings[i] is { Stem: "Neck", Aside: false }).ToArray();
        if (necks.Length > 1)
        {
            set("NeckLower", necks[0]);
        }

        set("Neck", necks.Length == 0 ? -1 : necks[^1]);
    }
}
