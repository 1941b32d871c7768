using Eidolon.Core.Skeletons;

namespace Eidolon.Core.Markers;

/// <summary>Does a marker set fit the take it is used with? Names each marker that does not, and why.</summary>
public static class MarkerSetCheck
{
    /// <summary>Markers of one segment keep their distance within this, metres; more, and one of them sits elsewhere.</summary>
    private const float Rigid = 0.045f;

    /// <param name="Marker">Without the performer's name.</param>
    public sealed record Misfit(string Marker, string Reason)
    {
        /// <summary>For a person.</summary>
        public override string ToString() => $"marker '{Marker}': {Reason}";
    }

    /// <param name="take">A labelled take of one performer, names without prefix.</param>
    public static IReadOnlyList<Misfit> Against(MarkerSet set, MarkerTake take)
    {
        var misfits = new List<Misfit>();
        foreach (var m in set.Markers)
        {
            var column = take.IndexOf(m.Name);
            if (column < 0)
            {
                misfits.Add(new Misfit(m.Name, $"it is in the set '{set.Name}' but not in the take"));
            }
            else if (take.VisibleFrames(column) == 0)
            {
                misfits.Add(new Misfit(m.Name, "it is never seen in the take"));
            }
        }

        misfits.AddRange(
            take.Names.Where(n => !MarkerNames.IsUnnamed(n) && set.Find(n) is null)
                .Select(n => new Misfit(n, $"it is in the take but not in the set '{set.Name}'"))
        );
        misfits.AddRange(
            set.Markers.Where(m => take.IndexOf(m.Name) >= 0)
                .GroupBy(m => m.Segment)
                .SelectMany(g => Loose(take, g.Key, [.. g.Select(m => m.Name)]))
        );
        return misfits;
    }

    /// <summary>The marker of a segment that moves against all the others; two markers alone cannot tell which of them it is.</summary>
    private static IEnumerable<Misfit> Loose(MarkerTake take, BodyRole segment, string[] names)
    {
        if (names.Length < 3)
        {
            yield break;
        }

        foreach (var name in names)
        {
            var others = names.Where(n => n != name).ToArray();
            // It strays from all of them, and they keep together without it.
            if (
                others.All(o => Deviation(take, name, o) > Rigid)
                && others.SelectMany((a, i) => others.Skip(i + 1).Select(b => Deviation(take, a, b))).All(d => !(d > Rigid))
            )
            {
                yield return new Misfit(
                    name,
                    $"the set puts it on {segment}, but it moves against {string.Join(", ", others)} by {others.Min(o => Deviation(take, name, o)) * 1000:0} mm"
                );
            }
        }
    }

    /// <summary>
    /// Deviation of the distance of two markers from its median that nine of ten frames keep, metres; NaN when they are hardly seen together.
    /// </summary>
    private static float Deviation(MarkerTake take, string a, string b)
    {
        var lengths = TakeLinks.Lengths(take, take.IndexOf(a), take.IndexOf(b), 400);
        if (lengths.Count < 10)
        {
            return float.NaN;
        }

        var middle = lengths[lengths.Count / 2];
        var off = lengths.ConvertAll(l => MathF.Abs(l - middle));
        off.Sort();
        // A limb that moves for a tenth of the time shows.
        return off[off.Count * 9 / 10];
    }
}
