using System.Numerics;

namespace Eidolon.Core.Retargeting;

/// <summary>
/// How the hips move so that every held foot is within its leg's reach, and every held hand as near to its arm's as the feet allow: down first, as
/// a body sinks, then to the side; smooth over time.
/// </summary>
/// <remarks>
/// Kovar, Schreiner &amp; Gleicher, "Footskate Cleanup for Motion Capture Editing", 2002; projections in turn onto each leg's sphere (Bregman 1965).
/// </remarks>
internal static class BodyShift
{
    /// <summary>Eases in and out over so much time to either side, seconds.</summary>
    private const double Ease = 0.08;

    private const int Rounds = 12;

    /// <summary>What one leg or arm needs.</summary>
    /// <param name="Root">Where it hangs, a frame each, metres.</param>
    /// <param name="Goal">Where its end must come to.</param>
    /// <param name="Reach">How far it reaches.</param>
    /// <param name="Least">How near it can come, bent as far as it goes.</param>
    public sealed record Need(Vector3[] Root, Vector3[] Goal, float[] Reach, float[] Least);

    /// <summary>To add to the hips, a frame each, metres.</summary>
    /// <param name="legs">Always within reach, if there is a place for it at all.</param>
    /// <param name="arms">As far as the legs let them.</param>
    public static Vector3[] Find(IReadOnlyList<Need> legs, IReadOnlyList<Need> arms, double rate)
    {
        var frames = legs[0].Root.Length;
        var radius = Math.Max(2, (int)(rate * Ease));
        var shift = Array.ConvertAll(Smoothing.Above(Drops(legs), radius), d => new Vector3(0, -d, 0));
        for (var round = 0; round <= Rounds; round++)
        {
            var aside = new Vector3[frames];
            var any = false;
            for (var f = 0; f < frames; f++)
            {
                aside[f] = Aside(legs, round == Rounds ? [] : arms, f, shift[f]);
                any |= aside[f] != Vector3.Zero;
            }

            if (!any)
            {
                break;
            }

            // Early rounds are smooth and reach a little too far; what is left at the end is small.
            var smooth = round == Rounds ? aside : Smoothing.Mean(Smoothing.Mean(aside, radius), radius);
            for (var f = 0; f < frames; f++)
            {
                shift[f] += smooth[f] * (round == Rounds ? 1 : 1.2f);
            }
        }

        return shift;
    }

    /// <summary>How far down the hips must be for both legs, where down is enough.</summary>
    private static float[] Drops(IReadOnlyList<Need> needs)
    {
        var drops = new float[needs[0].Root.Length];
        foreach (var need in needs)
        {
            for (var f = 0; f < drops.Length; f++)
            {
                var d = need.Goal[f] - need.Root[f];
                var flat = (d.X * d.X) + (d.Z * d.Z);
                var reach = need.Reach[f] * need.Reach[f];
                if (d.LengthSquared() > reach && flat < reach * 0.8f)
                {
                    drops[f] = MathF.Max(drops[f], -d.Y - MathF.Sqrt(reach - flat));
                }
            }
        }

        return drops;
    }

    /// <summary>Arms that pull apart meet in the middle (Cimmino 1938); legs have the last word.</summary>
    private static Vector3 Aside(IReadOnlyList<Need> legs, IReadOnlyList<Need> arms, int f, Vector3 shift)
    {
        var move = Vector3.Zero;
        for (var sweep = 0; sweep < 3; sweep++)
        {
            var pull = Vector3.Zero;
            foreach (var arm in arms)
            {
                pull += Off(arm, f, shift + move);
            }

            move += arms.Count > 0 ? pull / arms.Count : pull;
            foreach (var leg in legs)
            {
                move += Off(leg, f, shift + move);
            }
        }

        return move;
    }

    /// <summary>The way to where it is neither too far nor too near.</summary>
    private static Vector3 Off(Need need, int f, Vector3 shift)
    {
        var v = need.Root[f] + shift - need.Goal[f];
        var length = v.Length();
        return length > need.Reach[f] ? v * ((need.Reach[f] / length) - 1)
            : length < need.Least[f] && length > 1e-4f ? v * ((need.Least[f] / length) - 1)
            : Vector3.Zero;
    }
}
