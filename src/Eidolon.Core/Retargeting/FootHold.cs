using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Geometry;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>Goals for one foot: where its ankle must be so that planted ankle and toes stay put; between contacts the correction fades over.</summary>
internal sealed class FootHold
{
    /// <summary>
    /// A held turn of the foot fades in and out over so much time, or no faster than this, and no longer than that; a shorter stand has none. Seconds
    /// and radians a second.
    /// </summary>
    private const double TurnFade = 0.04,
        TurnFadeSpeed = 2.6,
        TurnFadeMost = 0.2,
        ShortestTurn = 0;

    /// <summary>A foot that turns by itself where its hold fades leaves the fade less of the performer's fastest turn; at least this, radians a
    /// second.</summary>
    private const double TurnFadeLeast = 0.5;

    /// <summary>Where it fades fastest, in the middle, it is so many times as fast as on the whole: the slope of t²(3 − 2t).</summary>
    private const double Steepest = 1.5;

    private readonly BodyRole _foot;
    private readonly BodyRole _toes;
    private readonly int _frames;
    private readonly double _rate;
    private readonly double _fastest;

    /// <param name="rate">Frames a second.</param>
    /// <param name="fastest">No bone of the performer turns faster, radians a frame; none is known where it is left out.</param>
    public FootHold(BodyRole foot, int frames, double rate, float fastest = float.PositiveInfinity)
    {
        _foot = foot;
        (_rate, _fastest) = (rate, fastest * rate);
        _toes = foot == BodyRole.FootL ? BodyRole.ToesL : BodyRole.ToesR;
        _frames = frames;
        Offset = new Vector3[frames];
        Turn = new Quaternion?[frames];
    }

    /// <summary>To add to the transferred ankle.</summary>
    public Vector3[] Offset { get; }

    /// <summary>World turn of the foot while both ankle and toes are planted; null elsewhere.</summary>
    public Quaternion?[] Turn { get; }

    /// <param name="ankle">Transferred ankle places of the character.</param>
    /// <param name="turns">Transferred world turns of its foot.</param>
    /// <param name="toe">The toe joint in the foot's frame, or null.</param>
    /// <param name="goalAnkle">Where the ankle ought to stand (the source's place, scaled).</param>
    /// <param name="ground">What it stands on; null: as high as it comes.</param>
    public void Plan(
        IReadOnlyList<Contact> contacts,
        Vector3[] ankle,
        Quaternion[] turns,
        Vector3? toe,
        Vector3[] goalAnkle,
        FootGround? ground = null
    )
    {
        var stands = contacts.Where(c => c.Role == _foot || (toe is not null && c.Role == _toes)).OrderBy(c => c.Start).ToList();
        HoldTurns(stands, turns, ground);
        var arm = Array.ConvertAll(turns, t => Vector3.Transform(toe ?? Vector3.Zero, t));
        for (var f = 0; f < _frames; f++)
        {
            arm[f] = Turn[f] is { } held ? Vector3.Transform(toe ?? Vector3.Zero, held) : arm[f];
        }

        var anchors = Anchors(stands, arm, goalAnkle, ground);
        var set = new bool[_frames];
        // Toes first: they stay longest. An ankle that stands with them takes the place they give it.
        foreach (var wanted in new[] { _toes, _foot })
        {
            for (var k = 0; k < stands.Count; k++)
            {
                for (var f = stands[k].Start; stands[k].Role == wanted && f <= stands[k].End; f++)
                {
                    if (!set[f])
                    {
                        Offset[f] = anchors[k] - Point(wanted, ankle, arm, f);
                        set[f] = true;
                    }
                }
            }
        }

        Fade(set);
    }

    private Vector3 Point(BodyRole role, Vector3[] ankle, Vector3[] arm, int f) => role == _foot ? ankle[f] : ankle[f] + arm[f];

    /// <summary>
    /// Where each stand is. Stands that overlap hang together: heel, then both, then toes; each goes on from the one before where both stand, and
    /// all together lie as near as they can to where the performer's were.
    /// </summary>
    private Vector3[] Anchors(List<Contact> stands, Vector3[] arm, Vector3[] goal, FootGround? ground)
    {
        var anchors = new Vector3[stands.Count];
        var own = stands.Select(c => Desired(c, arm, goal, ground)).ToArray();
        for (var first = 0; first < stands.Count; )
        {
            anchors[first] = own[first];
            var (end, k) = (stands[first].End, first + 1);
            for (; k < stands.Count && stands[k].Start <= end; k++)
            {
                // The one that lasts longest of those it overlaps, of the other kind where there is one.
                var on = Enumerable
                    .Range(first, k - first)
                    .Where(i => stands[i].End >= stands[k].Start)
                    .OrderBy(i => stands[i].Role == stands[k].Role)
                    .ThenByDescending(i => stands[i].End)
                    .First();
                var f = (stands[k].Start + Math.Min(stands[k].End, stands[on].End)) / 2;
                var ankle = stands[on].Role == _foot ? anchors[on] : anchors[on] - arm[f];
                anchors[k] = stands[k].Role == _foot ? ankle : ankle + arm[f];
                end = Math.Max(end, stands[k].End);
            }

            var shift = Vector3.Zero;
            float frames = 0;
            for (var i = first; i < k; i++)
            {
                shift += (own[i] - anchors[i]) * stands[i].Length;
                frames += stands[i].Length;
            }

            for (var i = first; i < k; i++)
            {
                anchors[i] += new Vector3(shift.X / frames, 0, shift.Z / frames);
            }

            first = k;
        }

        return anchors;
    }

    /// <summary>Where a stand would be by itself.</summary>
    private Vector3 Desired(Contact c, Vector3[] arm, Vector3[] goal, FootGround? ground)
    {
        var at = Median(Enumerable.Range(c.Start, c.Length).Select(f => Point(c.Role, goal, arm, f)));
        return ground is null ? at : at with { Y = ground.Level(c) + (c.Role == _foot ? ground.AnkleHeight : ground.ToeHeight) };
    }

    /// <summary>While heel and toes both stand the foot does not turn: its turn in the middle, eased in and out.</summary>
    private void HoldTurns(List<Contact> stands, Quaternion[] turns, FootGround? ground)
    {
        var weights = new float[_frames];
        foreach (var foot in stands.Where(c => c.Role == _foot))
        {
            foreach (var toe in stands.Where(c => c.Role == _toes))
            {
                int a = Math.Max(foot.Start, toe.Start),
                    b = Math.Min(foot.End, toe.End);
                if ((b - a) / _rate < ShortestTurn)
                {
                    continue;
                }

                var mean = ground?.Lay(turns[(a + b) / 2]) ?? turns[(a + b) / 2];
                int before = Reach(turns, a, -1, mean),
                    after = Reach(turns, b, 1, mean);
                for (var f = Math.Max(0, a - before + 1); f <= Math.Min(_frames - 1, b + after - 1); f++)
                {
                    var t =
                        f < a ? 1 - ((a - f) / (float)before)
                        : f > b ? 1 - ((f - b) / (float)after)
                        : 1;
                    if (t > weights[f])
                    {
                        weights[f] = t;
                        Turn[f] = Rotations.Slerp(turns[f], mean, t * t * (3 - (2 * t)));
                    }
                }
            }
        }
    }

    /// <summary>Frames a held turn takes to fade from a frame on, or before it.</summary>
    private int Reach(Quaternion[] turns, int at, int way, Quaternion held)
    {
        // The fastest turn of the foot itself while it fades: both come together.
        double own = 0;
        for (var k = 0; k < TurnFadeMost * _rate; k++)
        {
            int f = at + (way * k),
                next = f + way;
            own = next >= 0 && next < _frames ? Math.Max(own, Rotations.Angle(turns[f], turns[next]) * _rate) : own;
        }

        var speed = Math.Clamp((_fastest - own) / Steepest, TurnFadeLeast, TurnFadeSpeed);
        return Math.Max(1, (int)Math.Round(Math.Clamp(Rotations.Angle(turns[at], held) / speed, TurnFade, TurnFadeMost) * _rate));
    }

    private void Fade(bool[] set)
    {
        var last = -1;
        for (var f = 0; f <= _frames; f++)
        {
            if (f < _frames && !set[f])
            {
                continue;
            }

            for (var g = last + 1; g < f; g++)
            {
                var a =
                    last >= 0 ? Offset[last]
                    : f < _frames ? Offset[f]
                    : Vector3.Zero;
                var b = f < _frames ? Offset[f] : a;
                var t = (g - last) / (float)(f - last);
                Offset[g] = Vector3.Lerp(a, b, t * t * (3 - (2 * t)));
            }

            last = f;
        }
    }

    private static Vector3 Median(IEnumerable<Vector3> points)
    {
        var p = points.ToArray();
        float Mid(Func<Vector3, float> axis)
        {
            var v = Array.ConvertAll(p, x => axis(x));
            Array.Sort(v);
            return v[v.Length / 2];
        }

        return new Vector3(Mid(v => v.X), Mid(v => v.Y), Mid(v => v.Z));
    }
}
