using System.Numerics;
using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Markers;

/// <summary>Changes to a marker set; each gives a new one.</summary>
public static class MarkerSetEdits
{
    /// <summary>The other side of every sided marker that has no partner yet: names end in L or R, offsets and links mirror.</summary>
    public static MarkerSet Mirror(MarkerSet set)
    {
        var markers = set.Markers.ToList();
        foreach (var m in set.Markers)
        {
            if (Other(m.Name) is { } name && markers.All(x => x.Name != name))
            {
                markers.Add(new MarkerDefinition(name, BodyRoles.Mirror(m.Segment), m.Offset is { } o ? o * new Vector3(-1, 1, 1) : null));
            }
        }

        var links = set.Links.ToList();
        foreach (var (a, b) in set.Links)
        {
            var pair = (Other(a) ?? a, Other(b) ?? b);
            if (
                pair != (a, b)
                && markers.Any(m => m.Name == pair.Item1)
                && markers.Any(m => m.Name == pair.Item2)
                && !links.Contains(pair)
                && !links.Contains((pair.Item2, pair.Item1))
            )
            {
                links.Add(pair);
            }
        }

        return set with
        {
            Markers = markers,
            Links = links,
        };
    }

    /// <summary>Adds a marker.</summary>
    /// <exception cref="RefusedException">The name is empty, has a colon, or is taken.</exception>
    public static MarkerSet Add(MarkerSet set, string name, BodyRole segment)
    {
        if (name.Length is 0 or > 40 || name.Contains(':', StringComparison.Ordinal) || set.Find(name) is not null)
        {
            throw new RefusedException(
                set.Find(name) is null ? "a marker's name has 1 to 40 letters and no colon" : $"there is a marker '{name}' already"
            );
        }

        return set with
        {
            Markers = [.. set.Markers, new MarkerDefinition(name, segment)],
        };
    }

    /// <summary>Takes a marker and its links out.</summary>
    public static MarkerSet Remove(MarkerSet set, string name) =>
        set with
        {
            Markers = [.. set.Markers.Where(m => m.Name != name)],
            Links = [.. set.Links.Where(l => l.A != name && l.B != name)],
        };

    private static string? Other(string name) =>
        name[^1] switch
        {
            'L' => name[..^1] + "R",
            'R' => name[..^1] + "L",
            _ => null,
        };
}
