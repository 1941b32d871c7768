using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Assembly;

/// <summary>A turn and then a move of a whole clip.</summary>
/// <param name="Turn">About the origin.</param>
/// <param name="Move">Metres.</param>
public readonly record struct ClipPlacement(Quaternion Turn, Vector3 Move)
{
    /// <summary>A fit of poses that turns the pelvis farther than this from the other one is none, radians.</summary>
    private const float BackToFront = 1.05f;

    /// <summary>Where and as it is.</summary>
    public static ClipPlacement None { get; } = new(Quaternion.Identity, Vector3.Zero);

    /// <summary>Where a place of the clip comes to.</summary>
    public Vector3 Of(Vector3 place) => Vector3.Transform(place, Turn) + Move;

    /// <summary>The motion with its roots turned and moved.</summary>
    public Motion Lay(Motion motion)
    {
        if (this == None)
        {
            return motion;
        }

        var result = motion.Copy();
        var parents = motion.Skeleton.Parents;
        for (var j = 0; j < parents.Length; j++)
        {
            for (var k = j; parents[j] < 0 && k < result.Rotations.Length; k += parents.Length)
            {
                result.Rotations[k] = Quaternion.Normalize(Turn * result.Rotations[k]);
                result.Translations[k] = Of(result.Translations[k]);
            }
        }

        return result;
    }

    /// <summary>Where a later clip goes so that both meet as asked.</summary>
    /// <param name="start">First frame of the overlap in the earlier motion.</param>
    /// <param name="length">Of the overlap, frames; it begins at the later clip's first frame.</param>
    /// <param name="standing">A foot that stands in both for most of the overlap, if one does.</param>
    /// <exception cref="RefusedException">The skeleton has no joint of the asked role.</exception>
    public static ClipPlacement For(Motion a, int start, Motion b, int length, Meet meet, BodyRole? standing)
    {
        var k = meet.At(length);
        var n = a.Skeleton.Count;
        var (ra, pa) = (new Quaternion[n], new Vector3[n]);
        var (rb, pb) = (new Quaternion[n], new Vector3[n]);
        ForwardKinematics.World(a, start + k, ra, pa);
        ForwardKinematics.World(b, k, rb, pb);
        if (meet.Joint is { } asked && a.Skeleton.IndexOf(asked) < 0)
        {
            throw new RefusedException($"the skeleton has no joint that is the {asked}");
        }

        var all = Cloud(a, start, b, length);
        var joint = a.Skeleton.IndexOf(meet.Joint ?? standing ?? BodyRole.Root);
        var turn = meet.Turn switch
        {
            MeetTurn.None => Quaternion.Identity,
            MeetTurn.Full => Quaternion.Normalize(ra[Math.Max(0, joint)] * Quaternion.Conjugate(rb[Math.Max(0, joint)])),
            _ => meet.Joint is { } role ? Heading(a.Skeleton, role, ra, rb) : all.Turn,
        };
        Vector3 move;
        if (meet.Joint is null && standing is null)
        {
            // All joints together: their middles lie on each other.
            move = meet.Turn == MeetTurn.Heading ? all.Move : Middle(pa) - Vector3.Transform(Middle(pb), turn);
        }
        else if (meet.Joint is null)
        {
            // A standing foot is where it is on the average of the overlap, not where it happens to be in one frame; and it is as much toes as ankle,
            // so that one turned otherwise pivots about its middle.
            var toes = a.Skeleton.IndexOf(standing == BodyRole.FootL ? BodyRole.ToesL : BodyRole.ToesR);
            var (sa, sb) = (Mean(a, start, length, joint, toes), Mean(b, 0, length, joint, toes));
            move = sa - Vector3.Transform(sb, turn);
        }
        else
        {
            move = pa[joint] - Vector3.Transform(pb[joint], turn);
        }

        var anchor = joint >= 0 ? pb[joint] : Middle(pb);
        return new ClipPlacement(
            turn,
            meet.Place switch
            {
                MeetPlace.Full => meet.Joint is null && standing is null ? move with { Y = Middle(pa).Y - Middle(pb).Y } : move,
                MeetPlace.None => (anchor - Vector3.Transform(anchor, turn)) with { Y = 0 },
                _ => move with { Y = 0 },
            }
        );
    }

    private static ClipPlacement Cloud(Motion a, int start, Motion b, int length)
    {
        var fit = default(FloorFit);
        var n = a.Skeleton.Count;
        var (turns, pa, pb) = (new Quaternion[n], new Vector3[n], new Vector3[n]);
        for (var f = 0; f < length; f += Math.Max(1, length / 12))
        {
            ForwardKinematics.World(a, start + f, turns, pa);
            ForwardKinematics.World(b, f, turns, pb);
            fit.Add(pa, pb);
        }

        var (turn, move) = fit.Lay();
        // One pose of somebody upright says little of where it looks: the fit must not turn a body back to front.
        ForwardKinematics.World(a, start + (length / 2), turns, pa);
        var (ra, rb) = (turns, new Quaternion[n]);
        ForwardKinematics.World(b, length / 2, rb, pb);
        var looks = a.Skeleton.IndexOf(BodyRole.Pelvis) < 0 ? turn : Heading(a.Skeleton, BodyRole.Pelvis, ra, rb);
        return Rotations.Angle(turn, looks) < BackToFront
            ? new ClipPlacement(turn, move)
            : new ClipPlacement(looks, (Middle(pa) - Vector3.Transform(Middle(pb), looks)) with { Y = 0 });
    }

    /// <summary>How far a joint's heading is from the other's; of an arm, whose axes say nothing, the pelvis's.</summary>
    private static Quaternion Heading(Skeleton s, BodyRole role, Quaternion[] a, Quaternion[] b)
    {
        var body = BodyRoles.Section(role) is BodySection.Arm or BodySection.Hand ? s.IndexOf(BodyRole.Pelvis) : s.IndexOf(role);
        var j = body >= 0 ? body : s.IndexOf(role);
        return Rotations.Twist(Quaternion.Normalize(a[j] * Quaternion.Conjugate(b[j])), Vector3.UnitY);
    }

    private static Vector3 Middle(Vector3[] places) => places.Aggregate(Vector3.Zero, (s, p) => s + p) / places.Length;

    /// <summary>The mean place of a joint, or of two, over some frames.</summary>
    private static Vector3 Mean(Motion motion, int start, int length, int joint, int other)
    {
        var n = motion.Skeleton.Count;
        var (turns, places) = (new Quaternion[n], new Vector3[n]);
        var sum = Vector3.Zero;
        for (var f = 0; f < length; f++)
        {
            ForwardKinematics.World(motion, start + f, turns, places);
            sum += other >= 0 ? (places[joint] + places[other]) / 2 : places[joint];
        }

        return sum / length;
    }
}
