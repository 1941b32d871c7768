namespace Eidolon.Core.Markers;

/// <summary>Names of the form <c>Performer:Marker</c>.</summary>
public static class MarkerNames
{
    /// <summary>Splits at the last colon; the performer is null when there is none.</summary>
    public static (string? Performer, string Marker) Split(string name)
    {
        var at = name.LastIndexOf(':');
        return at < 0 ? (null, name) : (name[..at], name[(at + 1)..]);
    }

    /// <summary>"Performer:Marker", or the marker alone when there is only one performer.</summary>
    public static string Join(string? performer, string marker) => performer is null ? marker : $"{performer}:{marker}";

    /// <summary>Names a device gives to dots nobody has named yet.</summary>
    public static bool IsUnnamed(string name) =>
        name.Length == 0
        || name[0] == '*'
        || name.StartsWith("Dot", StringComparison.Ordinal) && name.AsSpan(3).TrimStart('_').IndexOfAnyExceptInRange('0', '9') < 0;

    /// <summary>The markers of one performer, prefix taken off; with one performer, or none named, all markers.</summary>
    public static MarkerTake Subject(MarkerTake take, string? subject)
    {
        var prefixes = take.Names.Select(n => Split(n).Performer).Distinct().ToArray();
        if (subject is null && prefixes.Count(p => p is not null) > 1)
        {
            throw new RefusedException(
                $"the take holds several performers ({string.Join(", ", prefixes.Where(p => p is not null))}): say which with --subject"
            );
        }

        if (subject is not null && !prefixes.Contains(subject))
        {
            var known = prefixes.Where(p => p is not null).ToArray();
            if (known.Length > 0)
            {
                throw new RefusedException($"no marker of '{subject}' in the take (it has {string.Join(", ", known)})");
            }
        }

        var wanted = subject ?? prefixes.FirstOrDefault(p => p is not null);
        var keep = take.Names.Where(n => Split(n).Performer is var p && (p == wanted || wanted is null)).ToArray();
        if (keep.Length == 0)
        {
            keep = [.. take.Names];
        }

        var picked = take.Only(keep);
        return picked.Renamed([.. keep.Select(n => Split(n).Marker)]);
    }
}
