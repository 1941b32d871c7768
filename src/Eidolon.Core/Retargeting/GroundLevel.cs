using System.Numerics;
using Eidolon.Core.Cleaning;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Retargeting;

/// <summary>Where the ground is: under a skeleton at rest, and under a performer who stood somewhere else than the rest pose tells.</summary>
public static class GroundLevel
{
    /// <summary>A rest pose whose lowest point is nearer to zero than this stands on it, metres.</summary>
    private const float NearZero = 0.06f;

    /// <summary>A performer's ground is no farther from the rest pose's than this; more is something stood on, metres.</summary>
    private const float Farthest = 0.10f;

    /// <summary>The floor is what this share of the planted time is spent below.</summary>
    private const double Low = 0.3;

    /// <summary>Height of the floor a rest pose stands on, metres.</summary>
    public static float Floor(Skeleton s)
    {
        var low = float.PositiveInfinity;
        for (var j = 0; j < s.Count; j++)
        {
            low = MathF.Min(low, s.RestPositions[j].Y);
            if (s[j].EndSite is { } e)
            {
                low = MathF.Min(low, (s.RestPositions[j] + Vector3.Transform(e, s.RestRotations[j])).Y);
            }
        }

        return MathF.Abs(low) < NearZero ? 0 : low;
    }

    /// <summary>Height of a joint over the floor at rest, metres.</summary>
    public static float Height(Skeleton s, BodyRole role) => s.RestPositions[s.IndexOf(role)].Y - Floor(s);

    /// <summary>Height of the lower ankle over the floor at rest, metres.</summary>
    internal static float AnkleHeight(Skeleton s) => MathF.Min(Height(s, BodyRole.FootL), Height(s, BodyRole.FootR));

    /// <summary>How much higher a performer's feet stand than at rest, metres: the ground of the recording.</summary>
    /// <param name="world">World places of all joints.</param>
    internal static float Of(Skeleton s, ReadOnlySpan<Vector3> world, IReadOnlyList<Contact> contacts)
    {
        var toes = contacts.Any(c => c.Role is BodyRole.ToesL or BodyRole.ToesR);
        var stands = new List<(float Level, int Frames)>();
        foreach (var c in contacts.Where(c => c.Role is BodyRole.ToesL or BodyRole.ToesR == toes))
        {
            stands.Add((Level(s, world, c), c.Length));
        }

        stands.Sort();
        var left = Low * stands.Sum(c => c.Frames);
        foreach (var (level, frames) in stands)
        {
            left -= frames;
            if (left <= 0)
            {
                return MathF.Abs(level) < Farthest ? level : 0;
            }
        }

        return 0;
    }

    /// <summary>How much higher than at rest a planted joint is, the middle of its contact, metres.</summary>
    internal static float Level(Skeleton s, ReadOnlySpan<Vector3> world, Contact c)
    {
        var joint = s.IndexOf(c.Role);
        var heights = new float[c.Length];
        for (var f = c.Start; f <= c.End; f++)
        {
            heights[f - c.Start] = world[(f * s.Count) + joint].Y;
        }

        Array.Sort(heights);
        return heights[heights.Length / 2] - Height(s, c.Role);
    }
}
