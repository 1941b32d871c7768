using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Cleaning;

/// <summary>
/// When heels, toes, knees and hands are planted. A heel strikes while the ankle still rolls over it, so its own path is followed: below and behind
/// the ankle, as the foot lies in rest. Knees and hands count only near the floor.
/// </summary>
public static class PointContacts
{
    /// <summary>A wrist or knee joint of someone kneeling or creeping is no higher than this above the lowest toe, as a share of the leg.</summary>
    private const float Low = 0.24f;

    /// <summary>The heel lies so far behind the ankle, as a share of the way from ankle to toes.</summary>
    private const float Behind = 0.35f;

    /// <summary>A pelvis that sits moves slower than this, metres a second; is lower above the feet than this, and farther from them over the floor than that, as shares of the leg; for so long.</summary>
    private const float SeatStill = 0.12f,
        SeatLow = 0.75f,
        SeatBehind = 0.35f;

    private const double SeatSeconds = 0.3;

    public static List<PointContact> Find(Motion motion)
    {
        var skeleton = motion.Skeleton;
        var (turns, places) = Rest(skeleton);
        var world = ForwardKinematics.WorldPositions(motion);
        var floor = Floor(motion, world);
        var contacts = new List<PointContact>();
        Vector3[] Path(BodyRole role, Vector3 local)
        {
            var joint = skeleton.IndexOf(role);
            var path = new Vector3[motion.FrameCount];
            var (r, p) = (new Quaternion[skeleton.Count], new Vector3[skeleton.Count]);
            for (var f = 0; f < path.Length; f++)
            {
                if (local == Vector3.Zero)
                {
                    path[f] = world[(f * skeleton.Count) + joint];
                    continue;
                }

                ForwardKinematics.World(motion, f, r, p);
                path[f] = p[joint] + Vector3.Transform(local, r[joint]);
            }

            return path;
        }

        foreach (var side in "LR")
        {
            BodyRole Of(string part) => Enum.Parse<BodyRole>(part + side);
            int foot = skeleton.IndexOf(Of("Foot")),
                toes = skeleton.IndexOf(Of("Toes"));
            if (foot >= 0 && toes >= 0)
            {
                var along = places[toes] - places[foot];
                var heel = new Vector3(-along.X * Behind, along.Y, -along.Z * Behind);
                contacts.AddRange(
                    ContactFinder
                        .Find(Path(Of("Foot"), Vector3.Transform(heel, Quaternion.Conjugate(turns[foot]))), motion.FrameRate)
                        .Select(c => new PointContact(ContactPoint.Heel, side, c.Start, c.End))
                );
                contacts.AddRange(
                    ContactFinder
                        .Find(Path(Of("Toes"), Vector3.Zero), motion.FrameRate)
                        .Select(c => new PointContact(ContactPoint.Toe, side, c.Start, c.End))
                );
            }

            int thigh = skeleton.IndexOf(Of("Thigh"));
            if (thigh < 0 || foot < 0)
            {
                continue;
            }

            var low = Low * (places[thigh] - places[foot]).Length();
            foreach (var (part, point) in new[] { ("Shin", ContactPoint.Knee), ("Hand", ContactPoint.Hand) })
            {
                if (skeleton.IndexOf(Of(part)) < 0)
                {
                    continue;
                }

                var path = Path(Of(part), Vector3.Zero);
                contacts.AddRange(
                    ContactFinder
                        .Find(path, motion.FrameRate)
                        .Where(c => Enumerable.Range(c.Start, c.End - c.Start + 1).Average(f => path[f].Y - floor) < low)
                        .Select(c => new PointContact(point, side, c.Start, c.End))
                );
            }
        }

        contacts.AddRange(Seat(motion, world));
        return [.. contacts.OrderBy(c => c.Start)];
    }

    /// <summary>The joint that shows a contact.</summary>
    public static BodyRole RoleOf(PointContact c) =>
        c.Point switch
        {
            ContactPoint.Heel => c.Side == 'L' ? BodyRole.FootL : BodyRole.FootR,
            ContactPoint.Toe => c.Side == 'L' ? BodyRole.ToesL : BodyRole.ToesR,
            ContactPoint.Knee => c.Side == 'L' ? BodyRole.ShinL : BodyRole.ShinR,
            ContactPoint.Hand => c.Side == 'L' ? BodyRole.HandL : BodyRole.HandR,
            _ => BodyRole.Pelvis,
        };

    /// <summary>Somebody sits when the pelvis rests low and far behind the feet: no one stands like that.</summary>
    private static IEnumerable<PointContact> Seat(Motion motion, Vector3[] world)
    {
        var s = motion.Skeleton;
        int pelvis = s.IndexOf(BodyRole.Pelvis),
            left = s.IndexOf(BodyRole.FootL),
            right = s.IndexOf(BodyRole.FootR),
            thigh = s.IndexOf(BodyRole.ThighL),
            shin = s.IndexOf(BodyRole.ShinL);
        if (pelvis < 0 || left < 0 || right < 0 || thigh < 0 || shin < 0)
        {
            yield break;
        }

        var leg = s[shin].Offset.Length() + s[left].Offset.Length();
        var start = -1;
        for (var f = 1; f <= motion.FrameCount; f++)
        {
            var sits = false;
            if (f < motion.FrameCount)
            {
                Vector3 hip = world[(f * s.Count) + pelvis],
                    feet = (world[(f * s.Count) + left] + world[(f * s.Count) + right]) / 2;
                var speed = (hip - world[((f - 1) * s.Count) + pelvis]).Length() * motion.FrameRate;
                sits =
                    speed < SeatStill
                    && hip.Y - feet.Y < SeatLow * leg
                    && new Vector2(hip.X - feet.X, hip.Z - feet.Z).Length() > SeatBehind * leg;
            }

            if (sits && start < 0)
            {
                start = f;
            }
            else if (!sits && start >= 0)
            {
                if (f - start >= SeatSeconds * motion.FrameRate)
                {
                    yield return new PointContact(ContactPoint.Seat, 'C', start, f - 1);
                }

                start = -1;
            }
        }
    }

    /// <summary>Height of the lowest toe or foot of the motion.</summary>
    private static float Floor(Motion motion, Vector3[] world)
    {
        var low = float.PositiveInfinity;
        foreach (var role in new[] { BodyRole.FootL, BodyRole.FootR, BodyRole.ToesL, BodyRole.ToesR })
        {
            var joint = motion.Skeleton.IndexOf(role);
            for (var f = 0; joint >= 0 && f < motion.FrameCount; f++)
            {
                low = MathF.Min(low, world[(f * motion.Skeleton.Count) + joint].Y);
            }
        }

        return low;
    }

    private static (Quaternion[] Turns, Vector3[] Places) Rest(Skeleton skeleton)
    {
        var (turns, places) = (new Quaternion[skeleton.Count], new Vector3[skeleton.Count]);
        ForwardKinematics.World(
            skeleton,
            [.. skeleton.Joints.Select(j => j.RestRotation)],
            [.. skeleton.Joints.Select(j => j.Offset)],
            turns,
            places
        );
        return (turns, places);
    }
}
