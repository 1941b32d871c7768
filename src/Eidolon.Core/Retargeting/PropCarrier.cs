using System.Numerics;
using Eidolon.Core.Geometry;
using Eidolon.Core.Markers;

namespace Eidolon.Core.Retargeting;

/// <summary>
/// A prop that goes by the hands of characters: it lies in a character's hand as it lay in the performer's. Of several hands the first leads: it has
/// the prop where it should be, the others say with it how the prop is turned. A hand that lets go while another holds hands it over. Where nobody
/// holds it the prop lies on the floor below where it was put down, or stays where the hand let it go if that is asked, and goes up into the hand that
/// takes it.
/// </summary>
public static class PropCarrier
{
    /// <summary>A hand takes, gives and puts down within this, seconds.</summary>
    private const double Ease = 0.35;

    /// <summary>A hand's own turn says of the prop's as much as another hand would so far away, metres.</summary>
    private const float OwnTurn = 0.05f;

    /// <summary>A prop lies while it is slower, metres a second.</summary>
    private const double Lying = 0.05;

    /// <param name="recorded">Where the prop was; frame 0 is frame 0 of the motions.</param>
    /// <param name="hands">Who leads comes first.</param>
    /// <param name="offset">Where the prop lies besides, in the axes that the leading hand has in the T-pose, metres.</param>
    /// <param name="turn">And how it is turned besides.</param>
    /// <exception cref="RefusedException">No hand carries it, or one has no frames of the take; says which.</exception>
    public static (PropPlaces Places, CarryReport Report) Carry(
        PropPlaces recorded,
        IReadOnlyList<CarryingHand> hands,
        Vector3 offset = default,
        Quaternion? turn = null,
        CancellationToken cancel = default
    )
    {
        if (hands.Count == 0)
        {
            throw new RefusedException("it is attached to no hand");
        }

        var rate = recorded.FrameRate;
        var ease = Math.Max(1, (int)Math.Round(Ease * rate));
        var palms = hands.Select((h, i) => Palms.Of(h, i, recorded.FrameCount, ease)).ToArray();
        var held = new Correction?[recorded.FrameCount];
        for (var f = 0; f < held.Length; f++)
        {
            cancel.ThrowIfCancellationRequested();
            // Hidden for a moment it is still where the hands are: it goes on as it went.
            held[f] =
                MarkerTake.Seen(recorded.Positions[f]) ? ByHands(recorded, palms, f, offset, turn ?? Quaternion.Identity)
                : f > 0 && Array.Exists(palms, p => p.Holds(f)) ? held[f - 1]
                : null;
        }

        var places = Everywhere(recorded, held, ease, before => Array.Exists(palms, p => p.Stays && p.End == before));
        return (places, Told(recorded, places, palms));
    }

    /// <summary>How the prop is moved and turned from where it was recorded, about its own pivot.</summary>
    private readonly record struct Correction(Vector3 Move, Quaternion Turn)
    {
        public static Correction Blend(Correction a, Correction b, float share) =>
            new(Vector3.Lerp(a.Move, b.Move, share), Rotations.Slerp(a.Turn, b.Turn, share));

        /// <summary>On the floor as it was recorded: neither higher nor tilted otherwise.</summary>
        /// <summary>What keeps the prop at one frame where this put it at another; hidden, nothing is known of it.</summary>
        public Correction Staying(PropPlaces recorded, int at, int f)
        {
            var turn = Quaternion.Normalize(Turn * recorded.Turns[at] * Quaternion.Conjugate(recorded.Turns[f]));
            return new(recorded.Positions[at] + Move - recorded.Positions[f], turn);
        }

        public Correction Lying() => new(Move with { Y = 0 }, Rotations.Twist(Turn, Vector3.UnitY));
    }

    /// <summary>One hand over the frames it holds.</summary>
    private sealed record Palms(int Start, int End, bool Stays, int Ease, PalmPath Performer, PalmPath Character)
    {
        public static Palms Of(CarryingHand h, int index, int frames, int ease)
        {
            var end = Math.Min(h.End, Math.Min(frames, Math.Min(h.Performer.FrameCount, h.Character.FrameCount)) - 1);
            return h.Start >= 0 && h.Start <= end
                ? new Palms(h.Start, end, h.Stays, ease, new(h.Performer, h.Hand, h.Start, end), new(h.Character, h.Hand, h.Start, end))
                : throw new RefusedException($"hand {index + 1} has no frames here: {h.Start} to {h.End} of {frames}");
        }

        public bool Holds(int f) => f >= Start && f <= End;

        /// <summary>How much it has the prop, 0 to 1: all of it, but where it takes it from another hand or gives it to one.</summary>
        public float Share(int f, bool takes, bool gives)
        {
            var share = 1f;
            share = takes ? Math.Min(share, CubicSpline.MinimumJerk((f - Start + 1f) / (Ease + 1))) : share;
            return gives ? Math.Min(share, CubicSpline.MinimumJerk((End - f + 1f) / (Ease + 1))) : share;
        }

        /// <summary>Where the performer's hand is on the prop, and how far the character's is from there.</summary>
        public float Drift(PropPlaces recorded, PropPlaces now, int f)
        {
            var on = Vector3.Transform(Performer.Place(f) - recorded.Positions[f], Quaternion.Conjugate(recorded.Turns[f]));
            return Vector3.Distance(now.Positions[f] + Vector3.Transform(on, now.Turns[f]), Character.Place(f));
        }
    }

    private static Correction? ByHands(PropPlaces recorded, Palms[] palms, int f, Vector3 offset, Quaternion turn)
    {
        var at = palms.Where(p => p.Holds(f)).ToArray();
        if (at.Length == 0)
        {
            return null;
        }

        var shares = Array.ConvertAll(at, p =>
            p.Share(f, palms.Any(o => o != p && o.Holds(p.Start - 1)), palms.Any(o => o != p && o.Holds(p.End + 1)))
        );
        // The first has what it wants, the next what is left over.
        Correction? result = null;
        var left = 1f;
        for (var i = 0; i < at.Length && left > 1e-6f; i++)
        {
            var own = LedBy(recorded, at, shares, i, f, offset, turn);
            var last = i == at.Length - 1;
            var weight = last ? left : left * shares[i];
            result = result is { } so ? Correction.Blend(so, own, weight / (1 - left + weight)) : own;
            left -= weight;
        }

        return result;
    }

    /// <summary>As one of the hands wants it: its place is the hand's, its turn the best for all of them.</summary>
    private static Correction LedBy(PropPlaces recorded, Palms[] at, float[] shares, int leads, int f, Vector3 offset, Quaternion turn)
    {
        var lead = at[leads];
        Vector3 from = lead.Performer.Place(f),
            to = lead.Character.Place(f);
        Quaternion was = lead.Performer.Turn(f),
            now = lead.Character.Turn(f);
        var moved = Quaternion.Normalize(now * Quaternion.Conjugate(was));
        // About the leading palm: its own axes, and the ways to the other hands, each there and back so that the middle stays.
        var a = new List<Vector3>();
        var b = new List<Vector3>();
        void Pair(Vector3 x, Vector3 y)
        {
            a.AddRange([x, -x]);
            b.AddRange([y, -y]);
        }

        for (var axis = 0; axis < 3; axis++)
        {
            var e = Rotations.Axis(axis) * OwnTurn;
            Pair(Vector3.Transform(e, was), Vector3.Transform(e, now));
        }

        // Who has it whole speaks first; who comes or goes turns it little by little.
        foreach (var k in Enumerable.Range(0, at.Length).Where(k => k != leads).OrderByDescending(k => shares[k]))
        {
            Pair(at[k].Performer.Place(f) - from, at[k].Character.Place(f) - to);
            moved = Rotations.Slerp(moved, Kabsch.Fit([.. a], [.. b]).Rotation, shares[k]);
        }

        var into = Quaternion.Normalize(now * turn * Quaternion.Conjugate(now));
        var place = to + Vector3.Transform(Vector3.Transform(recorded.Positions[f] - from, moved), into) + Vector3.Transform(offset, now);
        return new Correction(place - recorded.Positions[f], Quaternion.Normalize(into * moved));
    }

    private static PropPlaces Everywhere(PropPlaces recorded, Correction?[] held, int ease, Func<int, bool> stays)
    {
        var all = new Correction[held.Length];
        var previous = -1;
        for (var f = 0; f <= held.Length; f++)
        {
            if (f < held.Length && held[f] is null)
            {
                continue;
            }

            if (f - previous > 1)
            {
                Between(recorded, held, all, previous, f, stays(previous));
            }

            if (f < held.Length)
            {
                all[f] = held[f]!.Value;
            }

            previous = f;
        }

        Ground(recorded, held, all, ease);
        return new PropPlaces(
            recorded.FrameRate,
            [.. recorded.Positions.Select((p, f) => p + all[f].Move)],
            [.. recorded.Turns.Select((q, f) => Quaternion.Normalize(all[f].Turn * q))],
            recorded.FirstFrame
        );
    }

    /// <summary>Frames that nobody holds, between the frame before them and the one after; either may be outside the take.</summary>
    private static void Between(PropPlaces recorded, Correction?[] held, Correction[] all, int before, int after, bool stays)
    {
        if (stays)
        {
            for (var f = before + 1; f < after; f++)
            {
                var known = MarkerTake.Seen(recorded.Positions[before]) && MarkerTake.Seen(recorded.Positions[f]);
                all[f] = known ? held[before]!.Value.Staying(recorded, before, f) : (f > before + 1 ? all[f - 1] : held[before]!.Value);
            }

            return;
        }

        Correction? earlier = before >= 0 ? held[before] : null,
            later = after < held.Length ? held[after] : null;
        // Seen from the performer's hand to the next one in the air: it goes over. Else it lies, or will.
        var flies = earlier is not null && later is not null && !Rests(recorded, before, after);
        for (var f = before + 1; f < after; f++)
        {
            all[f] =
                flies ? Correction.Blend(earlier!.Value, later!.Value, CubicSpline.MinimumJerk((f - before) / (float)(after - before)))
                : (earlier ?? later) is { } known ? known.Lying()
                : new Correction(default, Quaternion.Identity);
        }
    }

    /// <summary>A hand that puts the prop down, or takes it up, goes over from where it lies within a moment.</summary>
    private static void Ground(PropPlaces recorded, Correction?[] held, Correction[] all, int ease)
    {
        for (var f = 0; f < held.Length; f++)
        {
            if (held[f] is null)
            {
                continue;
            }

            var end = f;
            while (end + 1 < held.Length && held[end + 1] is not null)
            {
                end++;
            }

            var wide = Math.Min(ease, Math.Max(1, (end - f) / 2));
            var (down, up) = (f > 0 ? all[f - 1] : (Correction?)null, end + 1 < held.Length ? all[end + 1] : (Correction?)null);
            for (var g = f; g <= end; g++)
            {
                if (down is { } low && g - f < wide)
                {
                    all[g] = Correction.Blend(low, all[g], CubicSpline.MinimumJerk((g - f + 1f) / (wide + 1)));
                }

                if (up is { } then && end - g < wide)
                {
                    all[g] = Correction.Blend(then, all[g], CubicSpline.MinimumJerk((end - g + 1f) / (wide + 1)));
                }
            }

            f = end;
        }
    }

    /// <summary>Does the prop lie still for a moment between two frames?</summary>
    private static bool Rests(PropPlaces recorded, int before, int after)
    {
        var window = Math.Max(1, (int)Math.Round(0.1 * recorded.FrameRate));
        for (var f = before; f + window <= after; f++)
        {
            if (Vector3.Distance(recorded.Positions[f], recorded.Positions[f + window]) * recorded.FrameRate / window < Lying)
            {
                return true;
            }
        }

        return false;
    }

    private static CarryReport Told(PropPlaces recorded, PropPlaces now, Palms[] palms)
    {
        var drift = palms.Select(
            (p, i) =>
            {
                var (worst, frame) = (0f, p.Start);
                for (var f = p.Start; f <= p.End; f++)
                {
                    var here = p.Drift(recorded, now, f);
                    (worst, frame) = here > worst ? (here, f) : (worst, frame);
                }

                return new CarryDrift(i, worst * 1000, frame);
            }
        );
        return new CarryReport(
            [.. drift],
            recorded
                .Positions.Select((p, f) => (double)Vector3.Distance(p, now.Positions[f]))
                .Where(double.IsFinite)
                .DefaultIfEmpty(0)
                .Max()
        );
    }
}
