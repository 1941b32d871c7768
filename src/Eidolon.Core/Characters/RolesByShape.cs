using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters;

/// <summary>Roles from the shape alone: a body in its rest pose stands upright, has two legs below, two arms aside and a head on top.</summary>
internal static class RolesByShape
{
    /// <param name="sure">Left was told from right.</param>
    public static Dictionary<BodyRole, int> Find(Skeleton s, out bool sure)
    {
        sure = true;
        var tree = new ShapeTree(s);
        var roles = new Dictionary<BodyRole, int>();
        if (tree.Leaves.Count < 5)
        {
            return roles;
        }

        var legs = tree.Feet();
        if (legs is not var (footA, footB, pelvis))
        {
            return roles;
        }

        var arms = tree.HandTips(pelvis, footA, footB);
        if (arms is not var (tipA, tipB, chest))
        {
            return roles;
        }

        // Whoever stands on all fours has no arms: the back of an upright body rises.
        var back = s.RestPositions[chest] - s.RestPositions[pelvis];
        if (back.Y < 0.5f * back.Length())
        {
            return roles;
        }

        roles[BodyRole.Pelvis] = pelvis;
        var forward = FacingByShape.Of(tree, footA, footB, tipA, tipB, pelvis, chest, out sure);
        var left = Vector3.Cross(Vector3.UnitY, forward);
        bool IsLeft(int joint) => Vector3.Dot(s.RestPositions[joint] - s.RestPositions[pelvis], left) > 0;
        var (leftFoot, rightFoot) = IsLeft(footA) ? (footA, footB) : (footB, footA);
        Leg(tree, pelvis, leftFoot, 'L', roles);
        Leg(tree, pelvis, rightFoot, 'R', roles);
        var (leftTip, rightTip) = IsLeft(tipA) ? (tipA, tipB) : (tipB, tipA);
        Arm(tree, chest, leftTip, 'L', roles);
        Arm(tree, chest, rightTip, 'R', roles);
        var spine = tree.Path(pelvis, chest).Where(j => j != pelvis).ToArray();
        foreach (var (role, joint) in SpineRoles.Spread(spine))
        {
            roles[role] = joint;
        }

        HeadAndNeck(tree, chest, roles);
        return roles;
    }

    private static void Leg(ShapeTree tree, int pelvis, int tip, char side, Dictionary<BodyRole, int> roles)
    {
        var s = tree.Skeleton;
        var chain = tree.Path(pelvis, tip).Where(j => j != pelvis).ToList();
        if (chain.Count < 3)
        {
            return;
        }

        var p = s.RestPositions;
        var floor = p[tip].Y;
        var hipY = p[chain[0]].Y;
        // The ankle is the first joint close to the floor, the knee the one nearest half-way.
        var ankle = chain.FindIndex(j => p[j].Y - floor < 0.17f * (hipY - floor));
        ankle = ankle < 2 ? Math.Min(2, chain.Count - 1) : ankle;
        var thigh = 0;
        while (thigh + 2 < ankle && (p[chain[thigh + 1]] - p[chain[thigh]]).Length() < 0.12f * (hipY - floor))
        {
            thigh++;
        }

        var half = (p[chain[thigh]].Y + p[chain[ankle]].Y) / 2;
        var knee = Enumerable
            .Range(thigh + 1, Math.Max(0, ankle - thigh - 1))
            .DefaultIfEmpty(thigh + 1)
            .MinBy(k => MathF.Abs(p[chain[k]].Y - half));
        roles[Enum.Parse<BodyRole>($"Thigh{side}")] = chain[thigh];
        roles[Enum.Parse<BodyRole>($"Shin{side}")] = chain[knee];
        roles[Enum.Parse<BodyRole>($"Foot{side}")] = chain[ankle];
        if (ankle + 1 < chain.Count)
        {
            roles[Enum.Parse<BodyRole>($"Toes{side}")] = chain[ankle + 1];
        }
    }

    private static void Arm(ShapeTree tree, int chest, int tip, char side, Dictionary<BodyRole, int> roles)
    {
        var s = tree.Skeleton;
        var p = s.RestPositions;
        var chain = tree.Path(chest, tip).Where(j => j != chest).ToList();
        if (chain.Count < 3)
        {
            return;
        }

        var best = (Score: float.MaxValue, Upper: 0, Fore: 1, Hand: 2);
        for (var a = 0; a < chain.Count - 2; a++)
        {
            for (var b = a + 1; b < chain.Count - 1; b++)
            {
                for (var c = b + 1; c < chain.Count; c++)
                {
                    float l1 = (p[chain[b]] - p[chain[a]]).Length(),
                        l2 = (p[chain[c]] - p[chain[b]]).Length();
                    var rest = (p[tip] - p[chain[c]]).Length();
                    if (l1 < 1e-5f || l2 < 1e-5f)
                    {
                        continue;
                    }

                    // Upper arm a little longer than the forearm; together most of the chain; a hand that branches into fingers is a strong sign.
                    var reach = (p[tip] - p[chain[0]]).Length() + 1e-5f;
                    var score =
                        MathF.Abs(MathF.Log(l1 / (1.12f * l2)))
                        + (1.2f * MathF.Abs(1 - ((l1 + l2) / (0.80f * reach))))
                        + (rest > 0.45f * (l1 + l2) ? 0.6f : 0);
                    score -= tree.Branches(chain[c]) > 2 ? 0.8f : 0;
                    if (score < best.Score)
                    {
                        best = (score, a, b, c);
                    }
                }
            }
        }

        roles[Enum.Parse<BodyRole>($"UpperArm{side}")] = chain[best.Upper];
        roles[Enum.Parse<BodyRole>($"Forearm{side}")] = chain[best.Fore];
        roles[Enum.Parse<BodyRole>($"Hand{side}")] = chain[best.Hand];
        if (best.Upper > 0)
        {
            roles[Enum.Parse<BodyRole>($"Clavicle{side}")] = chain[best.Upper - 1];
        }

        FingersByShape.Add(tree, chain[best.Hand], side, roles);
    }

    private static void HeadAndNeck(ShapeTree tree, int chest, Dictionary<BodyRole, int> roles)
    {
        var s = tree.Skeleton;
        var p = s.RestPositions;
        var taken = roles.Values.ToHashSet();
        var top = Enumerable
            .Range(0, s.Count)
            .Where(j => tree.Below(chest, j) && j != chest && !tree.Path(chest, j).Any(x => x != chest && taken.Contains(x)))
            .OrderByDescending(j => p[j].Y)
            .FirstOrDefault(-1);
        if (top < 0)
        {
            return;
        }

        var chain = tree.Path(chest, top).Where(j => j != chest).ToList();
        // Eyes, jaw or hair hang from the head; a bare last joint longer than the neck before it is only the tip of the head.
        var branch = chain.FindIndex(j => tree.Branches(j) > 1);
        var head = branch >= 0 ? branch : chain.Count - 1;
        if (branch < 0 && chain.Count >= 3 && (p[chain[^1]] - p[chain[^2]]).Length() > 1.25f * (p[chain[^2]] - p[chain[^3]]).Length())
        {
            head = chain.Count - 2;
        }

        roles[BodyRole.Head] = chain[head];
        if (head > 0)
        {
            roles[BodyRole.Neck] = chain[head - 1];
        }

        if (head > 1)
        {
            roles[BodyRole.NeckLower] = chain[head - 2];
        }
    }
}
