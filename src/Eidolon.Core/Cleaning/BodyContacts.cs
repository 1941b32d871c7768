using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Cleaning;

/// <summary>
/// The one model of what is planted when: heels, toes, knees, hands and seat as a person sees and corrects them, and the ankles and toes that a
/// retarget, a blend or a measure holds on to. A heel strikes while the ankle still rolls over it, so its own path is followed: below and behind
/// the ankle, as the foot lies in rest. Knees and hands count only near the floor.
/// </summary>
public sealed class BodyContacts
{
    /// <summary>A wrist or knee joint of someone kneeling or creeping is no higher than this above the lowest toe, as a share of the leg.</summary>
    private const float Low = 0.24f;

    /// <summary>
    /// The heel rolls on one of these places of its sole: so far behind the ankle, and so far below it, as shares of the way from ankle to toes over the floor
    /// and down. Where it is on a foot is known of nobody.
    /// </summary>
    private static readonly (float Behind, float Below)[] HeelPlaces = [(0.35f, 1), (0.25f, 1.15f), (0.45f, 1.15f), (0.45f, 1.4f)];

    /// <summary>A heel that rolls over onto the toes stands no shorter than this, seconds.</summary>
    private const double RollSeconds = 0.045;

    /// <summary>
    /// A pelvis that sits moves slower than this, metres a second; is lower above the feet than this, and farther from them over the floor than
    /// that, as shares of the leg; for so long.
    /// </summary>
    private const float SeatStill = 0.12f,
        SeatLow = 0.75f,
        SeatBehind = 0.35f;

    private const double SeatSeconds = 0.3;

    private readonly Motion _motion;
    private readonly Vector3[] _world;
    private readonly Quaternion[] _turns;
    private readonly Lazy<IReadOnlyList<PointContact>> _points;
    private readonly Lazy<IReadOnlyList<Contact>> _joints;

    private BodyContacts(Motion motion, IReadOnlyList<ContactEdit> edits)
    {
        _motion = motion;
        _turns = new Quaternion[motion.Rotations.Length];
        _world = ForwardKinematics.WorldPositions(motion, _turns);
        // Most ask for one of the two only.
        _points = new(() => ContactEdits.Apply(FindPoints(), edits));
        _joints = new(() => ContactEdits.Apply(FindJoints(), edits));
    }

    /// <summary>Heels, toes, knees, hands and seat, in order of time.</summary>
    public IReadOnlyList<PointContact> Points => _points.Value;

    /// <summary>Ankles and toes that stay where they are, in order of role and time: an ankle rolls on while its heel already stands.</summary>
    public IReadOnlyList<Contact> Joints => _joints.Value;

    /// <param name="motion">Its skeleton has roles; without feet there are no contacts of joints.</param>
    /// <param name="edits">What a person has decided, in order; it stands over what is found.</param>
    public static BodyContacts Find(Motion motion, IReadOnlyList<ContactEdit>? edits = null) => new(motion, edits ?? []);

    /// <summary>The way of a place that is fixed to a joint, metres, a frame each.</summary>
    /// <param name="local">In the joint's frame.</param>
    private Vector3[] Path(int joint, Vector3 local = default)
    {
        var path = new Vector3[_motion.FrameCount];
        for (var f = 0; f < path.Length; f++)
        {
            var at = (f * _motion.Skeleton.Count) + joint;
            path[f] = local == Vector3.Zero ? _world[at] : _world[at] + Vector3.Transform(local, _turns[at]);
        }

        return path;
    }

    private List<Contact> FindJoints()
    {
        var contacts = new List<Contact>();
        foreach (var role in new[] { BodyRole.FootL, BodyRole.ToesL, BodyRole.FootR, BodyRole.ToesR })
        {
            if (_motion.Skeleton.IndexOf(role) is >= 0 and var joint)
            {
                contacts.AddRange(Whole([Path(joint)], _motion.FrameRate).Select(c => new Contact(role, c.Start, c.End)));
            }
        }

        return contacts;
    }

    /// <summary>Planted ranges in whole frames.</summary>
    private static IEnumerable<(int Start, int End)> Whole(
        IReadOnlyList<Vector3[]> points,
        double rate,
        double shortest = PlantedRanges.ShortestSeconds
    ) =>
        PlantedRanges
            .Find(points, rate, shortest)
            .Select(r => (Start: (int)Math.Ceiling(r.Start - 1e-9), End: (int)Math.Floor(r.End + 1e-9)))
            .Where(r => r.End >= r.Start);

    private List<PointContact> FindPoints()
    {
        var (motion, skeleton) = (_motion, _motion.Skeleton);
        var (turns, places) = Rest(skeleton);
        var floor = Floor();
        var contacts = new List<PointContact>();
        foreach (var side in "LR")
        {
            BodyRole Of(string part) => Enum.Parse<BodyRole>(part + side);
            int foot = skeleton.IndexOf(Of("Foot")),
                toes = skeleton.IndexOf(Of("Toes"));
            if (foot >= 0 && toes >= 0)
            {
                var along = places[toes] - places[foot];
                var flat = new Vector3(along.X, 0, along.Z);
                var heel = HeelPlaces
                    .Select(h =>
                        Path(
                            foot,
                            Vector3.Transform((flat * -h.Behind) + new Vector3(0, along.Y * h.Below, 0), Quaternion.Conjugate(turns[foot]))
                        )
                    )
                    .ToArray();
                var toe = Whole([Path(toes)], motion.FrameRate).ToList();
                // A running heel rolls over in no time, but its toes stand at once.
                var rolls = (int)(RollSeconds * motion.FrameRate) + 1;
                contacts.AddRange(
                    Whole(heel, motion.FrameRate, RollSeconds)
                        .Where(h =>
                            (h.End - h.Start + 1) / motion.FrameRate >= PlantedRanges.ShortestSeconds
                            || toe.Exists(t => t.Start <= h.End + rolls && t.End > h.End)
                        )
                        .Select(h => new PointContact(ContactPoint.Heel, side, h.Start, h.End))
                );
                contacts.AddRange(toe.Select(t => new PointContact(ContactPoint.Toe, side, t.Start, t.End)));
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

                var path = Path(skeleton.IndexOf(Of(part)));
                contacts.AddRange(
                    Whole([path], motion.FrameRate)
                        .Where(c => Enumerable.Range(c.Start, c.End - c.Start + 1).Average(f => path[f].Y - floor) < low)
                        .Select(c => new PointContact(point, side, c.Start, c.End))
                );
            }
        }

        contacts.AddRange(Seat(motion, _world));
        return contacts;
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
    private float Floor()
    {
        var low = float.PositiveInfinity;
        foreach (var role in new[] { BodyRole.FootL, BodyRole.FootR, BodyRole.ToesL, BodyRole.ToesR })
        {
            var joint = _motion.Skeleton.IndexOf(role);
            for (var f = 0; joint >= 0 && f < _motion.FrameCount; f++)
            {
                low = MathF.Min(low, _world[(f * _motion.Skeleton.Count) + joint].Y);
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
