using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Characters.Sculpting;

/// <summary>A skeleton with roles in its T-pose facing +Z, as a sculptor needs it: where joints are, and bindings along trunk, limbs and fingers.</summary>
public sealed class FigureBones
{
    /// <summary>Share of a bend that each helper takes: two in a knee or an elbow, so that no two neighbours are more than 47° apart at 140°.</summary>
    private static readonly float[] Shares = [1 / 3f, 2 / 3f];

    private readonly Dictionary<BodyRole, int[]> _helpers = [];

    /// <param name="skeleton">With roles, at rest in the T-pose.</param>
    public FigureBones(Skeleton skeleton)
    {
        Skeleton = skeleton;
        var helpers = new List<SkinHelper>();
        foreach (var role in new[] { BodyRole.ForearmL, BodyRole.ForearmR, BodyRole.ShinL, BodyRole.ShinR })
        {
            var joint = J(role);
            _helpers[role] = [.. Shares.Select((_, k) => skeleton.Count + helpers.Count + k)];
            helpers.AddRange(Shares.Select((share, k) => new SkinHelper($"{skeleton[joint].Name}_bend{k + 1}", joint, share)));
        }

        Helpers = helpers;
        Unit = (Length(BodyRole.ThighL, BodyRole.ShinL) + Length(BodyRole.ShinL, BodyRole.FootL)) / 0.491f;
        foreach (var side in "LR")
        {
            _chains[$"Arm{side}"] = Arm(side);
            _chains[$"Leg{side}"] = Leg(side);
        }

        _chains["Trunk"] = Trunk();
    }

    private readonly Dictionary<string, SkinBinding> _chains = [];

    /// <summary>The skeleton.</summary>
    public Skeleton Skeleton { get; }

    /// <summary>Bones of the skin alone.</summary>
    public IReadOnlyList<SkinHelper> Helpers { get; }

    /// <summary>The stature that fits the legs, metres: unit of girths.</summary>
    public float Unit { get; }

    /// <summary>Pelvis to head.</summary>
    public SkinBinding TrunkBinding => _chains["Trunk"];

    /// <summary>Clavicle to hand.</summary>
    public SkinBinding ArmBinding(char side) => _chains[$"Arm{side}"];

    /// <summary>Pelvis to toes.</summary>
    public SkinBinding LegBinding(char side) => _chains[$"Leg{side}"];

    /// <summary>One joint alone.</summary>
    public SkinBinding Rigid(BodyRole role) => new RigidBinding(J(role));

    /// <summary>Place of a joint at rest, metres.</summary>
    public Vector3 P(BodyRole role) => Skeleton.RestPositions[J(role)];

    /// <summary>Shoulder, elbow and wrist at rest, metres.</summary>
    public (Vector3 Shoulder, Vector3 Elbow, Vector3 Wrist) ArmPlaces(char side) =>
        (P(Role("UpperArm", side)), P(Role("Forearm", side)), P(Role("Hand", side)));

    /// <summary>Hip, knee and ankle at rest, metres.</summary>
    public (Vector3 Hip, Vector3 Knee, Vector3 Ankle) LegPlaces(char side) =>
        (P(Role("Thigh", side)), P(Role("Shin", side)), P(Role("Foot", side)));

    /// <summary>Between the hips, and the root of the neck.</summary>
    public (Vector3 Low, Vector3 High) TrunkPlaces() =>
        (
            (P(BodyRole.ThighL) + P(BodyRole.ThighR)) / 2,
            Has(BodyRole.Neck) ? P(BodyRole.Neck) : Vector3.Lerp(P(BodyRole.Chest), P(BodyRole.Head), .6f)
        );

    /// <summary>A role by its stem and side.</summary>
    public static BodyRole Role(string stem, char side) => Enum.Parse<BodyRole>(stem + side);

    /// <summary>A finger's joint by its side, counted from 1.</summary>
    public static BodyRole Role(string finger, char side, int joint) => Enum.Parse<BodyRole>($"{finger}{side}{joint}");

    /// <summary>The rig has such a joint.</summary>
    public bool Has(BodyRole role) => Skeleton.IndexOf(role) >= 0;

    private int J(BodyRole role) =>
        Skeleton.IndexOf(role) is >= 0 and var j ? j : throw new ArgumentException($"The rig has no joint for {role}.", nameof(role));

    private float Length(BodyRole a, BodyRole b) => (P(b) - P(a)).Length();

    /// <summary>The palm and the bones of one finger.</summary>
    public SkinBinding FingerBinding(string finger, char side, float thick)
    {
        var steps = new List<ChainStep>();
        for (var n = 1; n <= 3 && Has(Role(finger, side, n)); n++)
        {
            var role = Role(finger, side, n);
            var next = n < 3 && Has(Role(finger, side, n + 1)) ? P(Role(finger, side, n + 1)) : End(role);
            steps.Add(new(J(role), P(role), Vector3.Normalize(next - P(role)), thick * .8f));
        }

        return new ChainBinding(J(Role("Hand", side)), steps);
    }

    /// <summary>End of the last bone of a chain, metres.</summary>
    public Vector3 End(BodyRole role)
    {
        var j = J(role);
        var own = Skeleton[j].EndSite ?? Skeleton[j].Offset * .8f;
        return Skeleton.RestPositions[j] + Vector3.Transform(own, Skeleton.RestRotations[j]);
    }

    private ChainBinding Trunk()
    {
        var steps = new List<ChainStep>();
        BodyRole[] up = [.. BodyRoles.Spine.Where(r => r != BodyRole.Pelvis && Has(r))];
        for (var k = 0; k < up.Length; k++)
        {
            var below = k == 0 ? P(BodyRole.Pelvis) : P(up[k - 1]);
            var above = P(up[k]);
            // Backs bend over their whole length: each joint's turn is spread over the bones beside it.
            var next =
                k + 1 < up.Length ? P(up[k + 1])
                : Has(BodyRole.Neck) ? P(BodyRole.Neck)
                : P(BodyRole.Head);
            steps.Add(new(J(up[k]), above, Vector3.Normalize(next - below), MathF.Max(.02f * Unit, (next - below).Length() * .42f)));
        }

        if (Has(BodyRole.NeckLower))
        {
            steps.Add(new(J(BodyRole.NeckLower), P(BodyRole.NeckLower), Vector3.UnitY, .02f * Unit));
        }

        if (Has(BodyRole.Neck))
        {
            steps.Add(new(J(BodyRole.Neck), P(BodyRole.Neck), Vector3.UnitY, .022f * Unit));
        }

        var neck = Has(BodyRole.Neck) ? P(BodyRole.Neck) : Vector3.Lerp(P(BodyRole.Chest), P(BodyRole.Head), .6f);
        steps.Add(new(J(BodyRole.Head), P(BodyRole.Head), Vector3.UnitY, MathF.Max(.012f, (P(BodyRole.Head) - neck).Length() * .5f)));
        return new ChainBinding(J(BodyRole.Pelvis), steps);
    }

    private ChainBinding Arm(char side)
    {
        var (shoulder, elbow, wrist) = ArmPlaces(side);
        var (upper, lower) = (Vector3.Normalize(elbow - shoulder), Vector3.Normalize(wrist - elbow));
        var first = Has(Role("Clavicle", side)) ? J(Role("Clavicle", side)) : J(BodyRole.Chest);
        var steps = new List<ChainStep> { new(J(Role("UpperArm", side)), shoulder, upper, .034f * Unit) };
        if (Has(Role("UpperArmTwist", side)))
        {
            steps.Add(new(J(Role("UpperArmTwist", side)), P(Role("UpperArmTwist", side)), upper, (elbow - shoulder).Length() * .3f));
        }

        Bend(steps, Role("Forearm", side), Vector3.Normalize(upper + lower), .021f * Unit);
        if (Has(Role("ForearmTwist", side)))
        {
            steps.Add(new(J(Role("ForearmTwist", side)), P(Role("ForearmTwist", side)), lower, (wrist - elbow).Length() * .3f));
        }

        steps.Add(new(J(Role("Hand", side)), wrist, lower, .012f * Unit));
        return new ChainBinding(first, steps);
    }

    private ChainBinding Leg(char side)
    {
        var (hip, knee, ankle) = LegPlaces(side);
        var (upper, lower) = (Vector3.Normalize(knee - hip), Vector3.Normalize(ankle - knee));
        var out_ = new Vector3(side == 'L' ? 1 : -1, 0, 0);
        // Leaned outwards: the crotch stays with the pelvis, the outer hip goes with the thigh.
        var steps = new List<ChainStep> { new(J(Role("Thigh", side)), hip, Vector3.Normalize(upper + (out_ * .55f)), .042f * Unit) };
        Bend(steps, Role("Shin", side), Vector3.Normalize(upper + lower), .026f * Unit);
        var toes = Has(Role("Toes", side)) ? P(Role("Toes", side)) : ankle + new Vector3(0, -.03f, .076f) * Unit;
        steps.Add(new(J(Role("Foot", side)), ankle, Vector3.Normalize(lower + Vector3.Normalize(toes - ankle)), .014f * Unit));
        if (Has(Role("Toes", side)))
        {
            steps.Add(new(J(Role("Toes", side)), toes, Vector3.UnitZ, .014f * Unit));
        }

        return new ChainBinding(J(BodyRole.Pelvis), steps);
    }

    /// <summary>A hinge: the helpers take over one after the other, then the joint itself.</summary>
    private void Bend(List<ChainStep> steps, BodyRole role, Vector3 along, float half)
    {
        int[] bones = [.. _helpers[role], J(role)];
        var width = 2 * half / bones.Length;
        for (var k = 0; k < bones.Length; k++)
        {
            steps.Add(new(bones[k], P(role) + (along * (width * (k - ((bones.Length - 1) / 2f)))), along, width * .55f));
        }
    }
}
