using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>Goals for one foot: where its ankle must be so that planted ankle and toes stay put; between contacts the correction fades over.</summary>
internal sealed class FootHold
{
    private readonly BodyRole _foot;
    private readonly BodyRole _toes;
    private readonly int _frames;

    /// <summary>A held turn of the foot fades in and out over so much time; a shorter stand has none, seconds.</summary>
    private const double TurnFade = 0.04,
        ShortestTurn = 0.025;

    private readonly double _rate;

    public FootHold(BodyRole foot, int frames, double rate)
    {
        _foot = foot;
        _rate = rate;
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
    public void Plan(IReadOnlyList<Contact> contacts, Vector3[] ankle, Quaternion[] turns, Vector3? toe, Vector3[] goalAnkle)
    {
        var feet = contacts.Where(c => c.Role == _foot).ToList();
        var toes = toe is null ? [] : contacts.Where(c => c.Role == _toes).ToList();
        var set = new bool[_frames];
        HoldTurns(feet, toes, turns, set.Length);
        // Toes first: they stay longest. An ankle contact that overlaps one takes the place the toes give it.
        foreach (var c in toes)
        {
            Vector3 Toe(int f, Vector3[] at) => at[f] + Vector3.Transform(toe!.Value, Turn[f] ?? turns[f]);
            var anchor = Median(Enumerable.Range(c.Start, c.Length).Select(f => Toe(f, goalAnkle)));
            for (var f = c.Start; f <= c.End; f++)
            {
                Offset[f] = anchor - Toe(f, ankle);
                set[f] = true;
            }
        }

        foreach (var c in feet)
        {
            var overlap = toes.FindIndex(t => t.Start <= c.End && t.End >= c.Start);
            Vector3 anchor;
            if (overlap >= 0)
            {
                var f = Math.Clamp((Math.Max(c.Start, toes[overlap].Start) + Math.Min(c.End, toes[overlap].End)) / 2, c.Start, c.End);
                anchor = ankle[f] + Offset[f];
            }
            else
            {
                anchor = Median(Enumerable.Range(c.Start, c.Length).Select(f => goalAnkle[f]));
            }

            for (var f = c.Start; f <= c.End; f++)
            {
                if (!set[f])
                {
                    Offset[f] = anchor - ankle[f];
                    set[f] = true;
                }
            }
        }

        Fade(set);
    }

    /// <summary>While heel and toes both stand the foot does not turn: its mean turn there, eased in and out.</summary>
    private void HoldTurns(List<Contact> feet, List<Contact> toes, Quaternion[] turns, int frames)
    {
        foreach (var foot in feet)
        {
            foreach (var toe in toes)
            {
                int a = Math.Max(foot.Start, toe.Start),
                    b = Math.Min(foot.End, toe.End);
                if ((b - a) / _rate < ShortestTurn)
                {
                    continue;
                }

                var mean = turns[(a + b) / 2];
                var fade = Math.Max(1, (float)(TurnFade * _rate));
                for (var f = Math.Max(0, (int)(a - fade + 1)); f <= Math.Min(frames - 1, (int)(b + fade)); f++)
                {
                    var t =
                        f < a ? 1 - ((a - f) / fade)
                        : f > b ? 1 - ((f - b) / fade)
                        : 1;
                    t = MathF.Max(0, t);
                    Turn[f] = Geometry.Rotations.Slerp(turns[f], mean, t);
                }
            }
        }
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
