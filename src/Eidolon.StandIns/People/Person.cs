using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.StandIns.People;

/// <summary>A stand-in performer: body, handedness and the seed of their habits.</summary>
/// <param name="Stature">Metres.</param>
/// <param name="ArmScale">Arm length against the average.</param>
/// <param name="Spread">
/// How far each limb's share of the stature may be off the average, each for itself; and how much left and right may differ, as a share of 6 mm at 0.12.
/// 0 is a body much like the average.
/// </param>
public sealed record Person(string Name, float Stature, float ArmScale, int Seed, float Spread = 0)
{
    /// <summary>The true skeleton: average proportions with this person's own deviations, left and right a little different.</summary>
    public Skeleton Skeleton { get; } = Build(Stature, ArmScale, Seed, Spread);

    private static Skeleton Build(float stature, float arms, int seed, float spread)
    {
        var random = new Random(seed);
        float Vary(float share) => 1 + ((random.NextSingle() - 0.5f) * 2 * share);
        float leg = Vary(0.03f),
            spine = Vary(0.02f),
            hip = Vary(0.06f),
            shoulder = Vary(0.05f);
        var average = Anthropometry.Body(stature, arms);
        var joints = average
            .Joints.Select(j =>
            {
                var name = j.Name;
                var own = Vary(0.004f);
                var o = j.Offset;
                o =
                    name.StartsWith("Shin", StringComparison.Ordinal) || name.StartsWith("Foot", StringComparison.Ordinal) ? o * leg * own
                    : name.StartsWith("Thigh", StringComparison.Ordinal) ? o * new Vector3(hip, 1, 1)
                    : name.StartsWith("UpperArm", StringComparison.Ordinal) ? o * new Vector3(shoulder, 1, 1)
                    : name.StartsWith("Forearm", StringComparison.Ordinal) || name.StartsWith("Hand", StringComparison.Ordinal) ? o * own
                    : j.Parent >= 0 && BodyRoles.Side(j.Role!.Value) == 'C' ? o * spine
                    : o;
                return j with { Offset = o };
            })
            .ToList();
        Deviate(joints, seed, spread);
        var body = new Skeleton(joints);
        var ankle = body.RestPositions[body.IndexOf(BodyRole.FootL)].Y;
        joints[0] = joints[0] with { Offset = joints[0].Offset + new Vector3(0, (0.039f * stature) - ankle, 0) };
        return new Skeleton(joints);
    }

    /// <summary>Every limb is longer or shorter for itself, and the two sides are not alike.</summary>
    private static void Deviate(List<Joint> joints, int seed, float spread)
    {
        const float unequal = 0.006f / 0.12f;
        var random = new Random(seed * 7 + 1);
        var shares = new Dictionary<string, float>(StringComparer.Ordinal);
        for (var j = 1; j < joints.Count && spread > 0; j++)
        {
            var role = joints[j].Role!.Value;
            var part = BodyRoles.Stem(role);
            if (!shares.TryGetValue(part, out var share))
            {
                shares[part] = share = 1 + (((random.NextSingle() * 2) - 1) * spread);
            }

            var o = joints[j].Offset * share;
            if (BodyRoles.Side(role) == 'L' && o.Length() > 0.1f)
            {
                o += Vector3.Normalize(o) * (((random.NextSingle() * 2) - 1) * unequal * spread);
            }

            joints[j] = joints[j] with { Offset = o };
        }
    }
}
