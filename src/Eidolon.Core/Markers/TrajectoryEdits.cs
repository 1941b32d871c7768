namespace Eidolon.Core.Markers;

/// <summary>Hand-made changes of names and trajectories over a range of frames, both ends inclusive; samples are moved, never changed.</summary>
public static class TrajectoryEdits
{
    /// <summary>Two trajectories trade their samples within a range.</summary>
    /// <exception cref="RefusedException">One of them is not in the take.</exception>
    public static MarkerTake Exchange(MarkerTake take, string a, string b, int from, int to)
    {
        var (i, j) = (Column(take, a), Column(take, b));
        if (i == j)
        {
            throw new RefusedException("two different trajectories can be exchanged");
        }

        var result = take.Copy();
        for (var f = Math.Max(0, from); f <= Math.Min(to, take.FrameCount - 1); f++)
        {
            (result[f, i], result[f, j]) = (take[f, j], take[f, i]);
        }

        return result;
    }

    /// <summary>Takes names off within a range: the samples go to new nameless trajectories.</summary>
    /// <param name="keep">Samples that keep their name: name and frame; none when it is not given.</param>
    /// <returns>The take, and how many trajectories lost samples.</returns>
    public static (MarkerTake Take, int Changed) Unname(
        MarkerTake take,
        Func<string, bool> which,
        int from,
        int to,
        Func<string, int, bool>? keep = null
    )
    {
        (from, to) = (Math.Max(0, from), Math.Min(to, take.FrameCount - 1));
        var columns = Enumerable
            .Range(0, take.MarkerCount)
            .Where(m => !MarkerNames.IsUnnamed(take.Names[m]) && which(take.Names[m]) && SeenWithin(take, m, from, to))
            .ToArray();
        if (columns.Length == 0)
        {
            return (take, 0);
        }

        var result = Wider(take, columns.Length, out var first);
        for (var k = 0; k < columns.Length; k++)
        {
            for (var f = from; f <= to; f++)
            {
                if (keep?.Invoke(take.Names[columns[k]], f) == true)
                {
                    continue;
                }

                result[f, first + k] = take[f, columns[k]];
                result[f, columns[k]] = MarkerTake.Hidden;
            }
        }

        return (result, columns.Length);
    }

    /// <summary>Puts other trajectories in the place of a range of frames; those that share a name go on in one column.</summary>
    public static MarkerTake Splice(MarkerTake take, MarkerTake part, int from)
    {
        string[] names = [.. take.Names, .. part.Names.Except(take.Names)];
        var column = names.Select((n, i) => (n, i)).ToDictionary(x => x.n, x => x.i, StringComparer.Ordinal);
        var (old, add) = (take.Names.Select(n => column[n]).ToArray(), part.Names.Select(n => column[n]).ToArray());
        var result = new MarkerTake(names, take.FrameRate, take.FrameCount) { FirstFrame = take.FirstFrame, Warnings = take.Warnings };
        for (var f = 0; f < take.FrameCount; f++)
        {
            var inside = f >= from && f < from + part.FrameCount;
            var source = inside ? part.At(f - from) : take.At(f);
            for (var m = 0; m < source.Length; m++)
            {
                result[f, (inside ? add : old)[m]] = source[m];
            }
        }

        return result.Only([.. names.Where((n, m) => !MarkerNames.IsUnnamed(n) || result.VisibleFrames(m) > 0)]);
    }

    /// <summary>Cuts a trajectory in two: what comes from a frame on becomes nameless.</summary>
    public static MarkerTake Split(MarkerTake take, string name, int frame)
    {
        var column = Column(take, name);
        if (!SeenWithin(take, column, 0, frame - 1) || !SeenWithin(take, column, frame, take.FrameCount - 1))
        {
            throw new RefusedException($"{name} is not seen on both sides of frame {frame}: there is nothing to split");
        }

        var result = Wider(take, 1, out var added);
        for (var f = frame; f < take.FrameCount; f++)
        {
            result[f, added] = take[f, column];
            result[f, column] = MarkerTake.Hidden;
        }

        return result;
    }

    /// <summary>Removes nameless trajectories with at most so many seen frames.</summary>
    public static (MarkerTake Take, int Removed) DropScraps(MarkerTake take, int longest)
    {
        string[] keep = [.. take.Names.Where((n, m) => !MarkerNames.IsUnnamed(n) || take.VisibleFrames(m) > longest)];
        return keep.Length == take.MarkerCount ? (take, 0) : (take.Only(keep), take.MarkerCount - keep.Length);
    }

    /// <summary>
    /// Joins a trajectory to another: its samples fill the other's hidden frames; where both are seen it wins, and the other's samples keep its
    /// name.
    /// </summary>
    public static MarkerTake Join(MarkerTake take, string name, string into)
    {
        var (column, other) = (Column(take, name), Column(take, into));
        var meet = false;
        for (var f = 0; f < take.FrameCount && !meet; f++)
        {
            meet = MarkerTake.Seen(take[f, column]) && MarkerTake.Seen(take[f, other]);
        }

        // Where nothing met, the dot's own column is left out.
        var n = take.MarkerCount - (meet ? 0 : 1);
        var positions = GC.AllocateUninitializedArray<System.Numerics.Vector3>(n * take.FrameCount);
        for (var f = 0; f < take.FrameCount; f++)
        {
            var row = take.At(f);
            var target = positions.AsSpan(f * n, n);
            if (meet)
            {
                row.CopyTo(target);
            }
            else
            {
                row[..column].CopyTo(target);
                row[(column + 1)..].CopyTo(target[column..]);
            }

            if (MarkerTake.Seen(row[column]))
            {
                target[meet || other < column ? other : other - 1] = row[column];
                if (meet)
                {
                    target[column] = row[other];
                }
            }
        }

        string[] names = [.. take.Names.Where((_, i) => meet || i != column)];
        return new MarkerTake(names, take.FrameRate, take.FrameCount, positions) { FirstFrame = take.FirstFrame, Warnings = take.Warnings };
    }

    /// <summary>The first free number of a nameless dot.</summary>
    public static string FreeDot(IReadOnlyCollection<string> names)
    {
        var known = names.ToHashSet(StringComparer.Ordinal);
        var free = 1;
        while (known.Contains($"Dot_{free:000}"))
        {
            free++;
        }

        return $"Dot_{free:000}";
    }

    private static bool SeenWithin(MarkerTake take, int column, int from, int to)
    {
        for (var f = Math.Max(0, from); f <= Math.Min(to, take.FrameCount - 1); f++)
        {
            if (MarkerTake.Seen(take[f, column]))
            {
                return true;
            }
        }

        return false;
    }

    private static MarkerTake Wider(MarkerTake take, int more, out int first)
    {
        var names = take.Names.ToList();
        first = names.Count;
        for (var k = 0; k < more; k++)
        {
            names.Add(FreeDot(names));
        }

        var result = new MarkerTake(names, take.FrameRate, take.FrameCount) { FirstFrame = take.FirstFrame, Warnings = take.Warnings };
        for (var f = 0; f < take.FrameCount; f++)
        {
            take.At(f).CopyTo(result.At(f));
        }

        return result;
    }

    private static int Column(MarkerTake take, string name) =>
        take.IndexOf(name) is >= 0 and var m ? m : throw new RefusedException($"there is no trajectory '{name}' in the take");
}
