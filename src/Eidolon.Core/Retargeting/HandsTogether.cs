using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>While both hands have hold of one thing: one leads, the other keeps to it.</summary>
/// <param name="Lead">HandL or HandR: it keeps its turn, and says how the thing is turned.</param>
/// <param name="Start">First frame on which both hold.</param>
/// <param name="End">Last one, inside.</param>
public sealed record JoinedHands(BodyRole Lead, int Start, int End);

/// <summary>How near to each other the hands came.</summary>
/// <param name="Short">How far apart from what they hold they stay at most and at which frame, in the order they were given.</param>
/// <param name="MovedMillimetres">How far a hand was moved at most.</param>
public sealed record TogetherReport(IReadOnlyList<(double Millimetres, int Frame)> Short, double MovedMillimetres);

/// <summary>
/// Two hands on one thing, on a character of other proportions: the hands lie to each other as the performer's did, in place and turn, so that what
/// lies in the one fits the other. Each comes half of the way, and where arms are too short for that both carry it a little nearer; shoulders stay.
/// </summary>
public static class HandsTogether
{
    /// <summary>They come to each other and part within this, seconds.</summary>
    private const double Ease = 0.35;

    /// <summary>An arm that was not straighter reaches so far, as a share of its length.</summary>
    private const float Reachable = 0.985f;

    /// <summary>Rounds of projections onto what both arms reach.</summary>
    private const int Rounds = 40;

    /// <summary>How far both carry it nearer changes no faster than over this, seconds.</summary>
    private const double Nearer = 0.15;

    /// <param name="performer">As recorded; frame 0 is frame 0 of the character's.</param>
    /// <param name="character">Its skeleton has roles.</param>
    /// <exception cref="RefusedException">A hand or arm is missing, or a stretch has no frames; says which.</exception>
    public static (Motion Motion, TogetherReport Report) Apply(
        Motion performer,
        Motion character,
        IReadOnlyList<JoinedHands> stretches,
        CancellationToken cancel = default
    )
    {
        var turns = new Quaternion[performer.Rotations.Length];
        ForwardKinematics.WorldPositions(performer, turns);
        var fastest = FastestTurn.Find(performer.Skeleton, turns).Angle;
        var result = character.Copy();
        var told = new List<(double, int)>();
        var moved = 0f;
        foreach (var stretch in stretches)
        {
            cancel.ThrowIfCancellationRequested();
            var pair = new Pair(performer, result, stretch);
            pair.Join(result, fastest);
            told.Add(pair.Apart(result));
            moved = MathF.Max(moved, pair.Moved);
        }

        return (result, new TogetherReport(told, moved * 1000));
    }

    /// <summary>One of the two arms over the frames of a stretch: where its wrist belongs and how its hand is turned.</summary>
    private sealed class Arm(Motion performer, Motion character, BodyRole hand, int first, int last)
    {
        public PalmPath Was { get; } = new(performer, hand, first, last);

        public PalmPath Now { get; } = new(character, hand, first, last);

        public LimbReach Limb { get; } = Of(character.Skeleton, hand);

        public Quaternion Pose { get; } = TPose.Of(character.Skeleton).Turns[character.Skeleton.IndexOf(hand)];

        public Vector3[] Shoulders { get; } = new Vector3[last - first + 1];

        public Vector3[] Wrists { get; } = new Vector3[last - first + 1];

        public Quaternion[] Turns { get; } = new Quaternion[last - first + 1];

        /// <summary>How far each frame lets it reach, metres.</summary>
        public float[] Reaches { get; } = new float[last - first + 1];

        private static LimbReach Of(Skeleton s, BodyRole hand)
        {
            var (upper, lower, end) = LimbRoles.Arms[hand == BodyRole.HandL ? 0 : 1];
            return s.IndexOf(upper) >= 0 && s.IndexOf(lower) >= 0
                ? new LimbReach(s, upper, lower, end)
                : throw new RefusedException($"there is no {(hand == BodyRole.HandL ? "left" : "right")} arm to be brought along");
        }
    }

    /// <summary>Both hands of one stretch, on the performer and on the character.</summary>
    private sealed class Pair
    {
        private readonly int _start;
        private readonly int _end;
        private readonly int _first;
        private readonly int _last;
        private readonly int _ease;
        private readonly JoinedHands _stretch;
        private readonly Arm _lead;
        private readonly Arm _follow;

        public Pair(Motion performer, Motion character, JoinedHands stretch)
        {
            var frames = Math.Min(performer.FrameCount, character.FrameCount);
            (_stretch, _start, _end) = (stretch, stretch.Start, Math.Min(stretch.End, frames - 1));
            if (_start < 0 || _start > _end)
            {
                throw new RefusedException($"both hands have no frames here: {stretch.Start} to {stretch.End} of {frames}");
            }

            _ease = Math.Max(1, (int)Math.Round(Ease * character.FrameRate));
            (_first, _last) = (Math.Max(0, _start - _ease), Math.Min(frames - 1, _end + _ease));
            _lead = new Arm(performer, character, stretch.Lead, _first, _last);
            _follow = new Arm(performer, character, BodyRoles.Mirror(stretch.Lead), _first, _last);
        }

        /// <summary>How far a hand was moved at most, metres.</summary>
        public float Moved { get; private set; }

        /// <summary>All of it while both hold; it comes before and goes after.</summary>
        private float Share(int f) => CubicSpline.MinimumJerk(1 - ((f < _start ? _start - f : Math.Max(0, f - _end)) / (float)(_ease + 1)));

        /// <summary>Brings the hands to each other, in place.</summary>
        public void Join(Motion character, float fastest)
        {
            var s = character.Skeleton;
            var (turns, places) = (new Quaternion[s.Count], new Vector3[s.Count]);
            for (var f = _first; f <= _last; f++)
            {
                ForwardKinematics.World(character, f, turns, places);
                Ask(f, turns, places);
            }

            CarryNearer(character.FrameRate);
            foreach (var arm in new[] { _lead, _follow })
            {
                ForwardKinematics.World(character, _first, turns, places);
                var (upper, lower) = arm.Limb.Lengths(places);
                var wanted = arm.Wrists.Zip(arm.Shoulders, Vector3.Distance).ToArray();
                var reaches = ArmStretch.Reaches(wanted, upper, lower, fastest);
                var carried = s.Branch(arm.Limb.Root);
                for (var f = _first; f <= _last; f++)
                {
                    var k = f - _first;
                    ForwardKinematics.World(character, f, turns, places);
                    var before = places[arm.Limb.End];
                    var share = wanted[k] > 1e-6f ? MathF.Min(1, reaches[k] / wanted[k]) : 1;
                    arm.Limb.Reach(turns, places, Vector3.Lerp(arm.Shoulders[k], arm.Wrists[k], share));
                    turns[arm.Limb.End] = arm.Turns[k];
                    arm.Limb.Settle(s, carried, turns, places, character.RotationsAt(f));
                    Moved = MathF.Max(Moved, Vector3.Distance(before, places[arm.Limb.End]));
                }
            }
        }

        /// <summary>How far the other hand is from where it lies on what the leading one has, at most while both hold; millimetres, and the frame.</summary>
        public (double Millimetres, int Frame) Apart(Motion character)
        {
            PalmPath lead = new(character, _stretch.Lead, _start, _end),
                follow = new(character, BodyRoles.Mirror(_stretch.Lead), _start, _end);
            return Enumerable
                .Range(_start, _end - _start + 1)
                .Select(f =>
                {
                    var turn = Quaternion.Normalize(lead.Turn(f) * Quaternion.Conjugate(_lead.Was.Turn(f)));
                    var belongs = lead.Place(f) + Vector3.Transform(_follow.Was.Place(f) - _lead.Was.Place(f), turn);
                    return (Vector3.Distance(belongs, follow.Place(f)) * 1000.0, f);
                })
                .MaxBy(x => x.Item1);
        }

        /// <summary>Where both wrists belong at a frame.</summary>
        private void Ask(int f, Quaternion[] turns, Vector3[] places)
        {
            var share = Share(f);
            var moved = Quaternion.Normalize(_lead.Now.Turn(f) * Quaternion.Conjugate(_lead.Was.Turn(f)));
            var apart = Vector3.Transform(_follow.Was.Place(f) - _lead.Was.Place(f), moved);
            var middle = (_lead.Now.Place(f) + _follow.Now.Place(f)) / 2;
            One(_lead, middle - (apart / 2), _lead.Now.Turn(f));
            One(_follow, middle + (apart / 2), Quaternion.Normalize(moved * _follow.Was.Turn(f)));

            void One(Arm arm, Vector3 palm, Quaternion turn)
            {
                var (k, wrist) = (f - _first, places[arm.Limb.End]);
                // The hand turns about its palm: the wrist goes with it.
                var back = Vector3.Transform(wrist - arm.Now.Place(f), turn * Quaternion.Conjugate(arm.Now.Turn(f)));
                arm.Shoulders[k] = places[arm.Limb.Root];
                arm.Wrists[k] = Vector3.Lerp(wrist, palm + back, share);
                arm.Turns[k] = Quaternion.Normalize(Rotations.Slerp(turns[arm.Limb.End], turn * arm.Pose, share));
                arm.Reaches[k] = MathF.Max(arm.Limb.Length(places) * Reachable, Vector3.Distance(wrist, arm.Shoulders[k]));
            }
        }

        /// <summary>
        /// What is out of reach comes nearer, both hands by the same: the nearest place both arms reach, by projections in turn (Cimmino 1938;
        /// Bregman 1965), without a jolt.
        /// </summary>
        private void CarryNearer(double rate)
        {
            var nearer = new Vector3[_lead.Wrists.Length];
            for (var k = 0; k < nearer.Length; k++)
            {
                for (var round = 0; round < Rounds; round++)
                {
                    foreach (var arm in new[] { _lead, _follow })
                    {
                        var way = arm.Wrists[k] + nearer[k] - arm.Shoulders[k];
                        var over = way.Length() - arm.Reaches[k];
                        nearer[k] -= over > 0 ? way * (over / way.Length()) : Vector3.Zero;
                    }
                }
            }

            var radius = Math.Max(1, (int)Math.Round(Nearer * rate / 2));
            nearer = Smoothing.Mean(Smoothing.Mean(nearer, radius), radius);
            foreach (var arm in new[] { _lead, _follow })
            {
                for (var k = 0; k < nearer.Length; k++)
                {
                    arm.Wrists[k] += nearer[k];
                }
            }
        }
    }
}
