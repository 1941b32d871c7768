using System.Numerics;

namespace Eidolon.Core.Retargeting;

/// <summary>
/// How the hips move so that every held foot is within its leg's reach: down first, as a body sinks, then to the side; smooth over time.
/// </summary>
/// <remarks>Kovar, Schreiner &amp; Gleicher, "Footskate Cleanup for Motion Capture Editing", 2002; projections in turn onto each leg's sphere (Bregman 1965).</remarks>
internal static class BodyShift
{
    /// <summary>Eases in and out over so much time to either side, seconds.</summary>
    private const double Ease = 0.08;

    private const int Rounds = 12;

    /// <summary>What one leg needs.</summary>
    /// <param name="Root">Where it hangs, a frame each, metres.</param>
    /// <param name="Goal">Where its end must come to.</param>
    /// <param name="Reach">How far it reaches.</param>
    public sealed record Need(Vector3[] Root, Vector3[] Goal, float[] Reach);

    /// <summary>To add to the hips, a frame each, metres.</summary>
    public static Vector3[] Find(IReadOnlyList<Need> needs, double rate)
    {
        var frames = needs[0].Root.Length;
        var radius = Math.Max(2, (int)(rate * Ease));
        var shift = Array.ConvertAll(Smoothing.Above(Drops(needs), radius), d => new Vector3(0, -d, 0));
        for (var round = 0; round <= Rounds; round++)
        {
            var aside = new Vector3[frames];
            var any = false;
            for (var f = 0; f < frames; f++)
            {
                aside[f] = Aside(needs, f, shift[f]);
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

    private static Vector3 Aside(IReadOnlyList<Need> needs, int f, Vector3 shift)
    {
        var move = Vector3.Zero;
        for (var sweep = 0; sweep < 3; sweep++)
        {
            foreach (var need in needs)
            {
                var v = need.Root[f] + shift + move - need.Goal[f];
                var length = v.Length();
                if (length > need.Reach[f])
                {
                    move -= v * (1 - (need.Reach[f] / length));
                }
            }
        }

        return move;
    }
}
