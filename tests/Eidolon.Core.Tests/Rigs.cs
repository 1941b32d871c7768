using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Tests;

/// <summary>Skeletons with joints left out.</summary>
internal static class Rigs
{
    /// <summary>The skeleton without the joints that play one of the roles; what hung on them hangs on their parents.</summary>
    public static Skeleton Without(this Skeleton skeleton, params BodyRole[] roles)
    {
        var kept = new List<Joint>();
        var at = new int[skeleton.Count];
        for (var j = 0; j < at.Length; j++)
        {
            var parent = skeleton.Parents[j] < 0 ? -1 : at[skeleton.Parents[j]];
            if (skeleton[j].Role is { } role && roles.Contains(role))
            {
                at[j] = parent;
                continue;
            }

            at[j] = kept.Count;
            kept.Add(skeleton[j] with { Parent = parent });
        }

        return new Skeleton(kept);
    }
}
