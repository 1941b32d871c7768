using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.StandIns.People;

/// <summary>A stand-in performer: body, handedness and the seed of their habits.</summary>
public sealed record Person(string Name, float Stature, float ArmScale, int Seed)
{
    /// <summary>The true skeleton: average proportions with this person's own deviations, left and right a little different.</summary>
    public Skeleton Skeleton { get; } = Build(Stature, ArmScale, Seed);

    private static Skeleton Build(float stature, float arms, int seed)
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
        var body = new Skeleton(joints);
        var ankle = body.RestPositions[body.IndexOf(BodyRole.FootL)].Y;
        joints[0] = joints[0] with { Offset = joints[0].Offset + new Vector3(0, (0.039f * stature) - ankle, 0) };
        return new Skeleton(joints);
    }
}
