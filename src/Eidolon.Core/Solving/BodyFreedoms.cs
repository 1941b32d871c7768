using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Solving;

/// <summary>Which way the joints of a body turn, from the T-pose facing +Z: spreads and limits in one table.</summary>
/// <remarks>Ranges after Kapandji, "The Physiology of the Joints", rounded outwards.</remarks>
public static class BodyFreedoms
{
    /// <summary>Hinge-like joints turn about one axis after another, the main one first; a ball joint's rotation vector would mix bend and twist.</summary>
    private static readonly Dictionary<string, int[]> Sequences = new(StringComparer.Ordinal)
    {
        ["Forearm"] = [1, 2, 0],
        ["Hand"] = [2, 1, 0],
        ["Shin"] = [0, 2, 1],
        ["Toes"] = [0, 2, 1],
    };

    private const double Any = double.PositiveInfinity;

    /// <summary>Degrees: spread about X, Y, Z, then low and high about X, Y, Z for a left joint.</summary>
    private static readonly Dictionary<string, double[]> Table = new(StringComparer.Ordinal)
    {
        ["SpineLower"] = [14, 10, 10, -30, 60, -25, 25, -30, 30],
        ["SpineMid"] = [12, 10, 10, -30, 50, -25, 25, -30, 30],
        ["SpineUpper"] = [12, 10, 10, -30, 50, -25, 25, -30, 30],
        ["Chest"] = [12, 12, 10, -30, 50, -30, 30, -30, 30],
        ["Neck"] = [20, 25, 18, -50, 60, -60, 60, -45, 45],
        ["Head"] = [25, 30, 20, -50, 50, -60, 60, -45, 45],
        ["Clavicle"] = [6, 14, 14, -20, 20, -40, 40, -25, 50],
        ["UpperArm"] = [80, 90, 90, -130, 130, -150, 150, -130, 130],
        ["Forearm"] = [50, Any, 4, -110, 110, -160, 8, -8, 8],
        ["Hand"] = [4, 25, 50, -8, 8, -45, 45, -95, 95],
        ["Thigh"] = [90, 40, 40, -140, 50, -65, 65, -60, 70],
        ["Shin"] = [Any, 9, 3, -8, 165, -35, 35, -7, 7],
        ["Foot"] = [45, 20, 20, -60, 70, -50, 50, -45, 45],
        ["Toes"] = [25, 2, 2, -80, 50, -4, 4, -4, 4],
    };

    /// <summary>The freedom of a role's joint; the pelvis also translates.</summary>
    public static JointFreedom Of(BodyRole role)
    {
        if (role is BodyRole.Pelvis or BodyRole.Root)
        {
            return new JointFreedom(true, true, []);
        }

        var stem = BodyRoles.Stem(role);
        if (!Table.TryGetValue(stem, out var row))
        {
            row = [30, 10, 30, -100, 100, -40, 40, -100, 100];
        }

        const double r = Math.PI / 180;
        // A right joint mirrors a left one at the body's middle plane: turns about Y and Z change sign.
        var mirror = BodyRoles.Side(role) == 'R';
        (double, double) Range(int axis) =>
            mirror && axis > 0 ? (-row[4 + (axis * 2)] * r, -row[3 + (axis * 2)] * r) : (row[3 + (axis * 2)] * r, row[4 + (axis * 2)] * r);
        var axes = Sequences.GetValueOrDefault(stem);
        int[] order = axes ?? [0, 1, 2];
        return new JointFreedom(false, axes is null, axes ?? [])
        {
            Spread = [.. order.Select(a => row[a] * r)],
            Limits = [.. order.Select(Range)],
        };
    }

    /// <summary>The same freedom in the frame that defines rest: every turn is near zero there, arms a little less so.</summary>
    public static JointFreedom AtRest(BodyRole role)
    {
        var free = Of(role);
        var spread = role switch
        {
            BodyRole.Pelvis or BodyRole.Root => 4.0,
            BodyRole.UpperArmL or BodyRole.UpperArmR => 6,
            BodyRole.ForearmL or BodyRole.ForearmR or BodyRole.HandL or BodyRole.HandR => 5,
            BodyRole.ThighL or BodyRole.ThighR => 4,
            _ => 2,
        };
        return free with { Spread = [.. Enumerable.Repeat(spread * Math.PI / 180, 3)], Limits = [] };
    }
}
