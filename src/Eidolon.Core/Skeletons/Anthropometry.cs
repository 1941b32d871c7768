using System.Numerics;

namespace Eidolon.Core.Skeletons;

/// <summary>A body of average proportions for a given stature, in the T-pose, facing +Z, feet on the floor.</summary>
/// <remarks>Segment lengths after Winter, "Biomechanics and Motor Control of Human Movement", fig. 4.1 (Drillis &amp; Contini).</remarks>
public static class Anthropometry
{
    private static readonly (BodyRole Role, BodyRole? Parent, float X, float Y, float Z)[] Centre =
    [
        (BodyRole.Pelvis, null, 0, .545f, 0),
        (BodyRole.SpineLower, BodyRole.Pelvis, 0, .040f, -.006f),
        (BodyRole.SpineUpper, BodyRole.SpineLower, 0, .070f, -.004f),
        (BodyRole.Chest, BodyRole.SpineUpper, 0, .072f, 0),
        (BodyRole.Neck, BodyRole.Chest, 0, .105f, .002f),
        (BodyRole.Head, BodyRole.Neck, 0, .052f, .010f),
    ];

    private static readonly (string Stem, string Parent, float X, float Y, float Z)[] Sides =
    [
        ("Clavicle", "Chest", .014f, .078f, .014f),
        ("UpperArm", "Clavicle", .093f, .006f, -.014f),
        ("Forearm", "UpperArm", .172f, 0, 0),
        ("Hand", "Forearm", .148f, 0, 0),
        ("Thigh", "Pelvis", .051f, -.015f, 0),
        ("Shin", "Thigh", 0, -.245f, 0),
        ("Foot", "Shin", 0, -.246f, 0),
        ("Toes", "Foot", .004f, -.030f, .076f),
    ];

    /// <summary>The 22 joints a solve works with.</summary>
    /// <param name="stature">Body height, metres.</param>
    /// <param name="armScale">Arm length against the average.</param>
    public static Skeleton Body(float stature, float armScale = 1)
    {
        var joints = new List<Joint>();
        var index = new Dictionary<string, int>(StringComparer.Ordinal);
        void Add(string name, int parent, Vector3 offset)
        {
            index[name] = joints.Count;
            var end =
                name == "Head" ? new Vector3(0, .10f, .01f) * stature
                : name.StartsWith("Hand", StringComparison.Ordinal) ? new Vector3(name[^1] == 'L' ? .095f : -.095f, 0, 0) * stature
                : name.StartsWith("Toes", StringComparison.Ordinal) ? new Vector3(0, -.006f, .042f) * stature
                : (Vector3?)null;
            joints.Add(new Joint(name, parent, offset) { Role = Enum.Parse<BodyRole>(name), EndSite = end });
        }

        foreach (var c in Centre)
        {
            Add(c.Role.ToString(), c.Parent is { } p ? index[p.ToString()] : -1, new Vector3(c.X, c.Y, c.Z) * stature);
        }

        foreach (var side in "LR")
        {
            var sign = side == 'L' ? 1 : -1;
            foreach (var s in Sides)
            {
                var parent = s.Parent is "Chest" or "Pelvis" ? s.Parent : s.Parent + side;
                var arm = s.Stem is "Forearm" or "Hand" ? armScale : 1;
                Add(s.Stem + side, index[parent], new Vector3(s.X * sign, s.Y, s.Z) * stature * arm);
            }
        }

        return new Skeleton(joints);
    }

    /// <summary>Share of the body's mass that moves with each role's segment (de Leva 1996, mean of both sexes).</summary>
    public static float MassShare(BodyRole role) =>
        role switch
        {
            BodyRole.Pelvis => .115f,
            BodyRole.SpineLower => .08f,
            BodyRole.SpineMid => .05f,
            BodyRole.SpineUpper => .08f,
            BodyRole.Chest => .155f,
            BodyRole.Head => .068f,
            BodyRole.UpperArmL or BodyRole.UpperArmR => .026f,
            BodyRole.ForearmL or BodyRole.ForearmR => .015f,
            BodyRole.HandL or BodyRole.HandR => .006f,
            BodyRole.ThighL or BodyRole.ThighR => .145f,
            BodyRole.ShinL or BodyRole.ShinR => .0457f,
            BodyRole.FootL or BodyRole.FootR => .0133f,
            _ => 0,
        };
}
